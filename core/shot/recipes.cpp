#include "shot/recipes.h"

#include "base/error.h"
#include "base/text.h"
#include "base/units.h"
#include "shape/placed.h"
#include "shot/shipped.h"

namespace pour {
namespace {

/// How large the soft box of the key light is, seen from the set; degrees.
void key_size(Shot& s, double wide) {
  Light& key = s.look.light("key");
  key.width = wide * degree, key.height = 2 * std::atan(0.75 * std::tan(wide * degree / 2));
}

Piece word(const std::string& text) {
  Piece p;
  p.id = "word", p.name = "Lettering";
  if (!text.empty()) std::get<Lettering>(p.shape).text = text;
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

/// One of the shot's materials, of a usual kind in a colour of its own.
Material& add_material(Shot& shot, const char* id, const char* name, NamedMaterial kind, const Color& color) {
  Material m = new_material(kind);
  m.id = id, m.name = name, m.color = color;
  shot.materials.push_back(m);
  return shot.materials.back();
}

Material& made_of(Shot& shot, Piece& piece, const char* id, const char* name, NamedMaterial kind,
                  const Color& color) {
  piece.material.id = id;
  return add_material(shot, id, name, kind, color);
}

/// Adds a smoke of this colour and its pour.
Pour& add_smoke(Shot& shot, const char* id, const char* name, const Color& color) {
  shot.fluids.push_back({.id = id, .name = name, .color = color});
  shot.pours.push_back({.id = id, .name = name, .fluid = {id}, .patchiness = 0.5});
  return shot.pours.back();
}

/// A liquid of this name that comes out of a piece on a floor.
Pour& add_liquid(Shot& shot, const char* id, NamedLiquid liquid, const char* source) {
  const LiquidName& named = named_liquids()[size_t(liquid)];
  shot.fluids.push_back({.id = id,
                         .name = named.option.label,
                         .kind = FluidKind::liquid,
                         .color = named.color,
                         .liquid = liquid,
                         .temperature = named.usual});
  shot.pours.push_back({.id = id, .name = named.option.label, .fluid = {id}});
  Pour& p = shot.pours.back();
  p.from = SourceKind::piece, p.source.id = source;
  shot.run.open_bottom = false;
  return p;
}

Shot fill_a_word(const std::string& text) {
  Shot s;
  s.film.title = "Oddlark, mint lettering";
  s.pieces = {word(text)};
  Pour& mint = add_smoke(s, "mint", "Mint smoke", Fluid().color);
  mint.windows = {{{0, 4}}}, mint.speed = 0.08, mint.density_rate = 0.13, mint.heat = 20;
  mint.patchiness = 0.8, mint.patch_size = 0.015;
  first_of<Turbulence>(s.forces).speed = 0.06, first_of<Confinement>(s.forces).speed = 0.03;
  s.look.shade = {0.42, 0.72, 0.62};
  key_size(s, 30), s.look.light("room").strength = 0.0325;
  s.camera.target = {0, 0.062, 0};
  return s;
}

Shot around_a_word(const std::string& text) {
  Shot s;
  s.film.title = "Smoke around a word";
  Piece w = word(text);
  w.holds = false, w.blocks = true;
  w.position.y = 0.2;
  made_of(s, w, "copper", "Copper lacquer", NamedMaterial::lacquer, {0.3, 0.14, 0.05});
  const Piece ember = guide("ember", "Smoke bowl", Block{{0.6, 0.02, 0.1}}, {0, 0.012, 0});
  s.pieces = {w, ember};
  Pour& pale = add_smoke(s, "pale", "Pale smoke", {0.86, 0.89, 0.93});
  pale.from = SourceKind::piece, pale.source.id = "ember";
  pale.heat = 30, pale.speed = 0.15, pale.direction = Direction::up;
  pale.windows = {{{0, 4}}}, pale.density_rate = 0.007, pale.patchiness = 0.9, pale.patch_size = 0.07;
  first_of<Turbulence>(s.forces).speed = 0.15, first_of<Turbulence>(s.forces).size = 0.15,
  first_of<Confinement>(s.forces).speed = 0.03;
  s.look.thickness = 8000, s.look.shade = {0.55, 0.62, 0.75}, s.look.light("key").strength = 0.8,
  s.look.light("room").strength = 0.096, s.look.light("rim").strength = 1.3, s.look.solid = {0.34, 0.2, 0.09},
  s.look.glow = 0.35;
  s.camera.target = {0, 0.24, 0}, s.camera.distance = 1.7;
  return s;
}

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

/// A track through these keys.
/// When a frame of a film at 24 frames a second begins, as all of these are, s.
double at_frame(double frame) { return (frame - 1) / 24; }

/// Keys at frames.
Track keys(std::initializer_list<std::pair<double, Value>> values, Ease ease = Ease::smooth) {
  Track t;
  for (const auto& [frame, value] : values) t.keys.push_back({at_frame(frame), value, ease, {}});
  return t;
}

Shot word_out_of_smoke(const std::string& text) {
  Shot s;
  s.film.title = "A word rises out of smoke", s.film.frames = 120;
  Piece w = word(text);
  w.holds = false, w.blocks = true;
  const Vec3d below{0, 0.07, 0}, above{0, 0.27, 0}, away{0.12, -0.4, 0};
  w.position = below, w.turn = away;
  made_of(s, w, "rust", "Rust plastic", NamedMaterial::plastic, {0.5, 0.13, 0.07});
  w.tracks["position"] = keys({{8, below}, {70, above}});
  w.tracks["turn"] = keys({{8, away}, {76, Vec3d{}}});
  // The bed reaches beyond the bounds, so that they are full from side to side.
  s.pieces = {w, guide("bed", "Bed of smoke", Block{{2, 0.28, 1}}, {0, 0.04, 0})};
  Pour& pale = add_smoke(s, "pale", "Pale smoke", {0.86, 0.9, 0.95});
  pale.from = SourceKind::piece, pale.source.id = "bed", pale.windows = {}, pale.fill_at.time = 0;
  pale.density = 0.004, pale.heat = 0, pale.patchiness = 0.75, pale.patch_size = 0.07;
  s.gas.density_lift = 0, s.gas.heat_half_life = 0;
  s.gas.tracks["density_lift"] = keys({{1, 0.0}, {24, -0.3}, {56, -3.0}, {92, -14.0}});
  first_of<Turbulence>(s.forces).speed = 0.04, first_of<Turbulence>(s.forces).size = 0.1,
  first_of<Confinement>(s.forces).speed = 0.02;
  s.run.fit_bounds = false, s.run.bounds_center = {0, 0.15, 0}, s.run.bounds_size = {0.94, 0.5, 0.32};
  s.run.open_left = s.run.open_right = s.run.open_back = s.run.open_front = false;
  s.look.thickness = 9000, s.look.glow = 0.12, s.look.shade = {0.66, 0.76, 0.9},
  s.look.light("key").strength = 0.6;
  s.look.light("room").strength = 0.018, key_size(s, 30);
  s.look.light("key").azimuth = -62 * degree, s.look.light("key").elevation = 52 * degree;
  s.look.light("rim").strength = 1.1, s.look.light("rim").elevation = 38 * degree, s.look.halo = 0.06;
  s.look.backdrop_color = {0.03, 0.045, 0.06}, s.look.floor = false, s.look.solid = {0.5, 0.2, 0.12};
  s.camera.target = {0, 0.215, 0}, s.camera.distance = 0.98, s.camera.elevation = 4 * degree;
  return s;
}

Shot mark_melts(const std::string&) {
  Shot s;
  s.film.title = "Oddlark, the mark melts", s.film.frames = 120;
  Mark bird;
  bird.height = 0.17, bird.depth = 0.05, bird.bevel = 0.012;
  Piece p = guide("bird", "Lark", bird, {0, 0.22, 0});
  s.pieces = {p};
  Pour& pale = add_smoke(s, "pale", "Smoke of the mark", {0.9, 0.85, 0.75});
  pale.from = SourceKind::piece, pale.source.id = "bird", pale.colors = PourColors::piece;
  pale.windows = {}, pale.fill_at.time = 0, pale.density = 0.02, pale.heat = 0, pale.patchiness = 0;
  // It stands for a second; then its smoke gets heavier and heavier.
  s.gas.density_lift = 0, s.gas.heat_half_life = 0;
  s.gas.tracks["density_lift"] = keys({{1, 0.0}, {24, 0.0}, {40, -1.2}, {70, -4.0}, {110, -9.0}});
  first_of<Turbulence>(s.forces).speed = 0, first_of<Turbulence>(s.forces).size = 0.05,
  first_of<Confinement>(s.forces).speed = 0.02;
  s.force("turbulence")->tracks["speed"] = keys({{24, 0.0}, {40, 0.05}, {70, 0.09}});
  s.run.fit_bounds = false, s.run.bounds_center = {0, 0.165, 0}, s.run.bounds_size = {0.42, 0.33, 0.26};
  s.run.open_bottom = false, s.run.detail = Detail::custom, s.run.cell_size = 0.0024;
  s.look.thickness = 9000, s.look.glow = 0.3, s.look.light("key").strength = 0.8,
  s.look.light("rim").strength = 0.9;
  s.look.backdrop_color = {0.16, 0.15, 0.14}, s.look.light("room").strength = 0.12, key_size(s, 40);
  s.camera.target = {0, 0.14, 0}, s.camera.distance = 0.95, s.camera.elevation = 7 * degree;
  return s;
}

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
  s.fluids.front().color = {0.62, 0.58, 0.54};
  s.run.bounds_size = {0.8, 0.56, 0.36}, s.run.bounds_center = {0, 0.18, 0};
  s.camera.target = {0, 0.2, 0}, s.camera.distance = 0.85;
  return s;
}

/// The characters of a text but for its spaces.
std::vector<std::string> letters_of(const std::string& utf8) {
  std::vector<std::string> out;
  for (const char c : utf8) {
    if ((static_cast<unsigned char>(c) & 0xC0) == 0x80 && !out.empty())
      out.back() += c;
    else if (c != ' ')
      out.emplace_back(1, c);
  }
  return out;
}

Shot letters_fly_in(const std::string& text) {
  Shot s;
  s.film.title = "Letters fly in", s.film.frames = 132;
  constexpr double gap = 0.012, first = -22, apart = 14, way = 56;  // m; frames
  std::vector<Piece> letters;
  std::vector<double> widths;
  double width = -gap;
  for (const std::string& letter : letters_of(text.empty() ? "PEAR" : text)) {
    Piece p = word(letter);
    const std::string number = std::to_string(letters.size() + 1);
    p.id = "letter_" + number, p.name = "Letter " + number;
    double w = 0.06;
    try {
      w = piece_mesh({}, p).bounds().size().x;
    } catch (const Fault&) {  // the checks will say that its font can't set it
    }
    widths.push_back(w), width += w + gap;
    letters.push_back(p);
  }
  double x = -width / 2;
  for (size_t i = 0; i < letters.size(); ++i) {
    Piece& p = letters[i];
    x += widths[i] / 2;
    const double side = i % 2 ? 1 : -1, start = first + apart * double(i);
    Tube tube;
    tube.radius = 0.003;
    tube.points = {{{x + side * 0.75, 0.46, -0.35},
                    {x + side * 0.34, 0.30, 0.22},
                    {x - side * 0.08, 0.17, 0.10},
                    {x, 0.062, 0}}};
    const std::string way_id = "way_" + std::to_string(i + 1);
    s.pieces.push_back(guide(way_id.c_str(), ("Way " + std::to_string(i + 1)).c_str(), tube, {}));
    p.path.id = way_id, p.turns_along = false, p.position = {};
    p.tracks["progress"] = keys({{start, 0.0}, {start + way, 1.0}}, Ease::own);
    p.tracks["progress"].keys.front().handles = {0.3, 0.3, 0.5, 1};
    p.tracks["turn"] = keys({{start, Vec3d{0.7, side * -2.4, side * 0.9}}, {start + way + 6, Vec3d{}}});
    x += widths[i] / 2 + gap;
    s.pieces.push_back(p);
  }
  Pour& pear = add_smoke(s, "pear", "Pear smoke", {0.913, 0.381, 0.017});
  pear.windows = {{{0, 5.5}}}, pear.speed = 0.05, pear.density_rate = 0.03, pear.heat = 25;
  pear.patchiness = 0.85, pear.patch_size = 0.015, pear.fill_at.time = 0, pear.density = 0.03;
  s.gas.density_lift = -6;
  first_of<Turbulence>(s.forces).speed = 0.05, first_of<Confinement>(s.forces).speed = 0.03;
  s.look.thickness = 14000, s.look.shade = {1, 0.323, 0.08}, s.look.glow = 0.4;
  s.look.backdrop_color = {0.0116, 0.0284, 0.0232}, s.look.floor_surface = FloorKind::matte;
  s.look.light("rim").strength = 2, s.look.light("key").strength = 1, s.look.exposure = 0.9;
  s.camera.target = {0, 0.075, 0}, s.camera.distance = 0.66;
  return s;
}

/// A piece that liquid runs over.
Piece solid(const char* id, const char* name, Shape shape, const Vec3d& position) {
  Piece p;
  p.id = id, p.name = name, p.shape = std::move(shape), p.position = position;
  p.holds = false, p.blocks = true;
  return p;
}

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
  mist.id = "mist", mist.name = "Mist", mist.color = {0.89, 0.87, 0.84};
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
  Fluid& cream = s.fluids.back();
  cream.name = p.name = "Thick oat cream";
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

Shot tea_fills_a_word(const std::string& text) {
  Shot s;
  s.film.title = "Oddlark, letters of tea", s.film.frames = 132;
  Piece w = word(text);
  w.position.y = 0.1;
  // Full, the word rocks, and the tea swings in it.
  w.tracks["turn"] = keys({{82, Vec3d{}},
                           {92, Vec3d{0, 0, 7 * degree}},
                           {103, Vec3d{0, 0, -6 * degree}},
                           {114, Vec3d{0, 0, 3 * degree}},
                           {124, Vec3d{}}});
  s.pieces = {w};
  Pour& p = add_liquid(s, "tea", NamedLiquid::tea, "");
  p.from = SourceKind::every_body, p.source = {};
  p.windows = {{{0, 3.25}}}, p.rate = 3e-4, p.speed = 0;
  s.run.detail = Detail::custom, s.run.cell_size = 0.004;
  s.look.backdrop_color = {0.147, 0.042, 0.012}, s.look.lights = light_sets()[2].make();
  s.look.glass = 0.8, s.look.floor_surface = FloorKind::matte;
  s.fluids.front().clarity = Clarity::clear, s.fluids.front().depth = 0.14;
  s.camera.target = {0, 0.1, 0};
  return s;
}

Shot mark_of_paint(const std::string&) {
  Shot s;
  s.film.title = "Oddlark, the bird in paint", s.film.frames = 120, s.film.capture = 48;
  Mark bird;
  bird.height = 0.11, bird.depth = 0.022, bird.bevel = 0.003;
  s.pieces = {guide("bird", "Lark", bird, {0, 0.082, -0.02})};
  Piece plate = solid("plate", "Plate", Block{{0.46, 0.012, 0.34}, 0.003}, {0, 0.006, 0});
  made_of(s, plate, "lacquer", "White lacquer", NamedMaterial::lacquer, {0.5, 0.52, 0.5}).roughness = 0.12;
  plate.friction = 1, plate.contact_angle = 70 * degree, plate.receding_angle = 30 * degree;
  s.pieces.push_back(plate);
  Pour& p = add_liquid(s, "paint", NamedLiquid::own, "bird");
  Fluid& paint = s.fluids.back();
  paint.name = p.name = "Paint";
  paint.own = {1250, 45, 0, 1, 0.035};
  paint.tracks["viscosity"] = keys({{8, 4000.0}, {36, 45.0}, {90, 12.0}});  // it stands, then it melts
  paint.clarity = Clarity::opaque;
  p.windows = {}, p.fill_at.time = 0, p.rate = 0, p.speed = 0, p.colors = PourColors::piece;
  s.run.detail = Detail::custom, s.run.cell_size = 0.002;
  s.look.lights = light_sets()[0].make();
  s.look.backdrop_color = {0.3, 0.34, 0.34}, s.look.floor_surface = FloorKind::matte, s.look.halo = 0.03;
  s.look.exposure = -0.4;
  s.camera.target = {0, 0.055, 0}, s.camera.distance = 0.4, s.camera.elevation = 18 * degree;
  s.camera.f_number = 11;
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
  Fluid& cream = s.fluids.back();
  cream.name = p.name = "Clay cream";
  cream.color = {0.45, 0.2, 0.1};
  cream.own = {1050, 1.6, 45, 0.8, 0.04};
  cream.clarity = Clarity::opaque;
  // It clings like a solid; then it gets warm, and runs.
  cream.tracks["yield"] = keys({{84, 45.0}, {104, 1.0}});
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

/// A force of this kind besides those of a new shot.
template <class Kind>
Force& add_force(Shot& s, const char* id, const char* name, const Kind& kind) {
  Force f = new_force(int(ForceKind(kind).index()));
  f.id = id, f.name = name, f.what = kind;
  s.forces.push_back(f);
  return s.forces.back();
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

/// A gust goes along the word and takes one letter after the other with it.
Shot a_word_blown_away(const std::string& text) {
  Shot s;
  s.film.title = "A word blown away", s.film.frames = 96;
  Piece letters = word(text);
  letters.holds = letters.blocks = letters.shows = false, letters.position.y = 0.13;
  std::get<Lettering>(letters.shape).depth = 0.03;
  s.pieces = {letters};
  Pour& pale = add_smoke(s, "pale", "Smoke of the word", {0.9, 0.86, 0.78});
  pale.from = SourceKind::piece, pale.source.id = "word", pale.windows = {}, pale.fill_at.time = 0;
  pale.density = 0.016, pale.heat = 0, pale.patchiness = 0;
  s.gas.density_lift = 0, s.gas.heat_half_life = 0;
  first_of<Turbulence>(s.forces).speed = 0, first_of<Confinement>(s.forces).speed = 0.03;
  Force& gust = add_force(s, "gust", "Gust",
                          Wind{.speed = 0.42,
                               .direction = {1, 0.7, 0.3},
                               .response = 0.12,
                               .gusts = 0.9,
                               .gust_size = 0.05,
                               .gust_rate = 1});
  gust.reach = Reach::Shape::slab, gust.reach_turn = {0, 0, 90 * degree};
  gust.reach_thickness = 0.6, gust.soft_edge = 0.1;
  // Its front goes across the word, a little faster than what it takes along: no letter is blown into the
  // next.
  gust.tracks["reach_position"] =
      keys({{16, Vec3d{-0.66, 0.13, 0}}, {64, Vec3d{0.08, 0.13, 0}}}, Ease::linear);
  s.run.fit_bounds = false, s.run.bounds_center = {0.08, 0.2, 0.02}, s.run.bounds_size = {0.96, 0.4, 0.26};
  s.look.thickness = 11000, s.look.glow = 0.3, s.look.shade = {0.75, 0.68, 0.6};
  s.look.light("key").strength = 0.8, s.look.light("rim").strength = 1.1;
  s.look.light("room").strength = 0.08, s.look.backdrop_color = {0.09, 0.095, 0.1}, s.look.floor = false;
  s.camera.target = {0.04, 0.17, 0}, s.camera.distance = 1.3;
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
  s.fluids.front().color = {0.17, 0.27, 0.28};
  s.pours.erase(s.pours.begin());
  s.run.detail = Detail::custom, s.run.cell_size = 0.00033;
  s.surface.sheets = 1e-4;  // closes nothing: what a drop leaves behind on glass are beads, not a film
  s.look.lights = light_sets()[1].make(), s.look.exposure = 0.4, s.look.halo = 0.04;
  s.look.backdrop_color = {0.008, 0.04, 0.042};
  s.camera.target = {0, 0.025, 0.002}, s.camera.distance = 0.094, s.camera.elevation = 40 * degree;
  s.camera.f_number = 16;
  return s;
}

}  // namespace

std::span<const Option> recipe_jobs() {
  static constexpr Option all[] = {{"lettering", "Lettering and logos"},
                                   {"food", "Food and drink"},
                                   {"packaging", "Packaging"},
                                   {"abstract", "Abstract"}};
  return all;
}

const std::vector<Recipe>& recipes() {
  static const std::vector<Recipe> all{
      {"fill-a-word", RecipeJob::lettering, "Fill a word with smoke",
       "Each letter is a vessel of glass that fills from its feet.", "seeds and pour windows", 25,
       fill_a_word},
      {"around-a-word", RecipeJob::lettering, "Smoke around a word", "Solid letters stand in rising smoke.",
       "solid letters in free smoke", 55, around_a_word},
      {"word-out-of-smoke", RecipeJob::lettering, "A word rises out of smoke",
       "Solid letters rise out of a bed of smoke that slides off.", "keys on position and on weight", 20,
       word_out_of_smoke},
      {"letters-fly-in", RecipeJob::lettering, "Letters fly in",
       "Letters of glass fly in on curves, with smoke swinging inside.", "pieces that follow paths", 15,
       letters_fly_in},
      {"a-mark-melts", RecipeJob::lettering, "A mark melts",
       "A mark drawn in coloured smoke hangs still, then melts and runs down.",
       "smoke that hangs, then falls", 58, mark_melts},
      {"jar-out-of-smoke", RecipeJob::packaging, "A jar out of smoke",
       "A product from a model file rises from a bed of smoke, turning.", "a model, and how it moves", 22,
       jar_out_of_smoke},
      {"a-mark-of-paint", RecipeJob::lettering, "A mark of paint",
       "A mark turns to thick paint in its own colours and slumps.", "a liquid of your own", 8,
       mark_of_paint},
      {"cream-on-a-jar", RecipeJob::packaging, "Cream on a jar",
       "Cream seeps out around a jar, beads and clings, then warms and runs down.",
       "part of a model as a source", 120, cream_on_a_jar},
      {"a-jug-breathes", RecipeJob::food, "A jug breathes",
       "Mist swirls up in a clay jug and spills over its lip. Then the jug tips.", "a vessel that tips", 57,
       jug_breathes},
      {"rising-smoke", RecipeJob::abstract, "Rising smoke", "A warm ball lets smoke rise freely.",
       "warmth, turbulence and swirls", 26, rising_smoke},
      {"tea-into-a-bowl", RecipeJob::food, "Tea into a bowl",
       "Tea pours from a bottle's mouth into a stoneware bowl.", "a spout, aimed at a bowl", 120,
       tea_into_a_bowl},
      {"tea-fills-a-word", RecipeJob::lettering, "Tea fills a word",
       "Glass letters fill with tea from their feet, then rock until the tea swings.",
       "liquid in moving letters", 300, tea_fills_a_word},
      {"syrup-over-pancakes", RecipeJob::food, "Syrup over pancakes",
       "Pear syrup loops onto a stack of pancakes, folds and runs down.", "thick liquid, a spout that moves",
       240, syrup_over_pancakes},
      {"tea-around-a-carton", RecipeJob::packaging, "Tea around a carton",
       "A sheet of tea hits a carton in slow motion, without gravity.", "slow motion without gravity", 2,
       tea_around_a_carton},
      {"two-pears", RecipeJob::abstract, "Two pears",
       "A pear of oat milk falls beside a pear of smoke that rises.", "smoke beside liquid", 36, two_pears},
      {"ribbon-round-a-bottle", RecipeJob::packaging, "A ribbon round a bottle",
       "A ribbon of smoke winds up round a bottle.", "a swirl with lift", 60, ribbon_round_a_bottle},
      {"a-word-blown-away", RecipeJob::lettering, "A word blown away",
       "A gust goes along a word of smoke and takes letter by letter with it.",
       "wind with a reach that moves", 40, a_word_blown_away},
      {"drops-on-cold-glass", RecipeJob::food, "Drops on cold glass",
       "Drops cling to a pane until one runs down and takes others along.", "contact angles of drops", 6,
       drops_on_cold_glass},
      {"cream-over-biscuits", RecipeJob::food, "Cream over biscuits",
       "Thick oat cream is laid back and forth over a row of biscuits.", "yield stress, a spout on a path",
       23, cream_over_biscuits},
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
  throw usage_fault(filled("Recipe “{key}”", {{"key", key}}), "does not exist.",
                    did_you_mean(near, "List them with “easy-pour-cli recipes”."));
}

}  // namespace pour
