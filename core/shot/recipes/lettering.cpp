// Recipes: words and marks.
#include "shot/recipes/all.h"

#include "base/error.h"
#include "base/text.h"

namespace pour::recipe {

Shot fill_a_word(const std::string& text) {
  Shot s;
  s.film.title = "Oddlark, mint lettering";
  s.pieces = {word(text)};
  Pour& mint = add_smoke(s, "mint", "Mint smoke", Smoke().color);
  mint.windows = {{{0, 4}}}, mint.speed = 0.08, mint.density_rate = 0.13, mint.heat = 20;
  mint.patchiness = 0.8, mint.patch_size = 0.015;
  first_of<Turbulence>(s.forces).speed = 0.06, first_of<Confinement>(s.forces).speed = 0.03;
  s.look.shade = {0.42, 0.72, 0.62};
  key_size(s, 30), s.look.light("room").strength = 0.0325;
  s.camera.target = {0, 0.062, 0};
  return s;
}

/// Smoke fills the first of two letters and crosses a bridge into the other.
Shot over_a_bridge(const std::string&) {
  Shot s;
  s.film.title = "Oddlark, over the bridge", s.film.frames = 144;
  Piece letters = word("OD");
  Lettering& shape = std::get<Lettering>(letters.shape);
  shape.spacing = 0.05, shape.depth = 0.04;
  Piece bridge;
  bridge.id = "bridge", bridge.name = "Bridge", bridge.shape = Cylinder{.radius = 0.008, .height = 0.085};
  bridge.position = {0.0123, letters.position.y, 0}, bridge.turn = {0, 0, 90 * degree};
  bridge.joins = true;
  const Piece source = guide("source", "Source", Ball{0.008}, {-0.112, letters.position.y - 0.03, 0});
  s.pieces = {letters, bridge, source};
  Pour& plum = add_smoke(s, "plum", "Plum smoke", {0.62, 0.2, 0.42});
  plum.from = SourceKind::piece, plum.source.id = "source", plum.windows = {{{0, 6}}};
  plum.speed = 0.35, plum.density_rate = 0.16, plum.heat = 12, plum.patchiness = 0.5, plum.patch_size = 0.01;
  first_of<Turbulence>(s.forces).speed = 0.08, first_of<Confinement>(s.forces).speed = 0.04;
  s.look.shade = {0.6, 0.3, 0.45};
  key_size(s, 30), s.look.light("room").strength = 0.05;
  s.camera.target = {0, 0.048, 0}, s.camera.distance = 0.56;
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

namespace {

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

}  // namespace

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
  last_liquid(s).clarity = Clarity::clear, last_liquid(s).depth = 0.14;
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
  Liquid& paint = last_liquid(s);
  s.fluids.back().name = p.name = "Paint";
  paint.own = {1250, 45, 0, 1, 0.035};
  s.fluids.back().tracks["viscosity"] = keys({{8, 4000.0}, {36, 45.0}, {90, 12.0}});  // it stands, then it melts
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

/// A word of tea, weightless, flows into another word and then into the mark.
Shot word_into_a_mark(const std::string& text) {
  Shot s;
  s.film.title = "Oddlark, from leaf to tea", s.film.frames = 130;
  // There is a little more liquid than the targets take, so that corners are filled as well.
  const auto target = [](const char* id, const char* words, double scale) {
    Lettering letters;
    letters.text = words, letters.letter_size = 0.09, letters.depth = 0.026, letters.bevel = 0.004;
    Piece p = guide(id, words, letters, {0, 0.12, 0});
    p.scale = scale;
    return p;
  };
  Mark bird;
  bird.height = 0.17, bird.depth = 0.022, bird.bevel = 0.003;
  s.pieces = {target("word", text.empty() ? "LEAF" : text.c_str(), 1), target("tea", "TEA", 1.07),
              guide("bird", "Lark", bird, {0, 0.12, 0})};
  Pour& tea = add_liquid(s, "tea", NamedLiquid::tea, "word");
  tea.windows = {}, tea.fill_at.time = 0, tea.rate = 0, tea.speed = 0;
  s.fluids.front().color() = {0.254, 0.032, 0.0024};
  const auto gather = [&](const char* id, const char* name, const char* piece, double from, double to) {
    Force& f = add_force(s, id, name, Gather{.piece = {piece}});
    f.always = false, f.windows = {{{at_frame(from), at_frame(to)}}};
    return std::get_if<Gather>(&f.what);
  };
  gather("into_word", "Stay", "word", 1, 19)->ease_in = 0;
  gather("into_tea", "Into tea", "tea", 19, 73)->goes_to = GoesTo::in_order;
  gather("into_bird", "Into the lark", "bird", 73, 132)->goes_to = GoesTo::in_order;
  s.run.detail = Detail::custom, s.run.cell_size = 0.002;
  s.look.lights = light_sets()[2].make();
  s.look.backdrop_color = {0.584, 0.392, 0.188}, s.look.floor = false, s.look.halo = 0.06;
  s.camera.target = {0, 0.12, 0}, s.camera.distance = 0.6, s.camera.elevation = 4 * degree;
  s.camera.f_number = 11;
  return s;
}

/// A seal on a board turns into caramel and runs down.
Shot mark_into_caramel(const std::string&) {
  Shot s;
  s.film.title = "Oddlark, the seal in caramel", s.film.frames = 110;
  Piece board = solid("board", "Board", Block{{0.34, 0.4, 0.016}, 0.003}, {0, 0.19, 0});
  board.turn = {-24 * degree, 0, 0};
  made_of(s, board, "slate", "Slate", NamedMaterial::stoneware, {0.0052, 0.006, 0.007}).roughness = 0.6;
  board.friction = 1, board.contact_angle = 50 * degree, board.receding_angle = 10 * degree;
  Mark mark;
  mark.drawing = shipped_drawing("oddlark-seal.svg");
  mark.height = 0.13, mark.depth = 0.016, mark.bevel = 0.004;
  Piece seal = solid("seal", "Seal", mark, {0, 0.085, 0.0158});
  seal.parent.id = "board";
  s.pieces = {board, seal};
  Pour& p = add_liquid(s, "caramel", NamedLiquid::own, "seal");
  Liquid& caramel = last_liquid(s);
  s.fluids.back().name = p.name = "Caramel";
  caramel.own = {1350, 120, 0, 1, 0.05};
  s.fluids.back().tracks["viscosity"] = keys({{20, 120.0}, {40, 20.0}, {76, 3.5}});  // it warms
  caramel.clarity = Clarity::opaque;
  p.windows = {}, p.fill_at.time = at_frame(20), p.replaces_source = true;
  p.rate = 0, p.speed = 0, p.colors = PourColors::piece;
  s.run.detail = Detail::custom, s.run.cell_size = 0.002;
  s.look.lights = light_sets()[0].make();
  Light &key = s.look.light("key"), &rim = s.look.light("rim");
  key.azimuth = -62 * degree, key.elevation = 30 * degree, key.strength = 0.42;
  // From the front and above, so that the caramel mirrors it.
  rim.azimuth = -16 * degree, rim.elevation = 58 * degree, rim.width = 7 * degree, rim.height = 34 * degree;
  rim.strength = 0.62, rim.color = key.color;
  s.look.backdrop_color = {0.2, 0.13, 0.08}, s.look.floor_surface = FloorKind::matte, s.look.halo = 0.04;
  s.camera.target = {0, 0.215, 0}, s.camera.distance = 0.66, s.camera.elevation = 8 * degree;
  s.camera.f_number = 11;
  return s;
}

}  // namespace pour::recipe
