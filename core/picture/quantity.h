// Smoke and liquid coloured by what they do: a quantity in place of their own colour and light.
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
/// By Quantity; `none` is what it looks like.
constexpr QuantityName quantity_names[] = {{"smoke", "As it looks", Unit::none, true, true},
                                           {"density", "Density", Unit::density, true, false},
                                           {"speed", "Speed", Unit::speed, true, true},
                                           {"warmth", "Warmth", Unit::warmth, true, false},
                                           {"age", "Age", Unit::time, false, true},
                                           {"thickness", "Thickness", Unit::length, false, true},
                                           {"liquid", "Which liquid", Unit::none, false, true}};

/// How a frame is shown: in the colours of a quantity, liquid by its skin or by its points.
struct Showing {
  Quantity quantity = Quantity::none;
  double point_size = 0;  // their radius in cells; 0: the skin
  bool operator==(const Showing&) const = default;
};
/// Sizes of points to choose from.
constexpr double small_points = 0.18, large_points = 0.36;

/// The colour of a value from 0, none, to 1, most: dark blue over green to yellow, each lighter than the one
/// before it, so that it reads without colours too.
Color ramp(double value);
/// The colour of one of the shot's fluids where they are told apart, by its number.
Color color_of_number(int number);

/// Whether reading a frame for it needs its flow too.
constexpr bool needs_flow(Quantity q) { return q == Quantity::speed || q == Quantity::warmth; }

/// A frame of a run in those colours, without its smoke where smoke has no such quantity, read with its flow
/// where needs_flow() says so. The lightest stands for `most`, which grows to the highest value where the
/// smoke has more than a hundredth of its highest density.
LitFrame coloured_frame(std::vector<SmokeVolume> frame, Quantity, const Look&, const SmokeWalls&, double time,
                        double& most);

/// Even light before plain grey, in which colours are what they are; smoke is as dense as in `like`.
Look plain_look(const Look& like);

}  // namespace pour
