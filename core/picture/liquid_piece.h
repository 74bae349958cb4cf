// The liquid of a frame as a surface for quick pictures.
#pragma once
#include "frames/liquid_frame.h"
#include "picture/layers.h"
#include "picture/quantity.h"
#include "surface/fluid_skins.h"

namespace pour {

/// A quantity at each point of a frame's liquid; empty if liquid does not have it.
std::vector<float> values_of(const LiquidPoints&, Quantity);
/// The highest value; 0 if empty.
double most_of(const std::vector<float>& values);
/// Adds the liquid of a frame in its own colours, or in false colours of a quantity with `most` as the
/// highest value. With very many points, only every n-th is shown, larger; returns n, or 1 for a skin.
int add_liquid_piece(std::vector<PicturePiece>&, const LiquidPoints&, const SkinSettings&, const Showing&,
                     const std::vector<float>& values, double most);

/// Adds finished skins in their own colours or those of their materials.
void add_skin_pieces(std::vector<PicturePiece>&, std::vector<FluidSkin>, const FluidColors&);

}  // namespace pour
