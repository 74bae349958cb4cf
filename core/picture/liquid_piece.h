// The liquid of a frame as a piece of its picture.
#pragma once
#include "frames/liquid_frame.h"
#include "picture/layers.h"
#include "picture/quantity.h"
#include "surface/fluid_skins.h"

namespace pour {

/// The highest value of a quantity in the liquid of a frame; 0 where liquid has none.
double most_of(const LiquidPoints&, Quantity);
/// Adds the liquid of a frame: in its own colours, or in those of how fast or old it is, with `most` for the
/// lightest of them. Where there are very many points, only every n-th is shown, larger; returns n, 1 for the
/// skin.
int add_liquid_piece(std::vector<PicturePiece>&, const LiquidPoints&, const SkinSettings&, const Showing&,
                     double most);

/// Adds skins that were made before, in the colours that they have.
void add_skin_pieces(std::vector<PicturePiece>&, std::vector<FluidSkin>);

}  // namespace pour
