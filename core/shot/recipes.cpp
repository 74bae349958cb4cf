#include "shot/recipes.h"

#include "base/error.h"
#include "base/text.h"
#include "base/units.h"

namespace pour {
namespace {

Piece word() {
  Piece p;
  p.id = "word", p.name = "Lettering";
  p.position = {0, Lettering().letter_size / 2 + 0.004, 0};
  return p;
}

/// A piece that only helps.
Piece guide(const char* id, const char* name, Shape shape, const Vec3d& position) {
  Piece p;
  p.id = id, p.name = name, p.shape = std::move(shape), p.position = position;
  p.holds = p.shows = false;
  return p;
}

/// A smoke of this colour, and what pours it.
Pour& add_smoke(Shot& shot, const char* id, const char* name, const Color& color) {
  shot.fluids.push_back({.id = id, .name = name, .color = color});
  shot.pours.push_back({.id = id, .name = name, .fluid = {id}});
  return shot.pours.back();
}

Shot fill_a_word() {
  Shot s;
  s.film.title = "Oddlark, mint lettering";
  s.pieces = {word()};
  Pour& mint = add_smoke(s, "mint", "Mint smoke", Fluid().color);
  mint.windows = {{{1, 96}}}, mint.speed = 0.08, mint.density_rate = 0.13, mint.heat = 20;
  mint.patchiness = 0.8, mint.patch_size = 0.015;
  s.forces.turbulence_speed = 0.06, s.forces.confinement_speed = 0.03;
  s.look.shade = {0.42, 0.72, 0.62};
  s.camera.target = {0, 0.062, 0};
  return s;
}

Shot around_a_word() {
  Shot s;
  s.film.title = "Smoke around a word";
  Piece w = word();
  w.holds = false, w.blocks = true;
  w.position.y = 0.2;
  const Piece ember = guide("ember", "Smoke bowl", Block{{0.6, 0.02, 0.1}}, {0, 0.012, 0});
  s.pieces = {w, ember};
  Pour& pale = add_smoke(s, "pale", "Pale smoke", {0.86, 0.89, 0.93});
  pale.from = SourceKind::piece, pale.source.id = "ember";
  pale.heat = 30, pale.speed = 0.15, pale.direction = Direction::up;
  pale.windows = {{{1, 96}}}, pale.density_rate = 0.007, pale.patchiness = 0.9, pale.patch_size = 0.07;
  s.forces.turbulence_speed = 0.15, s.forces.turbulence_size = 0.15, s.forces.confinement_speed = 0.03;
  s.look.thickness = 8000, s.look.shade = {0.55, 0.62, 0.75}, s.look.key_strength = 0.5,
  s.look.rim_strength = 0.9;
  s.camera.target = {0, 0.24, 0}, s.camera.distance = 1.7;
  return s;
}

Shot rising_smoke() {
  Shot s;
  s.film.title = "Rising smoke";
  s.pieces = {guide("ball", "Seed ball", Ball{0.03}, {0, 0.06, 0})};
  Pour& amber = add_smoke(s, "amber", "Amber smoke", {0.92, 0.66, 0.36});
  amber.from = SourceKind::piece, amber.source.id = "ball";
  amber.heat = 25, amber.speed = 0.05, amber.windows = {{{1, 120}}};
  amber.density_rate = 0.015, amber.patchiness = 0.6, amber.patch_size = 0.04;
  s.forces.turbulence_speed = 0.15, s.forces.turbulence_size = 0.15, s.forces.confinement_speed = 0.03;
  s.look.thickness = 12000, s.look.shade = {0.8, 0.5, 0.25}, s.look.key_strength = 0.5;
  s.run.fit_bounds = false, s.run.bounds_center = {0, 0.28, 0}, s.run.bounds_size = {0.4, 0.56, 0.4};
  s.camera.target = {0, 0.24, 0};
  return s;
}

}  // namespace

const std::vector<Recipe>& recipes() {
  static const std::vector<Recipe> all{
      {"fill-a-word", "Fill a word with smoke", "Each letter is a vessel of glass that fills from its feet.",
       fill_a_word},
      {"around-a-word", "Smoke around a word", "Solid letters stand in rising smoke.", around_a_word},
      {"rising-smoke", "Rising smoke", "A warm ball lets smoke rise freely.", rising_smoke},
  };
  return all;
}

const Recipe& find_recipe(const std::string& key) {
  std::vector<std::string> keys;
  for (const Recipe& r : recipes()) {
    if (r.key == key) return r;
    keys.emplace_back(r.key);
  }
  const std::string near = nearest(key, keys);
  throw usage_fault(
      "Recipe “" + key + "”", "does not exist.",
      near.empty() ? "List them with “easy-pour-cli recipes”." : "Did you mean “" + near + "”?");
}

}  // namespace pour
