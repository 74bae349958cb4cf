// The skins of all liquids of a frame, each as traced pictures show it.
#pragma once
#include <optional>

#include "surface/skin.h"

namespace pour {

struct FluidSkin {
  int fluid = 0;  // its number among the shot's
  Skin skin;      // with the depth of its points where it has bubbles
};

/// The points of one liquid, coloured as it says.
LiquidPoints points_of_fluid(const LiquidPoints&, int fluid, const Fluid&);
/// Whether there are bubbles to be seen in it.
bool has_bubbles(const Shot&, const Fluid&);
/// By the number of the shot's fluids: the colour that all of it has by its material; none where it has its
/// own, or goes by something.
using FluidColors = std::vector<std::optional<Vec3f>>;
FluidColors colors_of_materials(const Shot&);
void color_by_materials(const FluidColors&, LiquidPoints&);
/// Of the shot as it stands at the frame, by the number of their liquids. What lies on something solid goes
/// on into it, so that its skin runs across the surface that it is seen on.
std::vector<FluidSkin> skins_of(const Shot& now, const LiquidPoints&, Mesh solids);

}  // namespace pour
