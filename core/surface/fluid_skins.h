// The skins of all liquids of a frame, as traced pictures show them.
#pragma once
#include <optional>

#include "surface/skin.h"

namespace pour {

struct FluidSkin {
  int fluid = 0;  // index of the shot's fluid
  Skin skin;      // with the depth of its points if it has bubbles
};

/// The liquid with this number; water where the shot has none.
Liquid liquid_of(const Shot&, int number);
/// The points of one liquid, with its colours.
LiquidPoints points_of_fluid(const LiquidPoints&, int fluid, const Liquid&);
/// Whether it shows bubbles.
bool has_bubbles(const Shot&, const Liquid&);
/// By index of the shot's fluid: the single colour given by its material, or nothing if its colour varies.
using FluidColors = std::vector<std::optional<Vec3f>>;
FluidColors colors_of_materials(const Shot&);
void color_by_materials(const FluidColors&, LiquidPoints&);
/// The skins of a frame, by index of the fluid. Liquid that touches a solid is continued into it, so that the
/// skin meets the visible surface.
std::vector<FluidSkin> skins_of(const Shot& now, const LiquidPoints&, Mesh solids);

}  // namespace pour
