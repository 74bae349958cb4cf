#include "shot/materials.h"

#include <array>
#include <vector>

namespace pour {

std::span<const MaterialName> named_materials() {
  using enum Substance;
  static const std::array all{
      MaterialName{{"stoneware", "stoneware"}, coated, 0.4, 1.5, {0.5, 0.45, 0.38}},
      MaterialName{{"porcelain", "porcelain"}, coated, 0.1, 1.52, {0.8, 0.78, 0.74}},
      MaterialName{{"clay", "clay"}, matte, 1, 1.5, {0.45, 0.2, 0.11}},
      MaterialName{{"paper", "paper"}, matte, 1, 1.5, {0.75, 0.72, 0.66}},
      MaterialName{{"plastic", "plastic"}, coated, 0.3, 1.49, {0.6, 0.6, 0.58}},
      MaterialName{{"lacquer", "lacquer"}, coated, 0.06, 1.5, {0.3, 0.02, 0.02}},
      MaterialName{{"chrome", "chrome"}, metal, 0.08, 1.5, {0.55, 0.556, 0.554}},
      MaterialName{{"brushed_metal", "brushed metal"}, metal, 0.45, 1.5, {0.75, 0.74, 0.72}},
      MaterialName{{"glass", "glass"}, glass, 0, 1.52, {0.95, 0.98, 0.97}},
      MaterialName{{"frosted_glass", "frosted glass"}, glass, 0.4, 1.52, {0.95, 0.98, 0.97}}};
  return all;
}

Substance Material::substance() const { return named_materials()[size_t(kind)].substance; }

Material new_material(NamedMaterial kind) {
  const MaterialName& usual = named_materials()[size_t(kind)];
  return {.kind = kind, .color = usual.color, .roughness = usual.roughness, .index = usual.index};
}

std::span<const Option> material_options() {
  static const std::vector<Option> all = [] {
    std::vector<Option> out;
    for (const MaterialName& m : named_materials()) out.push_back(m.option);
    return out;
  }();
  return all;
}

}  // namespace pour
