#include "shot/describe.h"

#include <cmath>
#include <cstdio>

#include "base/error.h"
#include "base/text.h"

namespace pour {
namespace {

constexpr Option piece_kinds[] = {{"lettering", "Lettering"}, {"ball", "Ball"}, {"box", "Box"}};
constexpr Option parts[] = {{"holds", "holds the smoke"},
                            {"blocks", "blocks the smoke"},
                            {"shows", "only shows"},
                            {"guides", "guides, never shown"}};
constexpr Option source_kinds[] = {{"every_part", "a seed in every letter"}, {"piece", "a piece"}};
constexpr Option seed_places[] = {{"low", "low"}, {"centre", "in the centre"}, {"one_side", "at one side"}};
constexpr Option pour_modes[] = {{"adds", "Adds"}, {"sets", "Holds at"}};
constexpr Option directions[] = {
    {"outwards", "outwards"},  {"up", "upwards"},         {"down", "downwards"},  {"left", "to the left"},
    {"right", "to the right"}, {"front", "to the front"}, {"back", "to the back"}};
constexpr Option details[] = {
    {"draft", "Draft"}, {"medium", "Medium"}, {"final", "Final"}, {"custom", "Own cell size"}};

template <class E>
ChoiceRef choice(E& value, std::span<const Option> options) {
  return {options, [&value] { return int(value); }, [&value](int i) { value = E(i); }};
}

constexpr double brightest = 100;  // of a colour, linear

struct Range {
  double low, high, slider_low, slider_high;
  Range(double low, double high, double slider_low, double slider_high)
      : low(low), high(high), slider_low(slider_low), slider_high(slider_high) {}
};

class Builder {
 public:
  explicit Builder(Group& group) : group_(group) {}
  Setting& add(SettingRef ref, const char* key, const char* name, const char* help) {
    Setting s;
    s.key = key, s.name = name, s.help = help, s.ref = std::move(ref);
    if (std::holds_alternative<Color*>(s.ref)) s.high = brightest;
    group_.settings.push_back(std::move(s));
    return group_.settings.back();
  }
  Setting& add(SettingRef ref, const char* key, const char* name, Unit unit, Range r, const char* help) {
    Setting& s = add(std::move(ref), key, name, help);
    s.unit = unit, s.low = r.low, s.high = r.high, s.slider_low = r.slider_low, s.slider_high = r.slider_high;
    return s;
  }

 private:
  Group& group_;
};

Group describe_film(Shot& shot) {
  Group g{"", "film", "Film", {}};
  Builder b(g);
  Film& f = shot.film;
  b.add(&shot.title, "title", "Title", "What the shot is called.");
  b.add(&f.frames, "frames", "Length", Unit::frames, {1, 100000, 24, 480}, "Number of frames of the shot.");
  b.add(&f.fps, "fps", "Frames per second", Unit::none, {1, 240, 12, 60}, "Playback speed.");
  b.add(&f.width, "width", "Width", Unit::none, {16, 16384, 640, 3840}, "Width of the picture in pixels.");
  b.add(&f.height, "height", "Height", Unit::none, {16, 16384, 360, 2160},
        "Height of the picture in pixels.");
  return g;
}

Group describe_gas(Gas& v) {
  Group g{"", "gas", "How the smoke behaves", {}};
  Builder b(g);
  b.add(&v.heat_lift, "heat_lift", "Lift by heat", Unit::none, {-100, 100, -2, 4},
        "How strongly warm smoke rises: 1 is what physics says, 0 is not at all, below 0 it sinks.");
  b.add(&v.density_lift, "density_lift", "Lift by density", Unit::none, {-1000, 1000, -4, 4},
        "What the weight of the smoke itself does: -1 sinks as physics says, 0 is weightless, above 0 it "
        "rises.");
  b.add(&v.density_half_life, "density_half_life", "Thins to half in", Unit::time, {0, 1e5, 0, 10},
        "Time in which the smoke fades to half.")
      .zero = "never";
  b.add(&v.heat_half_life, "heat_half_life", "Cools to half in", Unit::time, {0, 1e5, 0, 10},
        "Time in which its warmth falls to half.")
      .zero = "never";
  return g;
}

Group describe_forces(Forces& v) {
  Group g{"", "forces", "Forces", {}};
  Builder b(g);
  b.add(&v.gravity, "gravity", "Gravity", Unit::acceleration, {-1000, 1000, 0, 20},
        "Pull downwards; 9.81 m/s² on Earth, 0 for weightless shots, where nothing rises or sinks.");
  b.add(&v.turbulence_speed, "turbulence_speed", "Turbulence", Unit::speed, {0, 100, 0, 1},
        "Speed of the eddies that are stirred into the smoke.");
  b.add(&v.turbulence_size, "turbulence_size", "Eddy size", Unit::length, {1e-4, 1000, 0.005, 0.5},
        "Size of the largest eddies.");
  Setting& rate = b.add(&v.turbulence_rate, "turbulence_rate", "Change of eddies", Unit::rate, {0, 100, 0, 5},
                        "How often a second the pattern of eddies renews itself.");
  rate.depth = Depth::more;
  b.add(&v.confinement_speed, "confinement_speed", "Curl", Unit::speed, {0, 100, 0, 2},
        "Vorticity confinement: the speed with which curls are kept alive.");
  Setting& length =
      b.add(&v.confinement_length, "confinement_length", "Curl size", Unit::length, {1e-4, 100, 0.002, 0.1},
            "The length that curl refers to; the same at every cell size.");
  length.depth = Depth::more;
  return g;
}

Group describe_run(RunSettings& v) {
  Group g{"", "run", "Run", {}};
  Builder b(g);
  b.add(choice(v.detail, details), "detail", "Detail",
        "Draft to find the look, medium to judge it, final to deliver.");
  b.add(&v.cell_size, "cell_size", "Cell size", Unit::length, {1e-5, 100, 5e-4, 0.02},
        "Edge of a cell when the detail is an own cell size.")
      .applies = [&v] { return v.detail == Detail::custom; };
  b.add(&v.fit_bounds, "fit_bounds", "Fit the bounds",
        "Bounds that follow the pieces, with room for smoke that rises.");
  const auto own = [&v] { return !v.fit_bounds; };
  b.add(&v.bounds_center, "bounds_center", "Centre of bounds", Unit::length, {-1e4, 1e4, -1, 1},
        "Middle of the space in which smoke is computed.")
      .applies = own;
  b.add(&v.bounds_size, "bounds_size", "Size of bounds", Unit::length, {1e-3, 1e4, 0.05, 2},
        "Width, height and depth of the space in which smoke is computed.")
      .applies = own;
  struct Side {
    bool* open;
    const char *key, *name;
  };
  for (const Side& s :
       {Side{&v.open_left, "open_left", "Left side open"},
        Side{&v.open_right, "open_right", "Right side open"},
        Side{&v.open_bottom, "open_bottom", "Bottom open"}, Side{&v.open_top, "open_top", "Top open"},
        Side{&v.open_back, "open_back", "Back open"}, Side{&v.open_front, "open_front", "Front open"}})
    b.add(s.open, s.key, s.name, "Smoke leaves through an open side; a closed one is a wall.").depth =
        Depth::more;
  b.add(&v.courant, "courant", "Cells a step", Unit::none, {0.2, 5, 0.5, 5},
        "How many cells the fastest smoke may cross in one step; smaller is slower and more exact.")
      .depth = Depth::more;
  return g;
}

Group describe_look(Look& v) {
  Group g{"", "look", "Look", {}};
  Builder b(g);
  b.add(&v.thickness, "thickness", "Thickness", Unit::area_by_mass, {0, 1e7, 0, 40000},
        "How much light a gram of smoke takes out of its way.");
  b.add(&v.glow, "glow", "Inner light", Unit::percent, {0, 4, 0, 1},
        "Light that is scattered many times inside the smoke.");
  b.add(&v.shade, "shade", "Colour of shade",
        "What colour light takes on its way through the smoke; white leaves it as it is.");
  b.add(&v.key_strength, "key_strength", "Key light", Unit::percent, {0, 100, 0, 3},
        "Strength of the main light.");
  b.add(&v.key_color, "key_color", "Key colour", "Colour of the main light.");
  b.add(&v.key_yaw, "key_yaw", "Key from the side", Unit::angle,
        {-360 * degree, 360 * degree, -180 * degree, 180 * degree},
        "Where the main light stands: 0° in front, 90° to the right.");
  b.add(&v.key_pitch, "key_pitch", "Key height", Unit::angle,
        {-90 * degree, 90 * degree, -20 * degree, 90 * degree}, "How high the main light stands.");
  b.add(&v.rim_strength, "rim_strength", "Rim light", Unit::percent, {0, 100, 0, 3},
        "Strength of the light from behind.");
  b.add(&v.rim_color, "rim_color", "Rim colour", "Colour of the light from behind.");
  b.add(&v.rim_yaw, "rim_yaw", "Rim from the side", Unit::angle,
        {-360 * degree, 360 * degree, -180 * degree, 180 * degree},
        "Where the light from behind stands: 180° is straight behind.");
  b.add(&v.rim_pitch, "rim_pitch", "Rim height", Unit::angle,
        {-90 * degree, 90 * degree, -20 * degree, 90 * degree}, "How high the light from behind stands.");
  b.add(&v.background, "background", "Background", "Colour of the studio behind the smoke.");
  b.add(&v.floor, "floor", "Glossy floor", "A dark, polished floor under the set that mirrors the smoke.");
  b.add(&v.glass, "glass", "Glass edges", Unit::percent, {0, 1, 0, 1},
        "How clearly the edges of the pieces that hold are seen.");
  b.add(&v.halo, "halo", "Halo", Unit::percent, {0, 1, 0, 0.5}, "Light that spreads around what is bright.");
  b.add(&v.exposure, "exposure", "Exposure", Unit::none, {-20, 20, -3, 3},
        "Brightness of the picture in stops.");
  return g;
}

Group describe_camera(Camera& v) {
  Group g{"", "camera", "Shot camera", {}};
  Builder b(g);
  b.add(&v.target, "target", "Looks at", Unit::length, {-1e4, 1e4, -1, 1},
        "The point in the middle of the picture.");
  b.add(&v.distance, "distance", "Distance", Unit::length, {0.01, 1e4, 0.2, 5},
        "From the camera to that point.");
  b.add(&v.yaw, "yaw", "Around", Unit::angle, {-36000 * degree, 36000 * degree, -180 * degree, 180 * degree},
        "Walks around the set; 0° is in front.");
  b.add(&v.pitch, "pitch", "Height", Unit::angle, {-89 * degree, 89 * degree, -30 * degree, 80 * degree},
        "Looks down from above, or up from below.");
  b.add(&v.focal, "focal", "Focal length", Unit::focal, {0.008, 0.6, 0.018, 0.135},
        "Of the lens, for a frame 36 mm wide.");
  return g;
}

std::vector<double> numbers(const std::string& text, Unit unit, size_t n, const std::string& where) {
  std::vector<double> out;
  size_t start = 0;
  while (start <= text.size()) {
    size_t end = text.find(',', start);
    if (end == std::string::npos) end = text.size();
    out.push_back(parse_quantity(text.substr(start, end - start), unit, where));
    start = end + 1;
  }
  if (out.size() != n)
    throw shot_fault(where, "needs " + std::to_string(n) + " values.",
                     "Write them with commas, for example 1, 2, 3.");
  return out;
}

double checked(double v, const Setting& s, const std::string& where) {
  // The tolerance lets a value pass that was printed with few digits at the very edge of the range.
  const double slack = 1e-9 * std::max(std::abs(s.low), std::abs(s.high));
  if (!(v >= s.low - slack && v <= s.high + slack))
    throw shot_fault(
        where, format_quantity(v, s.unit) + " is out of range.",
        "Choose between " + format_quantity(s.low, s.unit) + " and " + format_quantity(s.high, s.unit) + ".");
  return v;
}

const std::string& checked_text(const std::string& text, const std::string& where) {
  if (text.size() > text_longest)
    throw shot_fault(where, "is longer than " + std::to_string(text_longest) + " bytes.",
                     "Write a shorter text.");
  if (!is_utf8(text)) throw shot_fault(where, "is not valid UTF-8.", "Write it in UTF-8.");
  return text;
}

// sRGB transfer curve, IEC 61966-2-1.
double to_srgb(double v) { return v <= 0.0031308 ? 12.92 * v : 1.055 * std::pow(v, 1 / 2.4) - 0.055; }
double from_srgb(double v) { return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); }

template <class... F>
struct overloaded : F... {
  using F::operator()...;
};
template <class... F>
overloaded(F...) -> overloaded<F...>;

}  // namespace

std::string hex(const Color& c) {
  char b[16];
  const auto q = [](double v) { return int(std::lround(std::clamp(to_srgb(v), 0.0, 1.0) * 255)); };
  std::snprintf(b, sizeof b, "#%02x%02x%02x", q(c.r), q(c.g), q(c.b));
  return b;
}

const Piece* Shot::piece(const std::string& id) const {
  for (const Piece& p : pieces)
    if (p.id == id) return &p;
  return nullptr;
}

const Smoke* Shot::smoke(const std::string& id) const {
  for (const Smoke& s : smokes)
    if (s.id == id) return &s;
  return nullptr;
}

Group describe(Piece& v) {
  Group g{"pieces", v.id, v.name, {}};
  Builder b(g);
  const auto is = [&v](PieceKind k) { return [&v, k] { return v.kind == k; }; };
  b.add(&v.name, "name", "Name", "What the piece is called.");
  b.add(choice(v.kind, piece_kinds), "kind", "Kind", "What the piece is.");
  b.add(choice(v.part, parts), "part", "Part", "What the piece does to the smoke.");
  b.add(&v.text, "text", "Text", "The word, in any script.").applies = is(PieceKind::lettering);
  b.add(FontRef{&v.font}, "font", "Font", "A font that is shipped or installed, by its full name.").applies =
      is(PieceKind::lettering);
  b.add(&v.letter_size, "letter_size", "Letter height", Unit::length, {1e-3, 100, 0.02, 0.5},
        "Height of a capital letter.")
      .applies = is(PieceKind::lettering);
  b.add(&v.depth, "depth", "Depth", Unit::length, {1e-4, 100, 0.005, 0.2},
        "How deep the letters are from front to back.")
      .applies = is(PieceKind::lettering);
  b.add(&v.bevel, "bevel", "Bevel", Unit::length, {0, 10, 0, 0.02}, "How far the edges are rounded off.")
      .applies = is(PieceKind::lettering);
  Setting& spacing = b.add(&v.spacing, "spacing", "Letter spacing", Unit::length, {-10, 10, -0.02, 0.1},
                           "Extra room between letters.");
  spacing.applies = is(PieceKind::lettering), spacing.depth = Depth::more;
  b.add(&v.radius, "radius", "Radius", Unit::length, {1e-4, 100, 0.005, 0.3}, "Radius of the ball.").applies =
      is(PieceKind::ball);
  b.add(&v.size, "size", "Size", Unit::length, {1e-4, 100, 0.01, 1}, "Width, height and depth of the box.")
      .applies = is(PieceKind::box);
  b.add(&v.position, "position", "Position", Unit::length, {-1e3, 1e3, -1, 1},
        "Where its middle stands: right, up, forward.")
      .depth = Depth::more;
  b.add(&v.turn, "turn", "Turn", Unit::angle, {-3600 * degree, 3600 * degree, -180 * degree, 180 * degree},
        "Turned about the x, y and z axis.")
      .depth = Depth::more;
  return g;
}

Group describe(Smoke& v) {
  Group g{"smokes", v.id, v.name, {}};
  Builder b(g);
  const auto from = [&v](SourceKind k) { return [&v, k] { return v.from == k; }; };
  b.add(&v.name, "name", "Name", "What the smoke is called.");
  b.add(choice(v.from, source_kinds), "from", "Comes from", "Where the smoke comes from.");
  b.add(PieceRef{&v.source}, "source", "Source", "The piece that the smoke comes out of.").applies =
      from(SourceKind::piece);
  b.add(choice(v.seed_place, seed_places), "seed_place", "Seed",
        "Where in each letter it starts: low is in every foot of it, at one side is on its left.")
      .applies = from(SourceKind::every_part);
  b.add(&v.seed_size, "seed_size", "Seed size", Unit::percent, {0.05, 1, 0.2, 1},
        "Of the room that there is in the stroke.")
      .applies = from(SourceKind::every_part);
  b.add(&v.pour, "pour", "Pours", Unit::frames, {1, 100000, 1, 240},
        "The pour window: first and last frame.");
  b.add(choice(v.mode, pour_modes), "mode", "Mode",
        "Adds smoke at a rate, or sets the density in the source.");
  b.add(&v.density_rate, "density_rate", "Density rate", Unit::density_rate, {0, 100, 0, 0.5},
        "Smoke that is added to the source each second.")
      .applies = [&v] { return v.mode == PourMode::adds; };
  b.add(&v.density, "density", "Density", Unit::density, {0, 100, 0, 0.02},
        "Density that the source is set to.")
      .applies = [&v] { return v.mode == PourMode::sets; };
  b.add(&v.heat, "heat", "Warmth", Unit::warmth, {-200, 3000, -20, 100},
        "How much warmer than the air the smoke is.");
  b.add(&v.speed, "speed", "Source speed", Unit::speed, {0, 100, 0, 2},
        "Speed with which it leaves the source.");
  b.add(choice(v.direction, directions), "direction", "Direction", "To where it leaves the source.");
  b.add(&v.patchiness, "patchiness", "Patchiness", Unit::percent, {0, 1, 0, 1}, "How unevenly it pours.");
  Setting& patch = b.add(&v.patch_size, "patch_size", "Patch size", Unit::length, {1e-4, 100, 0.002, 0.1},
                         "Size of the uneven patches.");
  patch.depth = Depth::more, patch.applies = [&v] { return v.patchiness > 0; };
  b.add(&v.color, "color", "Colour", "Colour of the smoke; colours mix where smokes meet.");
  return g;
}

std::vector<Group> describe(Shot& shot) {
  std::vector<Group> out;
  out.push_back(describe_film(shot));
  for (Piece& p : shot.pieces) out.push_back(describe(p));
  for (Smoke& s : shot.smokes) out.push_back(describe(s));
  out.push_back(describe_gas(shot.gas));
  out.push_back(describe_forces(shot.forces));
  out.push_back(describe_run(shot.run));
  out.push_back(describe_look(shot.look));
  out.push_back(describe_camera(shot.camera));
  return out;
}

std::string to_text(const Setting& s) {
  const auto number = [&](double v) { return format_quantity(v, s.unit, 6); };
  return std::visit(
      overloaded{
          [&](double* v) { return *v == 0 && !s.zero.empty() ? s.zero : number(*v); },
          [&](int* v) { return std::to_string(*v); },
          [&](bool* v) { return std::string(*v ? "yes" : "no"); },
          [&](std::string* v) { return *v; },
          [&](Vec3d* v) { return number(v->x) + ", " + number(v->y) + ", " + number(v->z); },
          [&](Color* v) { return hex(*v); },
          [&](FrameRange* v) { return std::to_string(v->first) + "-" + std::to_string(v->last); },
          [&](const ChoiceRef& v) { return std::string(v.options[size_t(v.get())].key); },
          [&](const PieceRef& v) { return *v.id; },
          [&](const FontRef& v) { return *v.name; },
      },
      s.ref);
}

void from_text(const Setting& s, const std::string& text, const std::string& where) {
  const auto whole = [&](const std::string& t) {
    const double v =
        checked(parse_quantity(t, s.unit == Unit::frames ? Unit::frames : Unit::none, where), s, where);
    if (v != std::round(v))
      throw shot_fault(where, "“" + t + "” is not a whole number.", "Write a whole number.");
    return int(v);
  };
  std::visit(overloaded{
                 [&](double* v) {
                   const bool zero = !s.zero.empty() && text == s.zero;
                   *v = zero ? 0 : checked(parse_quantity(text, s.unit, where), s, where);
                 },
                 [&](int* v) { *v = whole(text); },
                 [&](bool* v) {
                   if (text == "yes" || text == "true" || text == "on" || text == "1")
                     *v = true;
                   else if (text == "no" || text == "false" || text == "off" || text == "0")
                     *v = false;
                   else
                     throw shot_fault(where, "“" + text + "” is neither yes nor no.", "Write yes or no.");
                 },
                 [&](std::string* v) { *v = checked_text(text, where); },
                 [&](Vec3d* v) {
                   const auto n = numbers(text, s.unit, 3, where);
                   *v = {checked(n[0], s, where), checked(n[1], s, where), checked(n[2], s, where)};
                 },
                 [&](Color* v) {
                   unsigned r = 0, g = 0, b = 0;
                   if (text.size() == 7 && std::sscanf(text.c_str(), "#%02x%02x%02x", &r, &g, &b) == 3)
                     *v = {from_srgb(r / 255.0), from_srgb(g / 255.0), from_srgb(b / 255.0)};
                   else
                     throw shot_fault(where, "“" + text + "” is not a colour.",
                                      "Write it as #rrggbb, for example #8fd6b8.");
                 },
                 [&](FrameRange* v) {
                   size_t dash = text.find('-', 1);
                   size_t width = 1;
                   if (const size_t en = text.find("–"); en != std::string::npos) dash = en, width = 3;
                   FrameRange r;
                   r.first = whole(text.substr(0, dash));
                   r.last = dash == std::string::npos ? r.first : whole(text.substr(dash + width));
                   if (r.last < r.first)
                     throw shot_fault(where, "ends before it starts (" + text + ").",
                                      "Write the first frame first, for example 1-40.");
                   *v = r;
                 },
                 [&](const ChoiceRef& v) {
                   std::vector<std::string> known;
                   for (size_t i = 0; i < v.options.size(); ++i) {
                     if (text == v.options[i].key || text == v.options[i].label) return v.set(int(i));
                     known.emplace_back(v.options[i].key);
                   }
                   std::string list;
                   for (const auto& k : known) list += (list.empty() ? "" : ", ") + k;
                   throw shot_fault(where, "“" + text + "” is not one of its choices.",
                                    "Choose one of " + list + ".");
                 },
                 [&](const PieceRef& v) { *v.id = checked_text(text, where); },
                 [&](const FontRef& v) { *v.name = checked_text(text, where); },
             },
             s.ref);
}

std::vector<std::string> setting_paths(const Shot& shot) {
  Shot copy = shot;
  std::vector<std::string> out;
  for (const Group& g : describe(copy))
    for (const Setting& s : g.settings) out.push_back(g.path(s));
  return out;
}

Setting find_setting(Shot& shot, const std::string& path) {
  for (const Group& g : describe(shot))
    for (const Setting& s : g.settings)
      if (g.path(s) == path) return s;
  const std::string near = nearest(path, setting_paths(shot));
  throw shot_fault(
      path, "is not a setting of this shot.",
      near.empty() ? "List them with “easy-pour-cli show FILE”." : "Did you mean “" + near + "”?");
}

namespace {

bool same_value(const Setting& a, const Setting& b) {
  return std::visit(
      [&](const auto& x) {
        const auto& y = std::get<std::decay_t<decltype(x)>>(b.ref);
        using T = std::decay_t<decltype(x)>;
        if constexpr (std::is_same_v<T, ChoiceRef>)
          return x.get() == y.get();
        else if constexpr (std::is_same_v<T, PieceRef>)
          return *x.id == *y.id;
        else if constexpr (std::is_same_v<T, FontRef>)
          return *x.name == *y.name;
        else
          return *x == *y;
      },
      a.ref);
}

/// “1 → 0.4”, with as many digits as it takes to tell the two apart.
std::string difference(const Setting& a, const Setting& b) {
  const auto shown = [](const Setting& s, int digits) {
    const auto numbers = [](std::initializer_list<double> values) {
      std::string out;
      for (const double v : values) {
        char text[32];
        std::snprintf(text, sizeof text, "%s%.17g", out.empty() ? "" : ", ", v);
        out += text;
      }
      return out;
    };
    if (const auto* c = std::get_if<ChoiceRef>(&s.ref))
      return std::string(c->options[size_t(c->get())].label);
    if (const auto* v = std::get_if<double*>(&s.ref))
      return digits > 12 ? numbers({**v}) : format_quantity(**v, s.unit, digits);
    if (const auto* v = std::get_if<Vec3d*>(&s.ref); v && digits > 6)
      return numbers({(*v)->x, (*v)->y, (*v)->z});
    if (const auto* v = std::get_if<Color*>(&s.ref); v && digits > 6)
      return numbers({(*v)->r, (*v)->g, (*v)->b});
    return to_text(s);
  };
  for (const int digits : {3, 6, 9, 12})
    if (shown(a, digits) != shown(b, digits)) return shown(a, digits) + " → " + shown(b, digits);
  return shown(a, 17) + " → " + shown(b, 17);
}

}  // namespace

std::vector<Change> changes(const Shot& before, const Shot& after) {
  Shot a = before, b = after;
  const auto ga = describe(a), gb = describe(b);
  std::vector<Change> out;
  const auto same_place = [](const Group& x, const Group& y) { return x.list == y.list && x.key == y.key; };
  for (const Group& g : gb) {
    const Group* old = nullptr;
    for (const Group& c : ga)
      if (same_place(c, g)) old = &c;
    if (!old) {
      out.push_back({g.list + "." + g.key, g.name + " is new"});
      continue;
    }
    for (size_t i = 0; i < g.settings.size(); ++i) {
      const Setting &s = old->settings[i], &t = g.settings[i];
      if (!same_value(s, t)) out.push_back({g.path(t), t.name + " " + difference(s, t)});
    }
  }
  for (const Group& g : ga) {
    bool kept = false;
    for (const Group& c : gb) kept = kept || same_place(c, g);
    if (!kept) out.push_back({g.list + "." + g.key, g.name + " was removed"});
  }
  const auto order = [](const auto& list, const auto& of) {
    std::vector<std::string> ids;
    for (const auto& item : list)
      if (std::any_of(of.begin(), of.end(), [&](const auto& o) { return o.id == item.id; }))
        ids.push_back(item.id);
    return ids;
  };
  if (order(a.pieces, b.pieces) != order(b.pieces, a.pieces))
    out.push_back({"pieces", "The pieces are in another order"});
  if (order(a.smokes, b.smokes) != order(b.smokes, a.smokes))
    out.push_back({"smokes", "The smokes are in another order"});
  return out;
}

Shot seen_as(Shot shot, const Shot& other) {
  shot.title = other.title, shot.look = other.look, shot.camera = other.camera;
  shot.film.width = other.film.width, shot.film.height = other.film.height;
  return shot;
}

bool same_simulation(const Shot& a, const Shot& b) { return seen_as(b, a) == a; }

std::string settings_reference() {
  Shot shot;
  shot.pieces.push_back({.id = "ID", .name = "A piece"});
  shot.smokes.push_back({.id = "ID", .name = "A smoke"});
  std::string out =
      "# Settings\n\nEvery setting of a shot, as `easy-pour-cli set FILE.pour PATH=VALUE` takes it and as it "
      "stands in the file.\n"
      "This page is written by `easy-pour-cli settings`.\n";
  for (const Group& g : describe(shot)) {
    out += "\n## " + g.name + "\n\n| path | default | range | what it does |\n| --- | --- | --- | --- |\n";
    for (const Setting& s : g.settings) {
      std::string range;
      if (const auto* c = std::get_if<ChoiceRef>(&s.ref)) {
        for (const Option& o : c->options) range += (range.empty() ? "" : ", ") + std::string(o.key);
      } else if (std::holds_alternative<double*>(s.ref) || std::holds_alternative<int*>(s.ref) ||
                 std::holds_alternative<Vec3d*>(s.ref)) {
        range = format_quantity(s.low, s.unit) + " to " + format_quantity(s.high, s.unit);
      }
      out += "| `" + g.path(s) + "` | " + to_text(s) + " | " + range + " | " + s.help + " |\n";
    }
  }
  return out;
}

std::string new_id(const Shot& shot, const std::string& name) {
  std::string base;
  for (const char c : name) {
    if (std::isalnum(static_cast<unsigned char>(c)) && static_cast<unsigned char>(c) < 128)
      base += char(std::tolower(static_cast<unsigned char>(c)));
    else if (!base.empty() && base.back() != '_')
      base += '_';
  }
  while (!base.empty() && base.back() == '_') base.pop_back();
  if (base.empty()) base = "item";
  const auto taken = [&](const std::string& id) {
    for (const Piece& p : shot.pieces)
      if (p.id == id) return true;
    for (const Smoke& s : shot.smokes)
      if (s.id == id) return true;
    return false;
  };
  std::string id = base;
  for (int i = 2; taken(id); ++i) id = base + "_" + std::to_string(i);
  return id;
}

}  // namespace pour
