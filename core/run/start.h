// Going on from a frame of an earlier run, with another shot: pours stopped, moved or replaced.
#pragma once
#include "run/flow.h"
#include "run/run_folder.h"

namespace pour {

/// Of “2:48” or “002:48”. Throws Fault (Blame::usage).
RunStart start_from_text(const std::string&);
/// Whether a run can begin where it says. Throws Fault (Blame::shot) where the earlier run, its frame or
/// its records are missing, or where fluids, cells or the time of the frame are others.
void check_start(const Run&);
/// The frames up to there become frames of this run too, with their records.
void take_over_frames(Run&);
/// Brings the flows to where they were: to the bit from the earlier run's checkpoint, where that is of this
/// frame; otherwise as far as the frame's file knows (Flow::begin_from). Tells `notice` where the earlier
/// run's last frame has no checkpoint that could be read: what follows then is not the same to the bit.
void begin_from_start(const Run&, const std::vector<std::unique_ptr<Flow>>&,
                      const std::function<void(const std::string&)>& notice = {});

}  // namespace pour
