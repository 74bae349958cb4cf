// Recipes: packaging.
#include "shot/recipes/all.h"

#include "base/error.h"
#include "base/text.h"

namespace pour::recipe {

Shot jar_out_of_smoke(const std::string&) {
  Shot s = word_out_of_smoke({});
  s.film.title = "Oddlark, a jar out of smoke";
  Model jar;
  jar.file = shipped_model("oddlark-jar.obj");
  jar.height = 0.15, jar.wrap = 0.004;
  Piece& p = s.pieces.front();
  const Vec3d below{0, 0.05, 0}, above{0, 0.27, 0}, away{0.1, -1.6, 0.06};
  p.id = "jar", p.name = "Jar", p.shape = jar;
  made_of(s, p, "porcelain", "Porcelain", NamedMaterial::porcelain, {0.8, 0.78, 0.74});
  p.label = {shipped_label("oddlark-jar.png"), LabelPlace::around, 0.05, -0.018};
  p.position = below, p.turn = away;
  p.tracks["position"] = keys({{8, below}, {74, above}});
  p.tracks["turn"] = keys({{8, away}, {86, Vec3d{0, -0.25, 0}}});
  s.look.backdrop_color = {0.06, 0.05, 0.045}, s.look.shade = {0.85, 0.8, 0.76};
  s.look.light("key").strength = 0.5, s.look.light("rim").strength = 0.8,
  s.look.light("room").strength = 0.025;
  s.fluids.front().color() = {0.62, 0.58, 0.54};
  s.run.bounds_size = {0.8, 0.56, 0.36}, s.run.bounds_center = {0, 0.18, 0};
  s.camera.target = {0, 0.2, 0}, s.camera.distance = 0.85;
  return s;
}

Shot tea_around_a_carton(const std::string&) {
  Shot s;
  s.film.title = "Oddlark, tea in the air", s.film.frames = 108;
  // Filmed faster and faster, so that it hangs in the air once it is around the carton.
  s.film.capture = 150;
  s.film.tracks["capture"] = keys({{1, 150.0}, {16, 150.0}, {44, 700.0}, {96, 1600.0}});
  first_of<Gravity>(s.forces).strength = 0;
  Piece carton = solid("carton", "Carton", Block{{0.07, 0.17, 0.07}, 0.003}, {0.02, 0.12, 0});
  carton.turn = {0, 16 * degree, -9 * degree}, carton.friction = 0.1, carton.contact_angle = 30 * degree;
  made_of(s, carton, "board", "Coated board", NamedMaterial::plastic, {0.62, 0.57, 0.48});
  carton.label = {shipped_label("oddlark-carton.png"), LabelPlace::front, 0.1665};
  Piece slot = guide("slot", "Slot", Plane{0.011, 0.062, 0.004}, {-0.2, 0.09, 0.004});
  slot.turn = {9 * degree, 0, -72 * degree};  // it looks to the right and a little up
  s.pieces = {carton, slot};
  Pour& p = add_liquid(s, "tea", NamedLiquid::tea, "slot");
  p.windows = {{{0, 0.125}}}, p.rate = 0, p.speed = 2;
  s.run.detail = Detail::custom, s.run.cell_size = 0.0022;
  s.run.open_bottom = true, s.run.fit_bounds = false;
  s.run.bounds_center = {0.12, 0.16, 0}, s.run.bounds_size = {0.8, 0.6, 0.5};
  s.look.floor = false, s.look.solid = {0.42, 0.39, 0.33}, s.look.backdrop_color = {0.16, 0.07, 0.03};
  s.look.lights = light_sets()[1].make(), s.look.halo = 0.05, s.look.exposure = -0.3;
  s.camera.target = {0.055, 0.135, 0}, s.camera.distance = 0.8, s.camera.elevation = 14 * degree;
  return s;
}

Shot cream_on_a_jar(const std::string&) {
  constexpr double height = 0.079, shoulder = 0.0585, radius = 0.0275;  // m
  Shot s;
  s.film.title = "Oddlark, clay cream", s.film.frames = 132;
  Model jar;
  jar.file = shipped_model("oddlark-jar.obj"), jar.height = height, jar.open = Model::Open::filled;
  const Vec3d stands{0, height / 2 + 0.0005, 0};
  for (const auto& [part, id, name] : {std::tuple{"Jar", "jar", "Jar"}, {"Lid", "lid", "Lid"}}) {
    jar.part = part;
    Piece p = solid(id, name, jar, stands);
    p.friction = 0.9, p.contact_angle = 80 * degree, p.receding_angle = 25 * degree;
    s.pieces.push_back(p);
  }
  const Material porcelain =
      add_material(s, "porcelain", "Porcelain", NamedMaterial::porcelain, {0.8, 0.78, 0.74});
  for (Piece& p : s.pieces) p.material.id = porcelain.id;  // in the colours of the model
  s.pieces[0].label = {shipped_label("oddlark-jar.png"), LabelPlace::around, 0.03, -0.0095};
  // Around the shoulder, here thicker and there thinner.
  Tube seam;
  seam.closed = true, seam.radius = 0.0012;
  seam.points.list.clear();
  constexpr double sizes[] = {0.5, 1.5, 0.6, 1.1, 0.45, 1.7, 0.7, 0.5, 1.4, 0.5, 1.2, 0.6};
  for (size_t i = 0; i < std::size(sizes); ++i) {
    const double a = 2 * std::numbers::pi * double(i) / double(std::size(sizes));
    seam.points.list.push_back({radius * std::sin(a), 0, radius * std::cos(a)});
    seam.points.sizes.push_back(sizes[i]);
  }
  s.pieces.push_back(guide("seam", "Seam", seam, {0, shoulder, 0}));
  Pour& p = add_liquid(s, "cream", NamedLiquid::own, "seam");
  Liquid& cream = last_liquid(s);
  s.fluids.back().name = p.name = "Clay cream";
  cream.color = {0.45, 0.2, 0.1};
  cream.own = {1050, 1.6, 45, 0.8, 0.04};
  cream.clarity = Clarity::opaque;
  // It clings like a solid; then it gets warm, and runs.
  s.fluids.back().tracks["yield"] = keys({{84, 45.0}, {104, 1.0}});
  p.windows = {{{0, 3}}}, p.rate = 8e-7, p.speed = 0;
  p.patchiness = 1, p.patch_size = 0.007, p.patch_rate = 0;
  s.surface.smoothing = 0.0022, s.surface.smallest = 0.0025;
  s.run.detail = Detail::custom, s.run.cell_size = 0.0008;
  s.look.lights = light_sets()[0].make();
  s.look.backdrop_color = {0.42, 0.3, 0.2}, s.look.floor_surface = FloorKind::matte, s.look.halo = 0.04;
  s.camera.target = {0, 0.043, 0}, s.camera.distance = 0.29, s.camera.elevation = 12 * degree;
  s.camera.f_number = 11;
  return s;
}

Shot ribbon_round_a_bottle(const std::string&) {
  Shot s;
  s.film.title = "Oddlark, a ribbon round the bottle";
  Turned outline;
  outline.full = true;
  outline.profile = {{{0, 0, 0},
                      {0.033, 0, 0},
                      {0.036, 0.006, 0},
                      {0.036, 0.13, 0},
                      {0.03, 0.165, 0},
                      {0.0145, 0.2, 0},
                      {0.0125, 0.232, 0},
                      {0.0145, 0.244, 0},
                      {0, 0.246, 0}}};
  Piece bottle = guide("bottle", "Bottle", outline, {0, 0.001, 0});
  bottle.blocks = bottle.shows = true;
  made_of(s, bottle, "glaze", "Dark glaze", NamedMaterial::porcelain, {0.02, 0.055, 0.05});
  s.pieces = {bottle, guide("slot", "Slot", Block{{0.004, 0.026, 0.012}}, {0.06, 0.03, 0})};
  Pour& ribbon = add_smoke(s, "ribbon", "Ribbon of smoke", {0.95, 0.72, 0.42});
  ribbon.from = SourceKind::piece, ribbon.source.id = "slot", ribbon.windows = {{{0, 5}}};
  ribbon.speed = 0.05, ribbon.direction = Direction::back, ribbon.heat = 0;
  ribbon.density_rate = 0.08, ribbon.patchiness = 0.5, ribbon.patch_size = 0.012, ribbon.patch_rate = 4;
  s.gas.density_lift = 0;
  add_force(s, "swirl", "Swirl",
            Swirl{.spin = 250 * degree, .position = {}, .lift = 0.07, .inward = 0.025, .response = 0.02});
  first_of<Turbulence>(s.forces) = {.speed = 0.1, .size = 0.03, .rate = 1};
  first_of<Confinement>(s.forces).speed = 0.04;
  s.run.fit_bounds = false, s.run.bounds_center = {0, 0.155, 0}, s.run.bounds_size = {0.24, 0.31, 0.24};
  s.look.thickness = 12000, s.look.shade = {0.85, 0.55, 0.3}, s.look.glow = 0.35, s.look.halo = 0.06;
  s.look.light("key").strength = 0.9, s.look.light("rim").strength = 1.5;
  s.look.light("room").strength = 0.06, s.look.backdrop_color = {0.035, 0.045, 0.045};
  s.camera.target = {0, 0.135, 0}, s.camera.distance = 0.72, s.camera.elevation = 6 * degree;
  return s;
}

/// Drops gather in the air, weightless until they are two seconds old, and bead up on a waxed lid.
Shot beads_on_a_lid(const std::string&) {
  Shot s;
  s.film.title = "Oddlark, beads on a lid", s.film.frames = 120;
  Turned lid;
  lid.full = true;
  lid.profile = {
      {{0, 0, 0}, {0.056, 0, 0}, {0.06, 0.003, 0}, {0.06, 0.013, 0}, {0.057, 0.016, 0}, {0, 0.016, 0}}};
  Piece wax = solid("lid", "Waxed lid", lid, {0, 0.03, 0});
  wax.turn = {0, 0, -7 * degree}, wax.friction = 0.05;
  wax.contact_angle = 118 * degree, wax.receding_angle = 84 * degree;
  made_of(s, wax, "wax", "Cream lacquer", NamedMaterial::lacquer, {0.434, 0.352, 0.216}).roughness = 0.25;
  s.pieces = {wax};
  // Each drop comes from two that are smaller.
  struct Site {
    Vec3d at;
    double radius;  // m, of the two
    int frame;
  };
  const Site sites[] = {{{-0.03, 0.071, 0.012}, 0.0034, 1},
                        {{0.006, 0.066, -0.022}, 0.003, 4},
                        {{0.03, 0.066, 0.012}, 0.0032, 7},
                        {{-0.002, 0.07, 0.03}, 0.0029, 10},
                        {{-0.031, 0.104, 0.0125}, 0.0036, 30}};
  add_liquid(s, "syrup", NamedLiquid::own, "lid");
  Liquid& syrup = last_liquid(s);
  s.fluids.back().name = "Thin pear syrup", syrup.own = {1230, 0.06, 0, 1, 0.062};
  syrup.color = {0.62, 0.26, 0.03}, syrup.clarity = Clarity::clear, syrup.depth = 0.006;
  const Pour model = s.pours.back();
  s.pours.clear();
  int k = 0;
  for (const Site& site : sites) {
    ++k;
    const std::string number = std::to_string(k);
    for (const int side : {-1, 1}) {
      const std::string id = "drop_" + number + (side < 0 ? "a" : "b");
      s.pieces.push_back(guide(id.c_str(), id.c_str(), Ball{site.radius},
                               site.at + Vec3d{side * 0.0075, side * 0.003, 0.002}));
      Pour p = model;
      p.id = "from_" + id, p.name = id, p.source.id = id;
      p.windows = {}, p.fill_at.time = at_frame(site.frame), p.rate = 0, p.speed = 0;
      s.pours.push_back(p);
    }
    Force& draw =
        add_force(s, ("gather_" + number).c_str(), ("Gather " + number).c_str(),
                  Pull{.strength = 0.35, .position = site.at, .by = PullBy::grows, .distance = 0.006});
    draw.reach = Reach::Shape::ball, draw.reach_position = site.at, draw.reach_radius = 0.016,
    draw.soft_edge = 0.004;
    draw.depends = {Driver::age, {{1.95, 1}, {2, 0}}};
  }
  Force& calm = add_force(s, "calm", "Calm", Drag{.half_time = 0.12});
  calm.depends = {Driver::age, {{1.95, 1}, {2, 0}}};
  for (Force& f : s.forces)
    if (f.as<Gravity>()) f.depends = {Driver::age, {{1.98, 0}, {2, 0.12}}};
  s.run.detail = Detail::custom, s.run.cell_size = 0.0008;
  s.run.fit_bounds = false, s.run.bounds_center = {0.01, 0.06, 0}, s.run.bounds_size = {0.17, 0.12, 0.15};
  s.look.lights = light_sets()[0].make();
  s.look.backdrop_color = {0.153, 0.195, 0.162}, s.look.floor_surface = FloorKind::matte, s.look.halo = 0.03;
  s.look.exposure = -0.45, s.surface.smallest = 0.0025;
  key_size(s, 26);
  s.camera.target = {-0.004, 0.054, 0}, s.camera.distance = 0.26, s.camera.elevation = 27 * degree;
  s.camera.f_number = 16;
  return s;
}

}  // namespace pour::recipe
