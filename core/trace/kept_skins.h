// Skins of a frame, cached as RUN/skins/000012.ply (surface/skin_file.h).
#pragma once
#include "frames/stored.h"
#include "surface/fluid_skins.h"

namespace pour {

struct PicturePiece;

/// The solid pieces of a picture. Vessels are thin glass and do not count.
Mesh solids_of(const Shot& now, const std::vector<PicturePiece>&);

/// The file of a frame's skins.
std::filesystem::path skins_file(const StoredFrame&);
/// Whether it holds skins of this frame and shot, as far as surface, liquids and set are concerned. Reads the
/// header only.
bool has_skins(const StoredFrame&, const Shot&, double frame);
/// The cached skins; nothing if has_skins() is false or the file is damaged.
std::optional<std::vector<FluidSkin>> kept_skins(const StoredFrame&, const Shot&, double frame);

/// Makes and caches them. Throws Fault: Blame::shot if the frame cannot be read, Blame::machine if the disk
/// is full.
void keep_skins(const StoredFrame&, const Shot&, double frame);

}  // namespace pour
