// The skins of a run, made once for all pictures of it.
#pragma once
#include <functional>

#include "run/run_folder.h"

namespace pour {

struct SkinsMade {
  int made = 0, current = 0;  // frames
  bool whole = true;          // false: it was stopped
};
/// Makes and keeps those of a range of frames that are not there yet, one after the other. `progress` is told
/// how many frames are done and returns whether to go on; those that are done stay. Throws Fault
/// (Blame::shot) where frames are missing or torn, (Blame::machine) where the disk is full.
SkinsMade make_skins(const Run&, const Shot& look_of, const FrameRange&,
                     const std::function<bool(int done, int of)>& progress = {});

}  // namespace pour
