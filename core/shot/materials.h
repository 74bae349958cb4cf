// Materials of pieces: how their surfaces reflect and transmit light.
#pragma once
#include <span>
#include <string>

#include "shot/track.h"

namespace pour {

/// Index into named_materials(), whose keys files use.
enum class NamedMaterial {
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

/// Type of surface: diffuse, diffuse under a clear coat, metal, or glass.
enum class Substance { matte, coated, metal, glass };

struct MaterialName {
  Option option;
  Substance substance;
  double roughness = 0;  // square root of the width of its microfacets (GGX), 0 to 1
  double index = 1.5;    // of refraction, of the coat or of glass
  Color color;           // usual, linear
};

/// A material of a shot.
struct Material {
  std::string id, name;
  NamedMaterial kind = NamedMaterial::stoneware;
  Color color{0.5, 0.45, 0.38};
  double roughness = 0.4, index = 1.5;  // as in MaterialName
  // Height and spacing of bumps, m. They turn the normals and leave the outline as it is.
  double relief = 0, relief_size = 0.004;
  Tracks tracks;
  bool operator==(const Material&) const = default;
  Substance substance() const;
};
/// A material of a kind with its usual values.
Material new_material(NamedMaterial);

/// By NamedMaterial; figures are typical, from memory.
std::span<const MaterialName> named_materials();
/// Their options, for tables.
std::span<const Option> material_options();

}  // namespace pour
