// A liquid with a free surface.
#pragma once
#include <string>

#include "shot/liquids.h"
#include "shot/setting.h"

namespace pour {

/// What a liquid's colour depends on; depth is its local thickness (local_thickness.h).
enum class ColorBy { itself, speed, age, depth };

struct Liquid {
  Color color{0.55, 0.87, 0.74};
  NamedLiquid named = NamedLiquid::water;
  double temperature = 20;  // °C
  Matter own;               // where named == own
  double longest_life = 0;  // s; 0: for ever
  double liveliness = 0;    // share of sub-cell motion that is kept
  double mixes_in = 0;      // time in which a colour difference halves, s; 0: never
  bool opens = false;       // where it is pulled apart
  Clarity clarity = Clarity::usual;
  double depth = 0.01;  // where clarity is clear or cloudy, m
  MaterialId material;  // replaces its clarity; none: its own look
  ColorBy color_by = ColorBy::itself;
  Color far_color{0.9, 0.9, 0.9};                       // at full speed, age or thickness
  double far_speed = 1, far_age = 2, far_depth = 0.02;  // m/s, s, m
  double bubbles = 0;                                   // share of its volume
  double bubble_size = 0.002;                           // of the largest, across, m
  bool operator==(const Liquid&) const = default;

  static constexpr Option kind{"liquid", "Liquid"};
  static constexpr FlowKind flow = FlowKind::liquid;
  static constexpr const char* usual_name = "Water";
  static constexpr double usual_patchiness = 0;

  std::string sentence() const;
  static Liquid added();
  static Table<Liquid> settings();
};

/// Density, viscosity and tension at its temperature.
Matter matter_of(const Liquid&);
/// How light passes through it without a material; never `usual`.
Clearness clearness_of(const Liquid&);
/// Whether light passes straight through it in this shot.
bool is_see_through(const Shot&, const Liquid&);

}  // namespace pour
