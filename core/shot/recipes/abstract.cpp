// Recipes: abstract fluid.
#include "shot/recipes/all.h"

#include "base/error.h"
#include "base/text.h"

namespace pour::recipe {

Shot rising_smoke(const std::string&) {
  Shot s;
  s.film.title = "Rising smoke";
  s.pieces = {guide("ball", "Seed ball", Ball{0.03}, {0, 0.06, 0})};
  Pour& amber = add_smoke(s, "amber", "Amber smoke", {0.92, 0.66, 0.36});
  amber.from = SourceKind::piece, amber.source.id = "ball";
  amber.heat = 25, amber.speed = 0.05, amber.windows = {{{0, 5}}};
  amber.density_rate = 0.015, amber.patchiness = 0.6, amber.patch_size = 0.04;
  first_of<Turbulence>(s.forces).speed = 0.15, first_of<Turbulence>(s.forces).size = 0.15,
  first_of<Confinement>(s.forces).speed = 0.03;
  s.look.thickness = 14000, s.look.shade = {0.8, 0.5, 0.25}, s.look.light("key").strength = 0.9,
  s.look.light("room").strength = 0.108;
  s.look.light("rim").strength = 1.7, s.look.glow = 0.4;
  s.run.fit_bounds = false, s.run.bounds_center = {0, 0.28, 0}, s.run.bounds_size = {0.4, 0.56, 0.4};
  s.camera.target = {0, 0.24, 0};
  return s;
}

Shot two_pears(const std::string&) {
  Shot s;
  s.film.title = "Oddlark, two pears", s.film.frames = 96;
  Turned pear;
  pear.full = true;
  pear.profile = {{{0, 0, 0},
                   {0.026, 0.008, 0},
                   {0.037, 0.032, 0},
                   {0.03, 0.06, 0},
                   {0.018, 0.084, 0},
                   {0.013, 0.1, 0},
                   {0, 0.108, 0}}};
  Piece milk = guide("milk_pear", "Pear of oat milk", pear, {-0.125, 0.075, 0});
  Piece smoke = guide("smoke_pear", "Pear of smoke", pear, {0.105, 0.012, 0});
  milk.turn = {0, 0, 14 * degree}, smoke.turn = {0, 0, -14 * degree};
  Turned tray;
  tray.wall = 0.008;
  tray.profile = {{{0, 0, 0}, {0.066, 0.001, 0}, {0.095, 0.013, 0}, {0.112, 0.04, 0}, {0.117, 0.075, 0}}};
  Piece dish = solid("dish", "Bowl", tray, {-0.115, 0.006, 0});
  made_of(s, dish, "glaze", "Green glaze", NamedMaterial::porcelain, {0.16, 0.24, 0.22});
  Turned round;
  round.full = true,
  round.profile = {{{0, 0, 0}, {0.086, 0, 0}, {0.088, 0.004, 0}, {0.086, 0.008, 0}, {0, 0.008, 0}}};
  Piece lid = solid("lid", "Lid", round, {0.11, 0.225, 0});
  made_of(s, lid, "copper", "Brushed copper", NamedMaterial::brushed_metal, {0.72, 0.4, 0.26});
  s.pieces = {milk, smoke, dish, lid};
  Pour& falls = add_liquid(s, "milk", NamedLiquid::oat_milk, "milk_pear");
  falls.windows = {}, falls.fill_at.time = 0;
  s.run.detail = Detail::custom, s.run.cell_size = 0.0035;
  Pour& rises = add_smoke(s, "smoke", "Pear smoke", {0.93, 0.80, 0.38});
  rises.from = SourceKind::piece, rises.source.id = "smoke_pear";
  rises.windows = {}, rises.fill_at.time = 0, rises.density = 0.012, rises.heat = 30, rises.patchiness = 0.4;
  first_of<Turbulence>(s.forces).speed = 0.05, first_of<Confinement>(s.forces).speed = 0.03;
  s.look.thickness = 14000, s.look.shade = {0.9, 0.72, 0.42}, s.look.solid = {0.2, 0.22, 0.2};
  s.look.backdrop_color = {0.2, 0.29, 0.25}, s.look.light("key").strength = 0.75,
  s.look.light("room").strength = 0.12, s.look.light("rim").strength = 0.9, s.look.exposure = 0.35;
  s.camera.target = {-0.01, 0.11, 0}, s.camera.distance = 0.84, s.camera.elevation = 16 * degree;
  return s;
}

/// Drops of syrup, weightless, are drawn together into a ball, which a push then opens.
Shot ball_opens(const std::string&) {
  Shot s;
  s.film.title = "A ball of syrup opens", s.film.frames = 120;
  const Vec3d middle{0, 0.14, 0};
  constexpr int drops = 6;
  for (int k = 0; k < drops; ++k) {
    const double angle = 2 * std::numbers::pi * k / drops, high = k % 2 ? 0.035 : -0.035;
    const Vec3d at = middle + Vec3d{0.115 * std::cos(angle), high, 0.115 * std::sin(angle)};
    s.pieces.push_back(guide(("drop_" + std::to_string(k + 1)).c_str(),
                             filled("Drop {number}", {{"number", std::to_string(k + 1)}}).c_str(),
                             Ball{0.019 + 0.004 * (k % 3)}, at));
  }
  add_liquid(s, "syrup", NamedLiquid::own, "drop_1");
  Liquid& syrup = last_liquid(s);
  s.fluids.back().name = "Pear syrup", syrup.own = {1320, 0.35, 0, 1, 0.06}, syrup.opens = true;
  syrup.clarity = Clarity::clear, syrup.depth = 0.02;
  syrup.color = {0.807, 0.305, 0.027}, syrup.color_by = ColorBy::speed;
  syrup.far_color = {0.95, 0.75, 0.25}, syrup.far_speed = 0.5;
  const Pour first = s.pours.back();
  s.pours.clear();
  for (const Piece& drop : s.pieces) {
    Pour p = first;
    p.id = "from_" + drop.id, p.name = drop.name, p.source.id = drop.id;
    p.windows = {}, p.fill_at.time = 0, p.rate = 0, p.speed = 0;
    s.pours.push_back(p);
  }
  first_of<Gravity>(s.forces).strength = 0;
  Force& draw =
      add_force(s, "draw", "Draw together", Pull{.strength = 4, .position = middle, .softening = 0.004});
  draw.reach = Reach::Shape::ball, draw.reach_outside = true, draw.reach_position = middle;
  draw.reach_radius = 0.05, draw.soft_edge = 0.03;
  add_force(s, "calm", "Calm", Drag{.half_time = 0.25});
  Force& turn = add_force(
      s, "turn", "Turn",
      Swirl{.spin = std::numbers::pi, .position = middle, .direction = {0.2, 1, 0}, .response = 0.5});
  turn.always = false, turn.windows = {{{at_frame(30), at_frame(122)}}};
  Force& open = add_force(s, "open", "Open", Pull{.strength = -5, .position = middle, .softening = 0.004});
  open.reach = Reach::Shape::ball, open.reach_position = middle, open.reach_radius = 0.05,
  open.soft_edge = 0.03;
  open.always = false, open.windows = {{{at_frame(64), at_frame(122)}}};
  s.run.detail = Detail::custom, s.run.cell_size = 0.002;
  s.look.lights = light_sets()[2].make();
  s.look.backdrop_color = {0.584, 0.456, 0.262}, s.look.floor = false, s.look.halo = 0.05;
  s.surface.smallest = 0.012;
  s.camera.target = middle, s.camera.elevation = 27 * degree, s.camera.f_number = 11;
  s.camera.tracks["distance"] = keys({{1, 0.62}, {72, 0.4}});
  return s;
}

}  // namespace pour::recipe
