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

/// The pieces of a shot that are seen, as they stand at a time: what shot_at() gives, or a shot in which
/// nothing moves. Surfaces are kept, so that they cost nothing the next time.
std::vector<PicturePiece> picture_pieces(const Shot&);

/// The colour of its material; none where the look says it.
std::optional<Vec3f> color_of(const Shot&, const Piece&);

/// The picture of a frame at any size. `keep_going` is asked now and then; an empty image where it says no.
Image quick_picture(const LitFrame&, const std::vector<PicturePiece>&, const Look&, const Camera&, int width,
                    int height, const std::function<bool()>& keep_going = {});

}  // namespace pour
