// Makes the skins of a run, once for all its pictures.
#pragma once
#include <functional>

#include "run/run_folder.h"

namespace pour {

struct SkinsMade {
  int made = 0, current = 0;  // frames
  bool whole = true;          // false: stopped
};
/// Makes the missing skins of a range of frames. `progress` gets the number of frames done and returns
/// whether to continue; finished skins are kept. Throws Fault: Blame::shot for missing or damaged frames,
/// Blame::machine for a full disk.
SkinsMade make_skins(const Run&, const Shot& look_of, const FrameRange&,
                     const std::function<bool(int done, int of)>& progress = {});

}  // namespace pour
