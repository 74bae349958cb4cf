// The frame loop: from a run folder to its frames.
#pragma once
#include <functional>

#include "run/run_folder.h"

namespace pour {

struct Progress {
  int frame = 0, last_frame = 0;  // the frame that was just written
  double seconds_left = 0;
  FrameRecord record;
};

/// Seconds that are left of a run, from what its frames so far took, what they were expected to take, and
/// what is expected of the others. At first the expectation counts, in the end the run alone.
double seconds_left(double took, double expected, double expected_left);

struct SimulateOptions {
  /// Go on: from the checkpoint where it belongs to this run, otherwise from the first frame. Frames that are
  /// missing or torn are computed again, whole ones stay.
  bool resume = false;
  std::function<void(const Progress&)> on_frame;           // after each frame
  std::function<void(const std::string& text)> on_notice;  // what somebody should know, once
  std::function<bool()> stop;                              // asked before each step
  Pace pace = {};                                          // of earlier runs, for the time left
};

/// Throws Fault where the shot can't be run on this machine: what Scene throws, or too little memory.
void check_can_run(const Shot&);

/// Computes the frames of `run` up to its last one, storing each that is at or after its first. The folder
/// is locked meanwhile. The run is saved as done, or as stopped with a checkpoint where `stop` said so. A
/// Fault leaves it saved as failed, with all whole frames kept.
void simulate(Run& run, const SimulateOptions&);

}  // namespace pour
