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

struct LiquidName {
  Option option;
  Matter matter;                                     // at its usual temperature
  double usual = 20;                                 // °C
  double index = 1.333;                              // of refraction
  Color color;                                       // of a layer about a centimetre thick, before white
  const char* source;                                // of the figures
  double (*viscosity_at)(double celsius) = nullptr;  // Pa·s; null: the same at any temperature
};

/// By NamedLiquid; the last one is the artist's own.
std::span<const LiquidName> named_liquids();
/// Their options, for tables.
std::span<const Option> liquid_options();

/// “as thick as water”, “60 times as thick as oil”, of a viscosity in Pa·s.
std::string thickness_in_words(double viscosity);

}  // namespace pour
