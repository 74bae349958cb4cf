// The frame loop: from a run folder to its frames.
#pragma once
#include <functional>

#include "run/run_folder.h"

namespace pour {

struct Progress {
  int frame = 0, last_frame = 0;  // frame just written
  double seconds_left = 0;
  FrameRecord record;
};

/// Seconds left of a run, from the time its frames took, their estimates, and the estimates of the remaining
/// frames. The estimate dominates at first, the measurement later.
double seconds_left(double took, double expected, double expected_left);

struct SimulateOptions {
  /// Continue from the run's checkpoint, or else from the first frame. Missing or damaged frames are computed
  /// again, whole ones stay.
  bool resume = false;
  std::function<void(const Progress&)> on_frame;           // after each frame
  std::function<void(const std::string& text)> on_notice;  // for the user, once
  std::function<bool()> stop;                              // polled before each step
  Pace pace = {};                                          // of earlier runs, for time estimates
};

/// Throws Fault if the shot cannot be run on this machine: as Scene throws, or for lack of memory.
void check_can_run(const Shot&);

/// Computes the frames of `run` to its last and stores them from its first. Locks the folder meanwhile. The
/// run is saved as done, or as stopped with a checkpoint if `stop` ended it. A Fault saves it as failed and
/// keeps all whole frames.
void simulate(Run& run, const SimulateOptions&);

}  // namespace pour
