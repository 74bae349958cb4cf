// What liquids are made of, by name.
#pragma once
#include <span>
#include <string>

#include "shot/value.h"
#include "world/matter.h"

namespace pour {

enum class FluidKind { smoke, liquid };

/// By this the files call them: see named_liquids().
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

/// How far light comes in a liquid: straight through it, taking on its colour; until it is scattered; or it
/// is scattered at its surface.
enum class Clarity { usual, clear, cloudy, opaque };
struct Clearness {
  Clarity clarity = Clarity::clear;
  double depth =
      0.01;  // m: of a clear one, that has its colour; of a cloudy one, from one scattering to the next
  double index = 1.333;  // of refraction
};

struct LiquidName {
  Option option;
  Matter matter;         // at its usual temperature
  double usual = 20;     // °C
  double index = 1.333;  // of refraction
  Color color;           // as it looks in a vessel
  const char* source;    // of the figures
  Clarity clarity = Clarity::clear;
  double depth = 0.01;                               // see Clearness
  double (*viscosity_at)(double celsius) = nullptr;  // Pa·s; null: the same at any temperature
};

/// By NamedLiquid; the last one is the artist's own.
std::span<const LiquidName> named_liquids();
/// Their options, for tables.
std::span<const Option> liquid_options();

/// “as thick as water”, “60 times as thick as oil”, of a viscosity in Pa·s.
std::string thickness_in_words(double viscosity);

}  // namespace pour
