// Quantities as people write them, "12cm", "1/3", "0.25 l", "2.4 g/m3/s", and their SI values.
#pragma once
#include <string>
#include <string_view>
#include <vector>

namespace pour {

enum class Unit {
  none,          // a plain number
  percent,       // 1 = 100 %
  length,        // m
  time,          // s
  speed,         // m/s
  acceleration,  // m/s²
  warmth,        // K above the surrounding air
  density,       // kg/m³
  density_rate,  // kg/(m³·s)
  angle,         // rad
  spin,          // rad/s
  rate,          // 1/s
  area_by_mass,  // m²/kg
  frames,        // a whole number of frames
  focal,         // m, shown in mm
  volume,        // m³, shown in ml
  volume_rate,   // m³/s, shown in ml/s
  mass_density,  // kg/m³, of liquids
  viscosity,     // Pa·s
  tension,       // N/m
  pressure,      // Pa
  kelvin,        // K, of the light of a black body
};

/// Reads a quantity as SI. A number without a unit is in the default unit (for lengths: cm). Fractions
/// ("1/3"), suffixes and spaces are allowed. Throws Fault (Blame::shot) that lists the accepted units.
double parse_quantity(std::string_view text, Unit unit, const std::string& where);

/// An SI value as text in a convenient unit: 0.012 m -> "1.2 cm". Up to `digits` significant digits.
std::string format_quantity(double si, Unit unit, int digits = 3);

/// Number and suffix apart, for fields that show the unit in another colour.
struct Shown {
  std::string number, suffix;
};
Shown show_quantity(double si, Unit unit, int digits = 3);

/// Suffixes accepted for a unit, default first.
std::vector<std::string> suffixes(Unit unit);

/// A time span for people: "41 s", "3 min", "2 h 10 min".
std::string format_duration(double seconds);
/// "4.6 GB", powers of ten.
std::string format_bytes(double bytes);
/// 1234567 -> "1.23 M".
std::string format_count(double n);

}  // namespace pour
