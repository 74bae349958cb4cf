// The skins of a run, made once and kept beside its frames: RUN/skins/000012.ply (surface/skin_file.h).
#pragma once
#include <functional>

#include "frames/stored.h"
#include "run/run_folder.h"
#include "surface/fluid_skins.h"

namespace pour {

struct PicturePiece;

/// What stands solid in a picture: all but what holds, which is of glass as thin as one likes.
Mesh solids_of(const Shot& now, const std::vector<PicturePiece>&);

/// Where those of a frame are kept.
std::filesystem::path skins_file(const StoredFrame&);
/// Whether they are kept there, made from this frame and this shot, of which only the surface, the liquids
/// and the set count. Reads the first lines of the file.
bool has_skins(const StoredFrame&, const Shot&, double frame);
/// Those that are kept; none where has_skins() is false or their file is torn.
std::optional<std::vector<FluidSkin>> kept_skins(const StoredFrame&, const Shot&, double frame);

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
