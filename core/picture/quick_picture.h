// The quick picture: lit smoke, glass and solid pieces in a studio, by ray marching. The view in the
// window draws the same on the graphics card.
#pragma once
#include <functional>
#include <vector>

#include "picture/image.h"
#include "picture/layers.h"
#include "picture/lit_smoke.h"
#include "picture/quantity.h"

namespace pour {

/// The visible pieces of a shot without tracks, as from shot_at(). Surfaces are cached.
std::vector<PicturePiece> picture_pieces(const Shot&);

/// The colour of its material; nothing if the look sets it.
std::optional<Vec3f> color_of(const Shot&, const Piece&);

/// Renders a frame at any size. `keep_going` is polled; returns an empty image if it says no.
Image quick_picture(const LitFrame&, const std::vector<PicturePiece>&, const Look&, const Camera&, int width,
                    int height, const std::function<bool()>& keep_going = {});

}  // namespace pour
