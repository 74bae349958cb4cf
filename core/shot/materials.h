// What pieces are made of, by name: how light goes with them.
#pragma once
#include <span>

#include "shot/value.h"

namespace pour {

/// By this the files call them: see named_materials().
enum class NamedMaterial {
  as_look,
  stoneware,
  porcelain,
  clay,
  paper,
  plastic,
  lacquer,
  chrome,
  brushed_metal,
  glass,
  frosted_glass
};

/// What light does at a surface: it is scattered on all sides, the same under a clear coat that mirrors,
/// mirrored by metal, or goes through.
enum class Substance { matte, coated, metal, glass };

struct MaterialName {
  Option option;
  Substance substance;
  double roughness = 0;  // square root of the width of its microfacets (GGX), 0 to 1
  double index = 1.5;    // of refraction, of the coat or of glass
  Color color;           // usual, linear
};

/// By NamedMaterial; figures are typical, from memory.
std::span<const MaterialName> named_materials();
/// Their options, for tables.
std::span<const Option> material_options();

}  // namespace pour
