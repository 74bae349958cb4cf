// Recipes: food and drink.
#include "shot/recipes/all.h"

#include "base/error.h"
#include "base/text.h"

namespace pour::recipe {

Shot tea_into_a_bowl(const std::string&) {
  Shot s;
  s.film.title = "Oddlark, sparkling tea", s.film.frames = 144;
  Turned profile;
  profile.wall = 0.009;
  profile.profile = {{{0, 0, 0},
                      {0.03, 0.0005, 0},
                      {0.048, 0.009, 0},
                      {0.062, 0.028, 0},
                      {0.07, 0.052, 0},
                      {0.073, 0.074, 0}}};
  Piece bowl = solid("bowl", "Stoneware bowl", profile, {0, 0.0085, 0});
  made_of(s, bowl, "stoneware", "Stoneware", NamedMaterial::stoneware, {0.36, 0.33, 0.29});
  Piece mouth = guide("mouth", "Mouth of the bottle", Disc{0.008, 0.003}, {-0.062, 0.2, 0});
  mouth.turn = {0, 0, -118 * degree};  // it looks to the right and a little down
  Turned outline;
  outline.wall = 0.0025;
  outline.profile = {{{0, 0, 0},
                      {0.03, 0, 0},
                      {0.034, 0.006, 0},
                      {0.034, 0.105, 0},
                      {0.026, 0.135, 0},
                      {0.0125, 0.17, 0},
                      {0.0108, 0.2, 0},
                      {0.0124, 0.21, 0}}};
  Piece bottle = guide("bottle", "Bottle", outline, {0, -0.2, 0});
  bottle.shows = true, bottle.parent.id = "mouth";
  made_of(s, bottle, "glaze", "Dark glaze", NamedMaterial::porcelain, {0.03, 0.06, 0.05});
  s.pieces = {bowl, mouth, bottle};
  Pour& p = add_liquid(s, "tea", NamedLiquid::tea, "mouth");
  p.windows = {{{0, 3.5}}};
  p.rate = 1e-4, p.speed = 0.5;
  s.look.solid = {0.3, 0.27, 0.23}, s.look.backdrop_color = {0.10, 0.085, 0.07};
  s.look.lights = light_sets()[1].make(), s.look.halo = 0.05;
  s.camera.target = {-0.035, 0.105, 0}, s.camera.distance = 0.7, s.camera.elevation = 30 * degree;
  return s;
}

Shot syrup_over_pancakes(const std::string&) {
  Shot s;
  s.film.title = "Oddlark, pear syrup", s.film.frames = 168;
  // Three cakes that lie a little beside each other, on a plate.
  Material& batter = add_material(s, "batter", "Fried batter", NamedMaterial::clay, {0.5, 0.24, 0.08});
  batter.relief = 0.0006, batter.relief_size = 0.004;
  const auto cake = [](const char* id, const char* name, double radius, const Vec3d& at) {
    Turned t;
    const double r = radius, edge = 0.0075;
    t.wall = 0.0145;
    t.profile = {{{0, 0, 0}, {r - edge, 0, 0}}};
    Piece p = solid(id, name, t, at);
    p.friction = 1;
    p.material.id = "batter";
    return p;
  };
  Turned dish;
  dish.wall = 0.007;
  dish.profile = {{{0, 0, 0}, {0.062, 0, 0}, {0.08, 0.006, 0}, {0.096, 0.013, 0}}};
  Piece plate = solid("plate", "Plate", dish, {0, 0.0075, 0});
  plate.friction = 1;
  made_of(s, plate, "plate", "Plate", NamedMaterial::porcelain, {0.4, 0.38, 0.35});
  Piece spout = guide("spout", "Spout", Disc{0.004, 0.002}, {0.012, 0.155, 0});
  spout.turn = {180 * degree, 0, 0};
  s.pieces = {plate, cake("cake_1", "Lowest pancake", 0.056, {0.002, 0.0185, 0.001}),
              cake("cake_2", "Middle pancake", 0.054, {-0.003, 0.033, -0.002}),
              cake("cake_3", "Upper pancake", 0.055, {0.002, 0.0475, 0.001}), spout};
  // Round and round, wider and narrower.
  Track way;
  for (int i = 0; i <= 24; ++i) {
    const double angle = 2 * std::numbers::pi * i / 8, r = 0.014 + 0.018 * std::abs(std::sin(i * 0.55));
    way.keys.push_back(
        {at_frame(1 + 5 * i), Vec3d{r * std::cos(angle), 0.155, r * std::sin(angle)}, Ease::smooth, {}});
  }
  s.pieces.back().tracks["position"] = way;
  Pour& p = add_liquid(s, "syrup", NamedLiquid::syrup, "spout");
  p.windows = {{{0, 5}}};
  p.rate = 2.2e-5, p.speed = 0.4;
  s.look.solid = {0.3, 0.17, 0.075}, s.look.backdrop_color = {0.07, 0.055, 0.045};
  s.look.light("key").strength = 0.85, s.look.light("room").strength = 0.102,
  s.look.light("rim").strength = 1.2, s.look.halo = 0.05;
  s.camera.target = {0, 0.05, 0}, s.camera.distance = 0.5, s.camera.elevation = 24 * degree;
  return s;
}

Shot jug_breathes(const std::string&) {
  Shot s;
  s.film.title = "Oddlark, a jug breathes", s.film.frames = 162;
  Model model;
  model.file = shipped_model("oddlark-jug.obj");
  model.height = 0.211;
  const Vec3d stands{0, model.height / 2, 0}, tipped{-0.04, 0.17, 0};
  Piece jug = solid("jug", "Jug", model, stands);
  made_of(s, jug, "clay", "Fired clay", NamedMaterial::clay, {0.45, 0.2, 0.11});
  // Late in the shot it tips and pours out the rest.
  jug.tracks["turn"] = keys({{84, Vec3d{}}, {128, Vec3d{0, 0, -70 * degree}}});
  jug.tracks["position"] = keys({{84, stands}, {128, tipped}});
  Piece mouth = guide("mouth", "Disc in the jug", Disc{0.032}, {0, -0.084, 0});
  mouth.parent.id = "jug";
  s.pieces = {jug, mouth};
  Fluid mist;
  mist.id = "mist", mist.name = "Mist", mist.color() = {0.89, 0.87, 0.84};
  s.fluids = {mist};
  Pour p;
  p.id = "mist", p.name = "Mist", p.fluid.id = "mist", p.from = SourceKind::piece, p.source.id = "mouth";
  p.windows = {{{0, at_frame(41)}, {at_frame(56), 3.5}}}, p.direction = Direction::up, p.speed = 0.5;
  p.density_rate = 0.42, p.heat = 66, p.patchiness = 0.3, p.patch_size = 0.015;
  s.pours = {p};
  // Warm it rises; cold it is heavy, and runs down the jug's sides.
  s.gas.heat_half_life = 0.85, s.gas.density_lift = -4;
  first_of<Turbulence>(s.forces).speed = 0.06, first_of<Turbulence>(s.forces).size = 0.05;
  first_of<Confinement>(s.forces).speed = 0.05, first_of<Confinement>(s.forces).size = 0.015;
  s.run.detail = Detail::custom, s.run.cell_size = 0.0032;
  s.run.fit_bounds = false, s.run.open_bottom = false;
  s.run.bounds_center = {0.05, 0.14, 0}, s.run.bounds_size = {0.62, 0.38, 0.44};
  s.look.shade = {0.8, 0.77, 0.74}, s.look.backdrop_color = {0.042, 0.029, 0.022};
  s.look.light("key").strength = 0.4, s.look.light("rim").strength = 0.8;
  s.look.floor_surface = FloorKind::matte;
  s.camera.target = {0.02, 0.135, 0}, s.camera.distance = 0.98, s.camera.elevation = 9 * degree;
  s.camera.azimuth = -8 * degree;
  // Dense to the eye, and bright where the light is behind it.
  s.look.thickness = 40000, s.look.forward = 0.6;
  return s;
}

Shot cream_over_biscuits(const std::string&) {
  constexpr int biscuits = 4;
  constexpr double apart = 0.06, high = 0.062;
  Shot s;
  s.film.title = "Oddlark, oat cream", s.film.frames = 168;
  Turned biscuit;
  biscuit.full = true;
  const double r = 0.027, thick = 0.009;
  biscuit.profile = {{{0, 0, 0},
                      {r - 0.002, 0, 0},
                      {r, 0.002, 0},
                      {r, thick - 0.003, 0},
                      {r - 0.003, thick, 0},
                      {0, thick, 0}}};
  Material& crust = add_material(s, "crust", "Baked crust", NamedMaterial::clay, {0.58, 0.27, 0.08});
  crust.relief = 0.0005, crust.relief_size = 0.0022;
  for (int i = 0; i < biscuits; ++i) {
    const std::string n = std::to_string(i + 1);
    Piece p = solid(("biscuit_" + n).c_str(), ("Biscuit " + n).c_str(), biscuit,
                    {(i - (biscuits - 1) / 2.0) * apart, 0.012, i % 2 ? 0.002 : -0.002});
    p.turn = {0, i * 40 * degree, 0}, p.friction = 1;
    p.material.id = "crust";
    s.pieces.push_back(p);
  }
  Piece board = solid("board", "Board", Block{{0.26, 0.012, 0.09}, 0.002}, {0, 0.006, 0});
  made_of(s, board, "oak", "Dark oak", NamedMaterial::lacquer, {0.024, 0.01, 0.006}).roughness = 0.25;
  Piece spout = guide("spout", "Spout", Disc{0.004, 0.002}, {-0.14, high, 0});
  spout.turn = {180 * degree, 0, 0};
  // Along the row, back and forth across it.
  Track way;
  const double end = (biscuits - 1) / 2.0 * apart + 0.014;
  for (int i = 0; i <= 48; ++i) {
    way.keys.push_back({at_frame(1 + 3 * i),
                        Vec3d{-end + 2 * end * i / 48.0, high, 0.017 * std::sin(i * 1.3)},
                        Ease::smooth,
                        {}});
  }
  spout.tracks["position"] = way;
  Turned cone;
  cone.full = true;
  cone.profile = {
      {{0, 0, 0}, {0.0048, 0, 0}, {0.0056, 0.003, 0}, {0.014, 0.036, 0}, {0.015, 0.07, 0}, {0, 0.07, 0}}};
  Piece nozzle = guide("nozzle", "Nozzle", cone, {});
  nozzle.position.y = 0.0025;  // round the root of the cream
  nozzle.shows = true, nozzle.parent.id = "spout", nozzle.turn = {180 * degree, 0, 0};
  made_of(s, nozzle, "steel", "Steel", NamedMaterial::brushed_metal, {0.6, 0.58, 0.56}).roughness = 0.3;
  s.pieces.push_back(board), s.pieces.push_back(spout), s.pieces.push_back(nozzle);
  Pour& p = add_liquid(s, "cream", NamedLiquid::own, "spout");
  Liquid& cream = last_liquid(s);
  s.fluids.back().name = p.name = "Thick oat cream";
  cream.color = {0.896, 0.791, 0.631};
  cream.own = {1000, 22, 260, 0.6, 0.04};
  cream.clarity = Clarity::cloudy, cream.depth = 0.00025;
  s.run.detail = Detail::custom, s.run.cell_size = 0.0025;
  p.windows = {{{0, at_frame(147)}}}, p.rate = 9e-6, p.speed = 0.18;
  s.look.lights = light_sets()[1].make();
  s.look.backdrop_color = {0.58, 0.32, 0.14}, s.look.floor_surface = FloorKind::matte, s.look.halo = 0.04;
  s.look.exposure = -0.95;
  s.camera.target = {0, 0.03, 0}, s.camera.distance = 0.4, s.camera.elevation = 22 * degree;
  s.camera.f_number = 8;
  return s;
}

/// Tea stands in a strainer, runs through its holes, and its streams are drawn to the middle, where they
/// join.
Shot tea_through_a_strainer(const std::string&) {
  Shot s;
  s.film.title = "Oddlark, through the strainer", s.film.frames = 96, s.film.capture = 240;
  const double height = 0.165, wide = 0.034;
  Piece sieve = solid("strainer", "Strainer",
                      Disc{wide, 0.0012, {.diameter = 0.003, .gap = 0.0085, .pattern = HolePattern::rings}},
                      {0, height, 0});
  sieve.contact_angle = sieve.receding_angle = 12 * degree, sieve.friction = 0.2;
  made_of(s, sieve, "enamel", "Cream enamel", NamedMaterial::porcelain, {0.62, 0.56, 0.46});
  Turned wall;
  wall.wall = 0.0036;
  wall.profile = {{{wide, 0, 0}, {wide + 0.001, 0.013, 0}, {wide + 0.005, 0.034, 0}}};
  Piece rim = solid("rim", "Rim", wall, {0, height - 0.0012, 0});
  rim.contact_angle = rim.receding_angle = 30 * degree, rim.material = sieve.material;
  Turned round;
  round.wall = 0.006;
  round.profile = {{{0, 0, 0}, {0.022, 0.0005, 0}, {0.036, 0.008, 0}, {0.043, 0.026, 0}, {0.046, 0.046, 0}}};
  Piece cup = solid("cup", "Cup", round, {0, 0.0034, 0});
  made_of(s, cup, "stoneware", "Stoneware", NamedMaterial::stoneware, {0.12, 0.14, 0.13});
  const Piece standing =
      guide("standing", "Standing tea", Cylinder{wide - 0.001, 0.013}, {0, height + 0.0075, 0});
  s.pieces = {sieve, rim, cup, standing};
  Pour& tea = add_liquid(s, "tea", NamedLiquid::tea, "standing");
  tea.windows = {}, tea.rate = 0, tea.fill_at.time = 0;
  last_liquid(s).clarity = Clarity::clear, last_liquid(s).depth = 0.0055;
  Force& draw = add_force(s, "draw", "Draw to the middle",
                          Pull{.strength = 20,
                               .to = PullTo::line,
                               .position = {0, 0.1, 0},
                               .by = PullBy::grows,
                               .distance = 0.04});
  draw.reach = Reach::Shape::box, draw.reach_position = {0, 0.11, 0}, draw.reach_size = {0.12, 0.09, 0.12};
  draw.soft_edge = 0.008;
  s.run.detail = Detail::custom, s.run.cell_size = 0.0015;
  s.look.lights = light_sets()[1].make(), s.look.halo = 0.05;
  s.look.backdrop_color = {0.12, 0.13, 0.11};
  key_size(s, 30);
  s.camera.target = {0, 0.1, 0}, s.camera.distance = 0.58, s.camera.elevation = 13 * degree;
  return s;
}

Shot drops_on_cold_glass(const std::string&) {
  Shot s;
  s.film.title = "Oddlark, cold glass", s.film.frames = 72, s.film.capture = 240;
  const Vec3d lean{-45 * degree, 0, 0}, middle{0, 0.024, 0};
  constexpr double thick = 0.004;
  Piece pane = solid("pane", "Cold glass", Block{{0.05, 0.06, thick}, 0.001}, middle);
  pane.turn = lean, pane.friction = 0.6;
  pane.contact_angle = 90 * degree, pane.receding_angle = 60 * degree;
  made_of(s, pane, "pane", "Cold glass", NamedMaterial::lacquer, {0.012, 0.05, 0.045});
  s.pieces = {pane};
  const Pose on_pane{Rotation::euler(lean), middle};
  // Where each stands on the glass, and the radius of its base, mm; the last one comes later, too heavy to
  // stay.
  constexpr double drops[][3] = {{-16, 17, 2.4},  {-7, 8, 2.2},  {-16, 1, 2.3},  {12, 11, 2.5},
                                 {4, 1, 2.6},     {-7, -9, 2.5}, {16, -6, 2.4},  {5, -14, 2.3},
                                 {-16, -17, 2.3}, {17, 22, 2.2}, {16, -21, 2.4}, {2, 21, 4.2}};
  int n = 0;
  for (const auto& [x, y, radius] : drops) {
    const bool late = ++n == int(std::size(drops));
    const std::string number = std::to_string(n), id = "drop_" + number;
    // Of a ball that stands out of the glass at an angle at which a drop stays.
    const double angle = 75 * degree, r = radius / 1000 / std::sin(angle);
    s.pieces.push_back(guide(id.c_str(), ("Drop " + number).c_str(), Ball{r},
                             on_pane * Vec3d{x / 1000, y / 1000, thick / 2 - r * std::cos(angle)}));
    if (n == 1) add_liquid(s, "water", NamedLiquid::water, id.c_str());
    Pour p = s.pours.front();
    p.id = id, p.name = "Drop " + number, p.source = {id};
    p.windows = {}, p.fill_at.time = late ? at_frame(2) : 0, p.rate = 0, p.speed = 0;
    s.pours.push_back(p);
  }
  s.fluids.front().color() = {0.17, 0.27, 0.28};
  s.pours.erase(s.pours.begin());
  s.run.detail = Detail::custom, s.run.cell_size = 0.00033;
  s.surface.sheets = 1e-4;  // closes nothing: what a drop leaves behind on glass are beads, not a film
  s.look.lights = light_sets()[1].make(), s.look.exposure = 0.4, s.look.halo = 0.04;
  s.look.backdrop_color = {0.008, 0.04, 0.042};
  s.camera.target = {0, 0.025, 0.002}, s.camera.distance = 0.094, s.camera.elevation = 40 * degree;
  s.camera.f_number = 16;
  return s;
}

}  // namespace pour::recipe
