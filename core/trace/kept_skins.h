// The skins of a frame, made once and kept beside it: RUN/skins/000012.ply (surface/skin_file.h).
#pragma once
#include "frames/stored.h"
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

/// Makes and keeps them. Throws Fault (Blame::shot) where the frame can't be read, (Blame::machine) where the
/// disk is full.
void keep_skins(const StoredFrame&, const Shot&, double frame);

}  // namespace pour
