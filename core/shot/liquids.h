// Named liquids and their properties.
#pragma once
#include <span>
#include <string>

#include "shot/value.h"
#include "world/matter.h"

namespace pour {

/// Index into named_liquids(), whose keys files use.
enum class NamedLiquid {
  water,
  tea,
  milk,
  oat_milk,
  coffee,
  wine,
  oil,
  cream,
  honey,
  syrup,
  ketchup,
  yoghurt,
  chocolate,
  caramel,
  paint,
  glycerine,
  shampoo,
  own
};

/// How light passes a liquid: straight through it, taking on its colour; scattered inside; or scattered at
/// the surface.
enum class Clarity { usual, clear, cloudy, opaque };
struct Clearness {
  Clarity clarity = Clarity::clear;
  double depth = 0.01;   // m: thickness that shows the full colour (clear), or mean free path (cloudy)
  double index = 1.333;  // of refraction
};

struct LiquidName {
  Option option;
  Matter matter;         // at its usual temperature
  double usual = 20;     // °C
  double index = 1.333;  // of refraction
  Color color;           // as seen in a vessel
  const char* source;    // of the figures
  Clarity clarity = Clarity::clear;
  double depth = 0.01;                               // see Clearness
  double (*viscosity_at)(double celsius) = nullptr;  // Pa·s; null: independent of temperature
};

/// By NamedLiquid; the last one is the artist's own.
std::span<const LiquidName> named_liquids();
/// Their options, for tables.
std::span<const Option> liquid_options();

/// A viscosity (Pa·s) in words: “as thick as water”, “60 times as thick as oil”.
std::string thickness_in_words(double viscosity);

}  // namespace pour
