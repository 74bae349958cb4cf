// What pieces are made of: how light goes with them.
#pragma once
#include <span>
#include <string>

#include "shot/track.h"

namespace pour {

/// By this the files call them: see named_materials().
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

/// One that pieces of a shot are made of.
struct Material {
  std::string id, name;
  NamedMaterial kind = NamedMaterial::stoneware;
  Color color{0.5, 0.45, 0.38};
  double roughness = 0.4, index = 1.5;  // as in MaterialName
  // How high the bumps of its surface are, and how far from one to the next, m of the piece. They turn its
  // normals, not its outline.
  double relief = 0, relief_size = 0.004;
  Tracks tracks;
  bool operator==(const Material&) const = default;
  Substance substance() const;
};
/// Of a kind, with its usual figures.
Material new_material(NamedMaterial);

/// By NamedMaterial; figures are typical, from memory.
std::span<const MaterialName> named_materials();
/// Their options, for tables.
std::span<const Option> material_options();

}  // namespace pour
