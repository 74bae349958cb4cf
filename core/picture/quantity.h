// False colours: quantities of smoke and liquid in place of their colour and light.
#pragma once
#include "base/units.h"
#include "picture/lit_smoke.h"

namespace pour {

enum class Quantity { none, density, speed, warmth, age, thickness, liquid };
struct QuantityName {
  const char *key, *name;
  Unit unit;
  bool of_smoke, of_liquid;
};
/// By Quantity; `none` is the normal look.
constexpr QuantityName quantity_names[] = {{"smoke", "As it looks", Unit::none, true, true},
                                           {"density", "Density", Unit::density, true, false},
                                           {"speed", "Speed", Unit::speed, true, true},
                                           {"warmth", "Warmth", Unit::warmth, true, false},
                                           {"age", "Age", Unit::time, false, true},
                                           {"thickness", "Thickness", Unit::length, false, true},
                                           {"liquid", "Which liquid", Unit::none, false, true}};

/// View of a frame: quantity, and liquid as skin or points.
struct Showing {
  Quantity quantity = Quantity::none;
  double point_size = 0;  // radius in cells; 0: skin
  bool operator==(const Showing&) const = default;
};
/// Sizes of points to choose from.
constexpr double small_points = 0.18, large_points = 0.36;

/// The colour of a value from 0 to 1: dark blue over green to yellow, with rising lightness, so that it reads
/// in grey too.
Color ramp(double value);
/// Distinct colour for a fluid, by its index.
Color color_of_number(int number);

/// Whether it needs a frame's velocity and warmth.
constexpr bool needs_flow(Quantity q) { return q == Quantity::speed || q == Quantity::warmth; }

/// A frame in false colours, without smoke if smoke lacks the quantity; read with velocity if needs_flow().
/// The lightest colour stands for `most`, which is raised to the highest value where density exceeds a
/// hundredth of its maximum.
LitFrame coloured_frame(std::vector<SmokeVolume> frame, Quantity, const Look&, const SmokeWalls&, double time,
                        double& most);

/// Even light before plain grey, so that colours are true; smoke has the extinction of `like`.
Look plain_look(const Look& like);

}  // namespace pour
