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

struct SimulateOptions {
  bool resume = false;                            // go on from the checkpoint
  std::function<void(const Progress&)> on_frame;  // after each frame
  std::function<bool()> stop;                     // asked between frames
};

/// Computes the frames of `run` up to its last one, storing each that is at or after its first. The run
/// is saved as done, or as stopped with a checkpoint where `stop` said so. A Fault leaves it saved as
/// failed, with all whole frames kept.
void simulate(Run& run, const SimulateOptions&);

}  // namespace pour
