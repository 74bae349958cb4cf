// The liquid of a frame as a piece of its picture.
#pragma once
#include "frames/liquid_frame.h"
#include "picture/layers.h"
#include "picture/quantity.h"
#include "surface/fluid_skins.h"

namespace pour {

/// A quantity at each point of the liquid of a frame; none where liquid has no such quantity.
std::vector<float> values_of(const LiquidPoints&, Quantity);
/// The highest of them; 0 where there are none.
double most_of(const std::vector<float>& values);
/// Adds the liquid of a frame: in its own colours, or in those of the values that its quantity has, with
/// `most` for the lightest of them. Where there are very many points, only every n-th is shown, larger;
/// returns n, 1 for the skin.
int add_liquid_piece(std::vector<PicturePiece>&, const LiquidPoints&, const SkinSettings&, const Showing&,
                     const std::vector<float>& values, double most);

/// Adds skins that were made before, in the colours that they have or get from their materials.
void add_skin_pieces(std::vector<PicturePiece>&, std::vector<FluidSkin>, const FluidColors&);

}  // namespace pour
