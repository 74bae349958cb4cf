// Every setting: what it is called, what it may be and what it touches.
#include <algorithm>
#include <string_view>

#include "shot/clock.h"
#include "shot/shot.h"

namespace pour {
namespace {

constexpr Option holds[] = {{"no", "holds nothing"}, {"yes", "holds the fluid"}};
constexpr Option blocks[] = {{"no", "lets all pass"}, {"yes", "blocks what flows"}};
constexpr Option shows[] = {{"no", "is never in the picture"}, {"yes", "is in the picture"}};
constexpr Option thin_walls[] = {{"no", "as they are"}, {"yes", "thickened for the solver"}};
constexpr Option source_kinds[] = {{"every_body", "a seed in every letter"}, {"piece", "a piece"}};
constexpr Option seed_places[] = {{"low", "low"}, {"centre", "in the centre"}, {"one_side", "at one side"}};
constexpr Option pour_modes[] = {{"adds", "Adds"}, {"sets", "Holds at"}};
constexpr Option normal_ways[] = {{"as-shown", "as they are"}, {"flipped", "flipped"}};
constexpr Option directions[] = {{"outwards", "outwards"},  {"up", "upwards"},
                                 {"down", "downwards"},     {"left", "to the left"},
                                 {"right", "to the right"}, {"front", "to the front"},
                                 {"back", "to the back"},   {"own", "in a direction of its own"}};
constexpr Option details[] = {
    {"draft", "Draft"}, {"medium", "Medium"}, {"final", "Final"}, {"custom", "Own cell size"}};

template <SourceKind kind>
bool from(const Pour& p) {
  return p.from == kind;
}

constexpr Option clarities[] = {
    {"usual", "as it usually is"}, {"clear", "clear"}, {"cloudy", "cloudy"}, {"opaque", "opaque"}};
constexpr Option backdrops[] = {{"studio", "a studio with a pool of light"}, {"plain", "one colour"},
                                {"gradient", "from one colour to another"},  {"picture", "a picture"},
                                {"room", "the room that lights it"},         {"transparent", "transparent"}};
constexpr Option floors[] = {{"glossy", "polished"}, {"matte", "matte"}, {"shadows", "only shadows"}};
constexpr Option label_places[] = {
    {"front", "on its front"}, {"around", "around it"}, {"uv", "as its model says"}};
constexpr Option stills[] = {
    {"png", "PNG"}, {"exr", "EXR, linear light"}, {"passes", "EXR with all passes"}, {"jpeg", "JPEG"}};
constexpr Option color_bys[] = {
    {"itself", "its own"}, {"speed", "by speed"}, {"age", "by age"}, {"depth", "by depth"}};
constexpr Option smoke_bys[] = {{"itself", "all alike"}, {"density", "by density"}, {"heat", "by warmth"}};
constexpr Option pour_colors[] = {{"fluid", "like its fluid"},
                                  {"piece", "like the piece"},
                                  {"patches", "in patches of three colours"},
                                  {"ramp", "from one colour to another"}};
constexpr Option ramp_ways[] = {
    {"right", "from left to right"}, {"up", "from below upwards"}, {"front", "from the back to the front"}};
constexpr Option fluid_kinds[] = {{"smoke", "Smoke"}, {"liquid", "Liquid"}};

/// Another liquid, with its own colour and at its usual temperature; one's own begins as what it was before.
void become(Fluid& f, NamedLiquid other) {
  if (f.liquid == other) return;
  if (other == NamedLiquid::own) {
    f.own = matter_of(f);
  } else {
    const LiquidName& name = named_liquids()[size_t(other)];
    f.color = name.color, f.temperature = name.usual;
  }
  f.liquid = other;
}

/// Another kind of material, with its usual figures; its relief stays.
void become(Material& m, NamedMaterial other) {
  if (m.kind == other) return;
  const Material usual = new_material(other);
  m.kind = other, m.color = usual.color, m.roughness = usual.roughness, m.index = usual.index;
}

bool may_have_label(const Piece& p) { return p.shows && !p.holds; }
/// Nothing is printed on glass.
bool takes_print(const Shot& shot, const Piece& p) {
  const Material* m = shot.material(p.material.id);
  return !m || m->substance() != Substance::glass;
}
bool has_label(const Piece& p) { return may_have_label(p) && !p.label.picture.content().empty(); }

bool label_has_size(const Piece& p) { return has_label(p) && p.label.place != LabelPlace::uv; }

bool is_liquid(const Fluid& f) { return f.kind == FluidKind::liquid; }
bool has_own_look(const Fluid& f) { return is_liquid(f) && f.material.id.empty(); }

/// Whether what only smoke feels or shows matters.
template <class T>
bool smoke_flows(const Shot& shot, const T&) {
  return shot.brings(FluidKind::smoke) || !shot.brings(FluidKind::liquid);
}

template <FluidKind kind>
bool brings(const Shot& shot, const Pour& p) {
  return shot.brings(p, kind);
}

bool has_patches(const Shot& shot, const Pour& p) {
  return p.patchiness > 0 || (p.spread > 0 && shot.brings(p, FluidKind::smoke));
}

/// The settings of each kind as settings of a piece that is of this kind.
template <class Kind>
Table<Piece> settings_of_kind() {
  Table<Piece> out;
  for (const Row<Kind>& row : Kind::settings()) {
    Row<Piece> r;
    static_cast<About&>(r) = row;
    r.get = [get = row.get](const Piece& p) { return get(std::get<Kind>(p.shape)); };
    r.set = [set = row.set](Piece& p, const Value& v) { set(std::get<Kind>(p.shape), v); };
    out.push_back(std::move(r));
  }
  return out;
}

}  // namespace

template <>
const Table<Film>& table() {
  static const Table<Film> rows = [] {
    TableOf<Film> b;
    b.touching(Touches::name);
    b.add(&Film::title, "title", "Title", "What the shot is called.");
    b.touching(Touches::layout);
    b.add(&Film::frames, "frames", "Length", Unit::frames, {1, 100000, 24, 480},
          "Number of frames of the shot.");
    b.add(&Film::fps, "fps", "Frames per second", Unit::none, {1, 1000, 12, 60},
          "Playback speed; 23.976, 29.97 and 59.94 are taken exactly.");
    b.touching(Touches::clock)
        .add(&Film::capture, "capture", "Capture speed", Unit::none, {0.01, 1e6, 0, 240},
             "Frames a second at the camera: more than are played is slow motion.")
        .zero("as played", [](const Shot&, const Film& f) {
          const FrameRate r = exact_rate(f.fps);
          return double(r.num) / r.den;
        });
    b.touching(Touches::picture);
    b.add(&Film::width, "width", "Width", Unit::none, {16, 16384, 640, 3840},
          "Width of the picture in pixels.")
        .fixed();
    b.add(&Film::height, "height", "Height", Unit::none, {16, 16384, 360, 2160},
          "Height of the picture in pixels.")
        .fixed();
    b.add(&Film::samples, "samples", "Paths a pixel", Unit::none, {0, 65536, 0, 256},
          "Of light, in what is delivered: 16 to look, 64 and more to show; real glass, liquid and smoke.")
        .zero("quick pictures")
        .fixed();
    b.add(&Film::noise, "noise", "Until its grain is", Unit::percent, {0, 1, 0, 0.1},
          "Fewer paths where as much grain is reached before: the deviation of a pixel by its brightness, "
          "before denoising.")
        .zero("not asked")
        .where([](const Film& f) { return f.samples > 0; })
        .fixed();
    b.add(&Film::stills, stills, "stills", "Images are",
          "PNG and JPEG are to be looked at; EXR is linear light, with passes for depth, normals, positions, "
          "velocities, pieces, liquids and each light.")
        .fixed();
    b.add(&Film::picture_name, "picture_name", "Images are named",
          "{shot}, {run} and {frame} stand for those; {frame:04} has four digits.")
        .fixed();
    return b.done();
  }();
  return rows;
}

template <>
const Table<Material>& table() {
  static const Table<Material> rows = [] {
    using M = Material;
    TableOf<M> b;
    b.touching(Touches::name).add(&M::name, "name", "Name", "What the material is called.");
    b.touching(Touches::picture)
        .add<Choice>(
            "kind", "Kind", "How light goes with it: it is scattered, mirrored, or goes through.",
            [](const M& m) { return Choice{int(m.kind)}; },
            [](M& m, const Choice& c) { become(m, NamedMaterial(c.index)); })
        .words(material_options())
        .fixed()
        .add(&M::color, "color", "Colour",
             "Where its piece has none of its own, as marks and models have; of glass what is left of white "
             "light behind 5 cm.")
        .add(&M::roughness, "roughness", "Roughness", Unit::percent, {0, 1, 0, 1},
             "Of its surface, or of its coat: none mirrors sharply. In traced pictures.")
        .where([](const M& m) { return m.substance() != Substance::matte; })
        .add(&M::index, "index", "Index of refraction", Unit::none, {1.01, 4, 1.3, 2.5},
             "Of the coat, or of glass: 1.33 for water, 1.5 for glass, 2.4 for diamond. In traced pictures.")
        .where([](const M& m) {
          return m.substance() == Substance::coated || m.substance() == Substance::glass;
        })
        .more()
        .add(&M::relief, "relief", "Relief", Unit::length, {0, 0.1, 0, 0.002},
             "How high the bumps of its surface are, as of bread, cast iron or hammered metal. In traced "
             "pictures.")
        .zero("smooth")
        .where([](const M& m) { return m.substance() != Substance::glass; })
        .more()
        .add(&M::relief_size, "relief_size", "Size of relief", Unit::length, {1e-5, 10, 5e-4, 0.02},
             "From one bump to the next.")
        .where([](const M& m) { return m.substance() != Substance::glass && m.relief > 0; })
        .more();
    return b.done();
  }();
  return rows;
}

template <>
const Table<Gas>& table() {
  static const Table<Gas> rows = [] {
    TableOf<Gas> b;
    b.add(&Gas::heat_lift, "heat_lift", "Lift by heat", Unit::none, {-100, 100, -2, 4},
          "How strongly warm smoke rises: 1 is what physics says, 0 is not at all, below 0 it sinks.");
    b.add(&Gas::density_lift, "density_lift", "Lift by density", Unit::none, {-1000, 1000, -4, 4},
          "What the weight of the smoke itself does: -1 sinks as physics says, 0 is weightless, above 0 it "
          "rises.");
    b.add(&Gas::density_half_life, "density_half_life", "Thins to half in", Unit::time, {0, 1e5, 0, 10},
          "Time in which the smoke fades to half.")
        .zero_holding("never");
    b.add(&Gas::heat_half_life, "heat_half_life", "Cools to half in", Unit::time, {0, 1e5, 0, 10},
          "Time in which its warmth falls to half.")
        .zero_holding("never");
    for (Row<Gas>& row : b.rows()) row.fits = smoke_flows<Gas>;
    return b.done();
  }();
  return rows;
}

template <>
const Table<Forces>& table() {
  static const Table<Forces> rows = [] {
    TableOf<Forces> b;
    b.add(&Forces::gravity, "gravity", "Gravity", Unit::acceleration, {-1000, 1000, 0, 20},
          "Pull downwards; 9.81 m/s² on Earth, 0 for weightless shots, where nothing rises or sinks.");
    b.add(&Forces::turbulence_speed, "turbulence_speed", "Turbulence", Unit::speed, {0, 100, 0, 1},
          "Speed of the eddies that are stirred into the smoke.");
    b.add(&Forces::turbulence_size, "turbulence_size", "Eddy size", Unit::length, {1e-4, 1000, 0.005, 0.5},
          "Size of the largest eddies.");
    b.add(&Forces::turbulence_rate, "turbulence_rate", "Change of eddies", Unit::rate, {0, 100, 0, 5},
          "How often a second the pattern of eddies renews itself.")
        .more();
    b.add(&Forces::confinement_speed, "confinement_speed", "Curl", Unit::speed, {0, 100, 0, 2},
          "Vorticity confinement: the speed with which curls are kept alive.");
    b.add(&Forces::confinement_length, "confinement_length", "Curl size", Unit::length,
          {1e-4, 100, 0.002, 0.1}, "The length that curl refers to; the same at every cell size.")
        .more();
    for (Row<Forces>& row : b.rows())
      if (std::string_view(row.key) != "gravity") row.fits = smoke_flows<Forces>;
    return b.done();
  }();
  return rows;
}

template <>
const Table<RunSettings>& table() {
  static const Table<RunSettings> rows = [] {
    TableOf<RunSettings> b;
    b.touching(Touches::layout);
    b.add(&RunSettings::detail, details, "detail", "Detail",
          "Draft to find the look, medium to judge it, final to deliver.");
    b.add(&RunSettings::cell_size, "cell_size", "Cell size", Unit::length, {1e-5, 100, 5e-4, 0.02},
          "Edge of a cell when the detail is an own cell size.")
        .where([](const RunSettings& v) { return v.detail == Detail::custom; });
    b.add(&RunSettings::fit_bounds, "fit_bounds", "Fit the bounds",
          "Bounds that follow the pieces, but for those that are only seen, with room for what rises and "
          "splashes.");
    constexpr auto own = [](const RunSettings& v) { return !v.fit_bounds; };
    b.add(&RunSettings::bounds_center, "bounds_center", "Centre of bounds", Unit::length, {-1e4, 1e4, -1, 1},
          "Middle of the space in which smoke is computed.")
        .where(own);
    b.add(&RunSettings::bounds_size, "bounds_size", "Size of bounds", Unit::length, {1e-3, 1e4, 0.05, 2},
          "Width, height and depth of the space in which smoke is computed.")
        .where(own);
    struct Side {
      bool RunSettings::*open;
      const char *key, *name;
    };
    for (const Side& s : {Side{&RunSettings::open_left, "open_left", "Left side open"},
                          Side{&RunSettings::open_right, "open_right", "Right side open"},
                          Side{&RunSettings::open_bottom, "open_bottom", "Bottom open"},
                          Side{&RunSettings::open_top, "open_top", "Top open"},
                          Side{&RunSettings::open_back, "open_back", "Back open"},
                          Side{&RunSettings::open_front, "open_front", "Front open"}})
      b.add(s.open, s.key, s.name, "What flows leaves through an open side; a closed one is a wall.").more();
    b.add(&RunSettings::courant, "courant", "Cells a step", Unit::none, {0.2, 5, 0.5, 5},
          "How many cells the fastest may cross in one step; smaller is slower and more exact. Liquid never "
          "takes "
          "more than two.")
        .more();
    return b.done();
  }();
  return rows;
}

template <>
const Table<SkinSettings>& table() {
  static const Table<SkinSettings> rows = [] {
    TableOf<SkinSettings> b;
    b.touching(Touches::picture);
    b.add(&SkinSettings::smoothing, "smoothing", "Smoothing", Unit::length, {0, 1, 0, 0.02},
          "The length over which the skin is smoothed, at most four cells of the run and two where it is not "
          "said; each drop keeps its "
          "volume.")
        .zero_holding("2 cells")
        .add(&SkinSettings::grow, "grow", "Grows", Unit::length, {-0.1, 0.1, -0.005, 0.005},
             "How far the skin is moved outwards, or inwards below 0.")
        .add(&SkinSettings::smallest, "smallest", "Smallest drop", Unit::length, {0, 1, 0, 0.02},
             "Drops that are less across are left out.")
        .zero("all are kept")
        .add(
            &SkinSettings::sheets, "sheets", "Thin sheets close", Unit::length, {0, 1, 0, 0.02},
            "Gaps up to this width in sheets that are thinner than the run's cells are closed, of 2.5 of its "
            "cells where it is not said; less than a cell closes none.")
        .zero_holding("2.5 cells")
        .add(&SkinSettings::cell, "cell", "Cells of the skin", Unit::length, {1e-4, 1, 5e-4, 0.01},
             "How finely the skin is made; finer than half of the run's cells shows little more.")
        .zero_holding("½ cell")
        .more()
        .add(&SkinSettings::flat, "flat", "Fewer triangles", Unit::length, {0, 0.1, 0, 0.001},
             "Where the skin is even it gets larger triangles, which are at most so far off.")
        .zero("all of them alike")
        .more();
    for (Row<SkinSettings>& row : b.rows())
      row.fits = [](const Shot& shot, const SkinSettings&) { return shot.brings(FluidKind::liquid); };
    return b.done();
  }();
  return rows;
}

/// Whether colour or glow of smoke goes by that.
template <SmokeBy by>
bool goes_by(const Look& l) {
  return l.smoke_color_by == by || (l.shine > 0 && l.shine_by == by);
}

template <>
const Table<Look>& table() {
  static const Table<Look> rows = [] {
    TableOf<Look> b;
    b.touching(Touches::light);
    b.add(&Look::thickness, "thickness", "Thickness", Unit::area_by_mass, {0, 1e7, 0, 40000},
          "How much light a gram of smoke takes out of its way.");
    b.add(&Look::glow, "glow", "Inner light", Unit::percent, {0, 4, 0, 1},
          "Light that is scattered many times inside the smoke.");
    b.add(&Look::shade, "shade", "Colour of shade",
          "What colour light takes on its way through the smoke; white leaves it as it is.");
    b.add(&Look::smoke_color_by, smoke_bys, "smoke_color_by", "Its colours",
          "Those that it was poured in, or going over into another one where it is dense or warm.")
        .fixed()
        .more();
    b.add(&Look::smoke_far_color, "smoke_far_color", "Other colour", "That of smoke that is dense, or warm.")
        .where([](const Look& l) { return l.smoke_color_by != SmokeBy::itself; })
        .more();
    b.add(&Look::far_density, "far_density", "Dense is", Unit::density, {1e-6, 100, 1e-4, 0.05},
          "The density of what has the other colour altogether, or glows most.")
        .where(goes_by<SmokeBy::density>)
        .more();
    b.add(&Look::far_heat, "far_heat", "Warm is", Unit::warmth, {0.1, 3000, 5, 200},
          "How much warmer than the air that is which has the other colour altogether, or glows most.")
        .where(goes_by<SmokeBy::heat>)
        .more();
    b.touching(Touches::picture);
    b.add(&Look::forward, "forward", "Sends light on", Unit::percent, {-0.9, 0.95, 0, 0.9},
          "How much of the light that smoke scatters goes on the way it had: smoke with the light behind it "
          "is "
          "bright, and mist around a lamp glows. In traced pictures.")
        .zero("to all sides alike")
        .more();
    b.add(&Look::shine, "shine", "Smoke glows", Unit::percent, {0, 100, 0, 4},
          "Light that it gives off by itself, also onto what stands around it. In traced pictures.")
        .zero("not at all")
        .more();
    b.add(&Look::shine_color, "shine_color", "Colour of the glow", "Of that light.")
        .where([](const Look& l) { return l.shine > 0; })
        .more();
    b.add(&Look::shine_by, smoke_bys, "shine_by", "It glows",
          "All of it alike, or where it is dense or warm.")
        .where([](const Look& l) { return l.shine > 0; })
        .fixed()
        .more();
    b.add(&Look::breakup, "breakup", "Break-up", Unit::length, {0, 1, 0, 0.02},
          "How far fine noise, which drifts along, moves the smoke in pictures: edges that a draft leaves "
          "soft "
          "become ragged. In traced pictures.")
        .zero("none")
        .more();
    b.add(&Look::breakup_size, "breakup_size", "Size of break-up", Unit::length, {1e-4, 10, 0.001, 0.05},
          "How far the noise reaches from one billow to the next.")
        .where([](const Look& l) { return l.breakup > 0; })
        .more();
    const size_t of_smoke = b.rows().size();
    b.add(
         &Look::backdrop, backdrops, "backdrop", "Behind it",
         "What is seen behind everything; transparent for pictures that are laid over others. Quick pictures "
         "show the studio.")
        .fixed();
    b.add(&Look::background, "background", "Background", "Its colour, or that above.");
    b.add(&Look::below, "below", "Colour below", "At the lower edge of the picture.")
        .where([](const Look& l) { return l.backdrop == Backdrop::gradient; });
    b.add(&Look::picture, "picture", "Picture behind", "A file that fills the frame behind everything.")
        .where([](const Look& l) { return l.backdrop == Backdrop::picture; })
        .fixed();
    b.add(&Look::floor, "floor", "Floor", "There is a floor under the set.");
    b.add(&Look::floor_kind, floors, "floor_kind", "It is",
          "Polished, matte, or only the shadows and mirror images that fall on it. Quick pictures show it "
          "polished.")
        .where([](const Look& l) { return l.floor; })
        .fixed();
    b.add(&Look::solid, "solid", "Colour of solids", "Colour of the pieces that hold nothing.");
    b.add(&Look::glass, "glass", "Glass edges", Unit::percent, {0, 1, 0, 1},
          "How clearly the edges of the pieces that hold are seen.");
    b.add(&Look::halo, "halo", "Halo", Unit::percent, {0, 1, 0, 0.5},
          "Light that spreads around what is bright.");
    b.add(&Look::exposure, "exposure", "Exposure", Unit::none, {-20, 20, -3, 3},
          "Brightness of the picture in stops.");
    b.add(&Look::contrast, "contrast", "Contrast", Unit::percent, {0.2, 3, 0.5, 1.5},
          "Of the picture around middle grey; the brightest always rolls off softly.")
        .more();
    for (Row<Look>& row : b.rows())
      if (&row < &b.rows()[of_smoke]) row.fits = smoke_flows<Look>;
    return b.done();
  }();
  return rows;
}

template <>
const Table<Camera>& table() {
  static const Table<Camera> rows = [] {
    TableOf<Camera> b;
    b.touching(Touches::picture);
    b.add(&Camera::target, "target", "Looks at", Unit::length, {-1e4, 1e4, -1, 1},
          "The point in the middle of the picture.");
    b.add(&Camera::distance, "distance", "Distance", Unit::length, {0.01, 1e4, 0.2, 5},
          "From the camera to that point.");
    b.add(&Camera::yaw, "yaw", "Around", Unit::angle,
          {-36000 * degree, 36000 * degree, -180 * degree, 180 * degree},
          "Walks around the set; 0° is in front.");
    b.add(&Camera::pitch, "pitch", "Height", Unit::angle,
          {-89 * degree, 89 * degree, -30 * degree, 80 * degree}, "Looks down from above, or up from below.");
    b.add(&Camera::focal, "focal", "Focal length", Unit::focal, {0.008, 0.6, 0.018, 0.135},
          "Of the lens, for a frame 36 mm wide.");
    b.add(&Camera::f_number, "f_number", "F-number", Unit::none, {0, 128, 0, 16},
          "How far the lens is closed: little blurs all that is not at the distance that is sharp. In traced "
          "pictures.")
        .zero_holding("all is sharp");
    b.add(&Camera::focus, "focus", "Sharp at", Unit::length, {0, 1e4, 0, 5},
          "The distance from the camera at which things are sharp.")
        .zero("what it looks at", [](const Shot&, const Camera& c) { return c.distance; })
        .where([](const Camera& c) { return c.f_number > 0; });
    b.add(&Camera::shutter, "shutter", "Shutter", Unit::angle, {0, 360 * degree, 0, 360 * degree},
          "How long it is open, of the 360° from one frame to the next: 180° is usual for film. In traced "
          "pictures.")
        .zero("no blur");
    return b.done();
  }();
  return rows;
}

template <>
const Table<Piece>& table() {
  static const Table<Piece> rows = [] {
    using P = Piece;
    TableOf<Piece> b;
    b.touching(Touches::name)
        .add(&P::name, "name", "Name", "What the piece is called.")
        .add(&P::locked, "locked", "Locked", "It can't be picked or moved in the stage.")
        .more();
    b.touching(Touches::shape)
        .add<Choice>(
            "kind", "Kind", "What the piece is.", [](const P& p) { return Choice{int(p.shape.index())}; },
            [](P& p, const Choice& c) {
              if (size_t(c.index) != p.shape.index()) p.shape = new_shape(c.index);
            })
        .words(kinds());
    b.touching(Touches::layout)
        .add(&P::holds, "holds", "Holds", "Smoke and liquid that pour into it stay in it.")
        .words(holds)
        .add(&P::blocks, "blocks", "Blocks", "It is solid: smoke and liquid flow around it.")
        .words(blocks)
        .add(&P::shows, "shows", "Shows", "It is in the picture; otherwise it is drawn just in the stage.")
        .words(shows);
    b.touching(Touches::flow)
        .add(&P::friction, "friction", "Friction", Unit::percent, {0, 1, 0, 1},
             "How much it holds back liquid that runs along it: none for what is waxed, all for what is "
             "rough.")
        .where([](const P& p) { return p.blocks || p.holds; })
        .in_shot([](const Shot& shot, const P&) { return shot.brings(FluidKind::liquid); })
        .fixed()
        .more()
        .add(&P::contact_angle, "contact_angle", "Contact angle", Unit::angle,
             {5 * degree, 175 * degree, 10 * degree, 170 * degree},
             "Between it and the edge of a drop that advances, in the liquid: little where liquid spreads, "
             "90° "
             "where it does not care, more on wax.")
        .where([](const P& p) { return p.blocks || p.holds; })
        .in_shot([](const Shot& shot, const P&) { return shot.brings(FluidKind::liquid); })
        .fixed()
        .more()
        .add(
            &P::receding_angle, "receding_angle", "Receding angle", Unit::angle,
            {5 * degree, 175 * degree, 10 * degree, 170 * degree},
            "The same of an edge that draws back. Where it is less than the contact angle, drops cling until "
            "they are too heavy.")
        .where([](const P& p) { return p.blocks || p.holds; })
        .in_shot([](const Shot& shot, const P&) { return shot.brings(FluidKind::liquid); })
        .fixed()
        .more()
        .add(&P::bounce, "bounce", "Bounce", Unit::percent, {0, 0.95, 0, 0.9},
             "How fast drops that hit it are thrown back: none as real solids do, much for what is springy. "
             "More "
             "than a drop spreads.")
        .where([](const P& p) { return p.blocks || p.holds; })
        .in_shot([](const Shot& shot, const P&) { return shot.brings(FluidKind::liquid); })
        .fixed()
        .more()
        .add(&P::stickiness, "stickiness", "Stickiness", Unit::percent, {0, 1, 0, 1},
             "How firmly it holds liquid that would come off it: none lets drops fall from below, all holds "
             "them.")
        .where([](const P& p) { return p.blocks || p.holds; })
        .in_shot([](const Shot& shot, const P&) { return shot.brings(FluidKind::liquid); })
        .fixed()
        .more()
        .add(&P::drains, "drains", "Drains", "Smoke and liquid that come into it are gone.")
        .where([](const P& p) { return !p.blocks && !p.holds; })
        .more()
        .add(&P::thickens, "thickens", "Thin walls",
             "Lets the solver take walls thinner than two cells for two cells thick, so that they are tight. "
             "Pictures show the piece as it is.")
        .words(thin_walls)
        .where([](const P& p) { return p.blocks || p.drains; })
        .fixed()
        .more();
    b.touching(Touches::picture)
        .add(&P::material, "material", "Made of",
             "One of the shot's materials, which others can be made of too; none is what the look says. One "
             "that holds is a vessel of thin glass anyway.")
        .fixed()
        .where([](const P& p) { return p.shows && !p.holds; })
        .add<PictureFile>(
            "label", "Label",
            "A picture that is printed on it, where it is not transparent. In traced pictures.",
            [](const P& p) { return p.label.picture; },
            [](P& p, const PictureFile& file) { p.label.picture = file; })
        .where(may_have_label)
        .in_shot(takes_print)
        .fixed()
        .more()
        .add<Choice>(
            "label_place", "Label goes",
            "Straight onto its front, wrapped around its upright axis, or as the texture coordinates (uv) of "
            "a "
            "model say.",
            [](const P& p) { return Choice{int(p.label.place)}; },
            [](P& p, const Choice& c) { p.label.place = LabelPlace(c.index); })
        .words(label_places)
        .where(has_label)
        .in_shot(takes_print)
        .fixed()
        .more()
        .add<double>(
            "label_height", "Label height", Unit::length, {1e-4, 100, 0.005, 0.3}, "Of the picture on it.",
            [](const P& p) { return p.label.height; }, [](P& p, const double& v) { p.label.height = v; })
        .where(label_has_size)
        .more()
        .add<double>(
            "label_middle", "Label above", Unit::length, {-100, 100, -0.2, 0.2},
            "From the middle of the piece up to that of its label.",
            [](const P& p) { return p.label.middle; }, [](P& p, const double& v) { p.label.middle = v; })
        .where(label_has_size)
        .more()
        .add<double>(
            "label_turn", "Label turned", Unit::angle,
            {-360 * degree, 360 * degree, -180 * degree, 180 * degree},
            "About the upright axis of the piece.", [](const P& p) { return p.label.turn; },
            [](P& p, const double& v) { p.label.turn = v; })
        .where(label_has_size)
        .more();
    b.touching(Touches::pose)
        .add(&P::position, "position", "Position", Unit::length, {-1e3, 1e3, -1, 1},
             "Where its middle stands: right, up, forward.")
        .more()
        .add(&P::turn, "turn", "Turn", Unit::angle,
             {-36000 * degree, 36000 * degree, -180 * degree, 180 * degree},
             "Turned about the x, y and z axis.")
        .more()
        .add(&P::scale, "scale", "Size", Unit::percent, {1e-3, 1e3, 0.1, 3},
             "All of it, against what its measures say.")
        .more()
        .add(&P::spin, "spin", "Spin", Unit::spin,
             {-36000 * degree, 36000 * degree, -360 * degree, 360 * degree},
             "Added to its turn about each axis as time goes by.")
        .more()
        .fixed()
        .add(&P::parent, "parent", "Belongs to", "The piece that it moves with.")
        .more()
        .fixed()
        .add(&P::path, "path", "Path", "The tube that it goes along, from where it stands.")
        .more()
        .fixed()
        .add(&P::along, "along", "Along the path", Unit::percent, {-1000, 1000, 0, 1},
             "How far it has come; a closed path goes round.")
        .where([](const P& p) { return !p.path.id.empty(); })
        .more()
        .add(&P::turns_along, "turns_along", "Turns with the path", "It keeps its side to where it goes.")
        .where([](const P& p) { return !p.path.id.empty(); })
        .more();
    return b.done();
  }();
  return rows;
}

const Table<Piece>& settings_of(const Piece& piece) {
  static const auto all = []<size_t... i>(std::index_sequence<i...>) {
    std::vector<Table<Piece>> out{settings_of_kind<std::variant_alternative_t<i, Shape>>()...};
    for (Table<Piece>& rows : out) {
      // After name, kind and parts, before the place.
      const auto& common = table<Piece>();
      const auto place = std::find_if(common.begin(), common.end(),
                                      [](const Row<Piece>& r) { return r.touches == Touches::pose; });
      rows.insert(rows.begin(), common.begin(), place);
      rows.insert(rows.end(), place, common.end());
    }
    return out;
  }
  (std::make_index_sequence<std::variant_size_v<Shape>>());
  return all[piece.shape.index()];
}

template <>
const Table<Fluid>& table() {
  static const Table<Fluid> rows = [] {
    using F = Fluid;
    constexpr auto liquid = is_liquid;
    constexpr auto own = [](const F& f) {
      return f.kind == FluidKind::liquid && f.liquid == NamedLiquid::own;
    };
    TableOf<F> b;
    b.touching(Touches::name).add(&F::name, "name", "Name", "What the fluid is called.");
    b.touching(Touches::layout)
        .add(&F::kind, fluid_kinds, "kind", "Kind", "Smoke fills the air; liquid falls, splashes and lies.");
    b.touching(Touches::flow)
        .add<Choice>(
            "liquid", "Liquid", "Which liquid it is: how heavy, how thick, what colour.",
            [](const F& f) { return Choice{int(f.liquid)}; },
            [](F& f, const Choice& c) { become(f, NamedLiquid(c.index)); })
        .words(liquid_options())
        .fixed()
        .where(liquid)
        .add(&F::temperature, "temperature", "Temperature", Unit::warmth, {-50, 300, 0, 100},
             "Of the liquid: warm ones are thinner, where a handbook says how much.")
        .where([](const F& f) {
          return f.kind == FluidKind::liquid && named_liquids()[size_t(f.liquid)].viscosity_at;
        })
        .more()
        .add(&F::color, "color", "Colour", "Its colour; those of smokes mix where they meet.")
        .where([](const F& f) { return !is_liquid(f) || has_own_look(f) || f.color_by != ColorBy::itself; })
        .add<double>(
            "density", "Density", Unit::mass_density, {1, 30000, 500, 2000}, "How heavy it is; water is 998.",
            [](const F& f) { return f.own.density; }, [](F& f, const double& v) { f.own.density = v; })
        .where(own)
        .add<double>(
            "viscosity", "Thickness", Unit::viscosity, {0, 1e5, 0, 20},
            "Viscosity: water has 1 mPa·s, oil 84 mPa·s, honey 10 Pa·s.",
            [](const F& f) { return f.own.viscosity; }, [](F& f, const double& v) { f.own.viscosity = v; })
        .where(own)
        .add<double>(
            "yield", "Yield stress", Unit::pressure, {0, 1e6, 0, 50},
            "The stress below which it stands like a solid: ketchup has 25 Pa, water none.",
            [](const F& f) { return f.own.yield; }, [](F& f, const double& v) { f.own.yield = v; })
        .where(own)
        .more()
        .add<double>(
            "exponent", "Thinning", Unit::none, {0.05, 2, 0.1, 1},
            "Exponent of its flow law (Herschel-Bulkley): 1 is as thick at any pace, less gets thinner when "
            "it "
            "is stirred.",
            [](const F& f) { return f.own.exponent; }, [](F& f, const double& v) { f.own.exponent = v; })
        .where(own)
        .more()
        .add<double>(
            "tension", "Surface tension", Unit::tension, {0, 1, 0, 0.1},
            "What draws it together into drops: water has 73 mN/m, oil 32.",
            [](const F& f) { return f.own.tension; }, [](F& f, const double& v) { f.own.tension = v; })
        .where(own)
        .add(&F::longest_life, "longest_life", "Largest age", Unit::time, {0, 1e5, 0, 20},
             "Of what was poured: older liquid is taken away.")
        .zero_holding("for ever")
        .where(liquid)
        .more()
        .add(&F::liveliness, "liveliness", "Liveliness", Unit::percent, {0, 1, 0, 1},
             "How much it keeps of what is too fine for cells: none flows calmly, more splashes wilder.")
        .where(liquid)
        .more();
    b.add(
         &F::mixes_in, "mixes_in", "Mixes in", Unit::time, {0, 1e5, 0, 10},
         "Its colour and that of what it touches become one: half of the difference is gone after this long.")
        .zero_holding("never")
        .where(liquid)
        .in_shot([](const Shot& shot, const F&) {
          return shot.fluids.size() > 1 ||
                 std::any_of(shot.pours.begin(), shot.pours.end(),
                             [](const Pour& p) { return p.colors != PourColors::fluid; });
        })
        .more();
    b.touching(Touches::picture)
        .add(&F::material, "material", "Looks like",
             "One of the shot's materials, as chrome or glass: it has its colour from that, unless it is "
             "coloured by something. None is what the liquid looks like.")
        .where(liquid)
        .fixed()
        .more()
        .add(&F::clarity, clarities, "clarity", "Clearness",
             "Light goes straight through what is clear, is scattered in what is cloudy, at the surface of "
             "what is opaque. In traced pictures.")
        .where(has_own_look)
        .fixed()
        .more()
        .add(&F::depth, "depth", "Depth", Unit::length, {1e-5, 100, 1e-4, 0.1},
             "Of a clear liquid, how thick it is where it has its colour; of a cloudy one, how far light "
             "comes "
             "until it is scattered.")
        .where([](const F& f) {
          return has_own_look(f) && (f.clarity == Clarity::clear || f.clarity == Clarity::cloudy);
        })
        .more()
        .add(&F::color_by, color_bys, "color_by", "Coloured",
             "All of it alike, or each place by how fast, how old or how thick it is there.")
        .where(liquid)
        .fixed()
        .more()
        .add(&F::far_color, "far_color", "Other colour", "That of what is fast, old or thick.")
        .where([](const F& f) { return f.kind == FluidKind::liquid && f.color_by != ColorBy::itself; })
        .more()
        .add(&F::far_speed, "far_speed", "Reached at", Unit::speed, {1e-4, 1000, 0.05, 5},
             "The speed of what has the other colour altogether.")
        .where([](const F& f) { return f.kind == FluidKind::liquid && f.color_by == ColorBy::speed; })
        .more()
        .add(&F::far_age, "far_age", "Reached after", Unit::time, {1e-3, 1e5, 0.1, 10},
             "The age of what has the other colour altogether.")
        .where([](const F& f) { return f.kind == FluidKind::liquid && f.color_by == ColorBy::age; })
        .more()
        .add(&F::far_depth, "far_depth", "Reached when thick", Unit::length, {1e-4, 100, 0.002, 0.1},
             "How thick what has the other colour altogether is: across, of the largest ball that fits in.")
        .where([](const F& f) { return f.kind == FluidKind::liquid && f.color_by == ColorBy::depth; })
        .more()
        .add(&F::bubbles, "bubbles", "Bubbles", Unit::percent, {0, 0.2, 0, 0.05},
             "How much of its volume is bubbles of air, which it carries along. In traced pictures.")
        .zero("none")
        .where(liquid)
        .in_shot(is_see_through)
        .more()
        .add(&F::bubble_size, "bubble_size", "Largest bubble", Unit::length, {1e-4, 0.1, 5e-4, 0.01},
             "Across; the smallest are a third of it.")
        .where([](const F& f) { return is_liquid(f) && f.bubbles > 0; })
        .in_shot(is_see_through)
        .more();
    return b.done();
  }();
  return rows;
}

Clearness clearness_of(const Fluid& f) {
  const LiquidName& name = named_liquids()[size_t(f.liquid)];
  if (f.clarity != Clarity::usual) return {f.clarity, f.depth, name.index};
  return {name.clarity, name.depth, name.index};
}

bool is_see_through(const Shot& shot, const Fluid& f) {
  const Material* m = shot.material(f.material.id);
  return is_liquid(f) &&
         (m ? m->substance() == Substance::glass : clearness_of(f).clarity != Clarity::opaque);
}

Matter matter_of(const Fluid& f) {
  const LiquidName& name = named_liquids()[size_t(f.liquid)];
  if (f.liquid == NamedLiquid::own) return f.own;
  Matter m = name.matter;
  if (name.viscosity_at) m.viscosity = name.viscosity_at(f.temperature);
  return m;
}

template <>
const Table<Pour>& table() {
  static const Table<Pour> rows = [] {
    using P = Pour;
    TableOf<Pour> b;
    b.touching(Touches::name).add(&P::name, "name", "Name", "What the pour is called.");
    b.touching(Touches::layout)
        .add(&P::fluid, "fluid", "Fluid", "What it pours.")
        .add(&P::from, source_kinds, "from", "Comes from", "Where the smoke comes from.")
        .add(&P::source, "source", "Source", "The piece that the smoke comes out of.")
        .where(from<SourceKind::piece>)
        .add(&P::seed_place, seed_places, "seed_place", "Seed",
             "Where in each letter it starts: low is in every foot of it, at one side is on its left.")
        .where(from<SourceKind::every_body>)
        .add(&P::seed_size, "seed_size", "Seed size", Unit::percent, {0.05, 1, 0.2, 1},
             "Of the room that there is in the stroke.")
        .where(from<SourceKind::every_body>)
        .add(&P::windows, "windows", "Pours", Unit::frames, {1, 100000, 1, 240},
             "The pour windows: the first and the last frame of each.")
        .add(&P::pulse_period, "pulse_period", "Pulses every", Unit::frames, {0, 100000, 0, 48},
             "In its windows it pours and rests in turn; 2 and half of it is every second frame.")
        .zero("never")
        .more()
        .add(&P::pulse_share, "pulse_share", "Share of a pulse", Unit::percent, {0.001, 1, 0.05, 1},
             "How much of each period it pours, from its beginning.")
        .where([](const P& p) { return p.pulse_period > 0; })
        .more()
        .add(&P::fill_at, "fill_at", "Full at frame", Unit::frames, {0, 100000, 0, 240},
             "The frame at which all of its source is filled at once, with its density.")
        .zero("never")
        .more()
        .add(&P::mode, pour_modes, "mode", "Mode", "Adds smoke at a rate, or sets the density in the source.")
        .in_shot(brings<FluidKind::smoke>);
    b.touching(Touches::flow)
        .add(
            &P::rate, "rate", "Rate", Unit::volume_rate, {0, 1, 0, 2e-4},
            "Liquid that comes out each second. Out of a flat source it comes as thin as its speed makes it.")
        .zero_holding("as its speed brings")
        .in_shot(brings<FluidKind::liquid>)
        .add(&P::density_rate, "density_rate", "Density rate", Unit::density_rate, {0, 100, 0, 0.5},
             "Smoke that is added to the source each second.")
        .where([](const P& p) { return p.mode == PourMode::adds; })
        .in_shot(brings<FluidKind::smoke>)
        .add(&P::density, "density", "Density", Unit::density, {0, 100, 0, 0.02},
             "Density that the source is set to, or filled with.")
        .where([](const P& p) { return p.mode == PourMode::sets || p.fill_at > 0; })
        .in_shot(brings<FluidKind::smoke>)
        .add(&P::heat, "heat", "Warmth", Unit::warmth, {-200, 3000, -20, 100},
             "How much warmer than the air the smoke is.")
        .in_shot(brings<FluidKind::smoke>)
        .add(&P::speed, "speed", "Source speed", Unit::speed, {0, 100, 0, 2},
             "Speed with which it leaves the source.")
        .add(&P::direction, directions, "direction", "Direction", "To where it leaves the source.")
        .add(&P::aim, "aim", "Own direction", Unit::none, {-1e3, 1e3, -1, 1},
             "The direction in which it leaves.")
        .where([](const P& p) { return p.direction == Direction::own; })
        .add(&P::outward, "outward", "Outward speed", Unit::speed, {0, 100, 0, 2},
             "Besides, away from the surface of its source on all sides.")
        .where([](const P& p) { return p.direction != Direction::outwards; })
        .more()
        .add(&P::flipped, "flipped", "Normals",
             "What leaves along the normals of its source goes to where these point, or against them.")
        .words(normal_ways)
        .where([](const P& p) { return p.direction == Direction::outwards || p.outward > 0; })
        .more()
        .add(&P::width, "width", "Only its surface", Unit::length, {0, 10, 0, 0.02},
             "How deep under the surface of its piece it pours; liquid out of a disc or a plane is thin "
             "already.")
        .zero_holding("all of it")
        .where([](const P& p) { return p.from == SourceKind::piece; })
        .more()
        .add(&P::spread, "spread", "Spread", Unit::angle, {0, 180 * degree, 0, 45 * degree},
             "How far it scatters to all sides of its direction; smoke in patches.")
        .more()
        .add(&P::inherit, "inherit", "Keeps its swing", Unit::percent, {-10, 10, 0, 1},
             "How much of the speed of its source it takes along.")
        .more()
        .add(&P::patchiness, "patchiness", "Patchiness", Unit::percent, {0, 1, 0, 1},
             "How unevenly it pours.")
        .add(&P::patch_size, "patch_size", "Patch size", Unit::length, {1e-4, 100, 0.002, 0.1},
             "Size of the uneven patches, in the space of its piece.")
        .in_shot(has_patches)
        .more()
        .add(&P::patch_rate, "patch_rate", "Patches change", Unit::rate, {0, 100, 0, 10},
             "How often a second the patches become others.")
        .zero("never")
        .in_shot(has_patches)
        .fixed()
        .more()
        .add(&P::patch_seed, "patch_seed", "Seed of patches", Unit::none, {1, 9999, 1, 100},
             "Another number makes other patches.")
        .in_shot(has_patches)
        .fixed()
        .more()
        .add(&P::colors, pour_colors, "colors", "Coloured",
             "Like its fluid, like the drawing or the model that it comes out of, or by place in it.")
        .fixed()
        .more()
        .add(&P::second_color, "second_color", "Second colour", "Beside that of its fluid.")
        .where([](const P& p) { return p.colors == PourColors::patches || p.colors == PourColors::ramp; })
        .more()
        .add(&P::third_color, "third_color", "Third colour", "Of the patches.")
        .where([](const P& p) { return p.colors == PourColors::patches; })
        .more()
        .add(&P::color_size, "color_size", "Size of patches", Unit::length, {1e-4, 100, 0.002, 0.1},
             "From one patch of colour to the next.")
        .where([](const P& p) { return p.colors == PourColors::patches; })
        .more()
        .add(&P::ramp_way, ramp_ways, "ramp_way", "It goes",
             "From the colour of its fluid to the second one.")
        .where([](const P& p) { return p.colors == PourColors::ramp; })
        .fixed()
        .more();
    return b.done();
  }();
  return rows;
}

}  // namespace pour
