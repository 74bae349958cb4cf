// Continuing from a frame of an earlier run with a changed shot.
#pragma once
#include "run/flow.h"
#include "run/run_folder.h"

namespace pour {

/// Reads “2:48” or “002:48”. Throws Fault (Blame::usage).
RunStart start_from_text(const std::string&);
/// Checks that a run can start there. Throws Fault (Blame::shot) if the earlier run, its frame or its records
/// are missing, or if fluids, cells or the frame's time differ.
void check_start(const Run&);
/// Links the frames up to there into this run, with their records.
void take_over_frames(Run&);
/// Restores the flows: to the bit from the earlier run's checkpoint if it is of this frame, otherwise from
/// the frame's file (Flow::begin_from). Reports to `notice` if that checkpoint could not be read, because the
/// continuation then differs from an uninterrupted run.
void begin_from_start(const Run&, const std::vector<std::unique_ptr<Flow>>&,
                      const std::function<void(const std::string&)>& notice = {});

}  // namespace pour
