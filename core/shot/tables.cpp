// All settings: names, ranges and what they touch.
#include <algorithm>
#include <string_view>

#include "shot/clock.h"
#include "shot/shot.h"

namespace pour {
namespace {

constexpr Option holds[] = {{"no", "holds nothing"}, {"yes", "holds the fluid"}};
constexpr Option blocks[] = {{"no", "lets all pass"}, {"yes", "blocks the fluid"}};
constexpr Option shows[] = {{"no", "is never in the picture"}, {"yes", "is in the picture"}};
constexpr Option thin_walls[] = {{"no", "as they are"}, {"yes", "thickened for the solver"}};
constexpr Option source_kinds[] = {{"every_body", "a seed in every letter"}, {"piece", "a piece"}};
constexpr Option places_of_seeds[seed_places] = {{"low", "low"},          {"centre", "in the centre"},
                                                 {"left", "on the left"}, {"right", "on the right"},
                                                 {"top", "at the top"},   {"back", "at the back"}};
constexpr Option pour_modes[] = {{"adds", "Feeds"}, {"sets", "Keeps at"}};
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

constexpr Option backdrops[] = {{"studio", "a studio with a pool of light"}, {"plain", "one colour"},
                                {"gradient", "from one colour to another"},  {"picture", "a picture"},
                                {"room", "the room that lights it"},         {"transparent", "transparent"}};
constexpr Option floors[] = {{"glossy", "polished"}, {"matte", "matte"}, {"shadows", "only its shadows"}};
constexpr Option label_places[] = {
    {"front", "on its front"}, {"around", "around it"}, {"uv", "as its model says"}};
constexpr Option stills[] = {
    {"png", "PNG"}, {"exr", "EXR, linear light"}, {"passes", "EXR with all passes"}, {"jpeg", "JPEG"}};
constexpr Option smoke_bys[] = {{"itself", "evenly"}, {"density", "by density"}, {"heat", "by warmth"}};
constexpr Option pour_colors[] = {{"fluid", "like its fluid"},
                                  {"piece", "like the piece"},
                                  {"patches", "in patches of three colours"},
                                  {"ramp", "from one colour to another"}};
constexpr Option ramp_ways[] = {
    {"right", "from left to right"}, {"up", "from below upwards"}, {"front", "from the back to the front"}};

/// Another kind of material, with its usual figures; its relief stays.
void become(Material& m, NamedMaterial other) {
  if (m.kind == other) return;
  const Material usual = new_material(other);
  m.kind = other, m.color = usual.color, m.roughness = usual.roughness, m.index = usual.index;
}

bool may_have_label(const Piece& p) { return p.may_show() && !p.holds; }
/// Nothing is printed on glass.
bool takes_print(const Shot& shot, const Piece& p) {
  const Material* m = shot.material(p.material.id);
  return !m || m->substance() != Substance::glass;
}
bool has_label(const Piece& p) { return may_have_label(p) && !p.label.picture.content().empty(); }

bool label_has_size(const Piece& p) { return has_label(p) && p.label.place != LabelPlace::uv; }

/// Whether settings of smoke have an effect.
template <class T>
bool smoke_flows(const Shot& shot, const T&) {
  return shot.brings(FlowKind::gas) || !shot.brings(FlowKind::liquid);
}

template <FlowKind kind>
bool brings(const Shot& shot, const Pour& p) {
  return shot.brings(p, kind);
}

bool has_patches(const Shot& shot, const Pour& p) {
  return p.patchiness > 0 || (p.spread > 0 && shot.brings(p, FlowKind::gas));
}

template <class Kind>
Table<Piece> settings_of_kind() {
  return as_settings_of<Piece, Kind>(&Piece::shape, Kind::settings());
}

}  // namespace

template <>
const Table<Film>& table() {
  static const Table<Film> rows = [] {
    TableOf<Film> b;
    b.touching(Touches::name);
    b.add(&Film::title, "title", "Title", "Title of the shot, used in windows and file names.");
    b.touching(Touches::layout);
    b.add(&Film::frames, "frames", "Frames", Unit::frames, {1, 100000, 24, 480},
          "Length of the film in frames.");
    b.add(&Film::frame_rate, "frame_rate", "Frame rate", Unit::none, {1, 1000, 12, 60},
          "Frame rate of the film. 23.976, 29.97 and 59.94 mean the exact fractions.")
        .formerly("fps");
    b.touching(Touches::clock)
        .add(&Film::capture, "capture", "Capture speed", Unit::none, {0.01, 1e6, 0, 240},
             "Frames per second at the camera. Values above the frame rate give slow motion: 96 in a film of "
             "24 is four times slower.")
        .zero("as played", [](const Shot&, const Film& f) {
          const FrameRate r = exact_rate(f.frame_rate);
          return double(r.num) / r.den;
        });
    b.touching(Touches::picture);
    b.add(&Film::width, "width", "Width", Unit::none, {16, 16384, 640, 3840}, "Picture width in pixels.")
        .fixed();
    b.add(&Film::height, "height", "Height", Unit::none, {16, 16384, 360, 2160}, "Picture height in pixels.")
        .fixed();
    b.add(&Film::samples, "samples", "Samples per pixel", Unit::none, {0, 65536, 0, 256},
          "Light paths traced for each pixel of a delivered picture. More give less noise and take longer: "
          "16 for a look, 64 or more to show.")
        .zero("quick pictures")
        .fixed();
    b.add(&Film::noise, "noise", "Noise threshold", Unit::percent, {0, 1, 0, 0.1},
          "Stops once the average noise of the picture (standard error ÷ brightness, before denoising) falls "
          "below this.")
        .zero("none")
        .where([](const Film& f) { return f.samples > 0; })
        .fixed();
    b.add(&Film::loop, "loop", "Loop blend", Unit::frames, {0, 10000, 0, 48},
          "Number of frames at the end that fade into the first ones, so that the film repeats without a "
          "jump. The film becomes shorter by them.")
        .zero("none")
        .fixed();
    b.add(&Film::image_format, stills, "image_format", "Image format",
          "File format of delivered stills. PNG and JPEG are ready to view. EXR holds linear light and can "
          "hold passes for compositing.")
        .formerly("stills")
        .fixed();
    b.add(&Film::image_names, "image_names", "Image names",
          "File name of each picture. {shot}, {run} and {frame} are filled in; {frame:04} has four digits.")
        .formerly("picture_name")
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
    b.touching(Touches::name).add(&M::name, "name", "Name", "Name of the material.");
    b.touching(Touches::picture)
        .add<Choice>(
            "kind", "Kind",
            "Type of surface. It decides whether light is scattered, reflected or let through.",
            [](const M& m) { return Choice{int(m.kind)}; },
            [](M& m, const Choice& c) { become(m, NamedMaterial(c.index)); })
        .words(material_options())
        .fixed()
        .add(&M::color, "color", "Colour",
             "Base colour, used where a mark or model brings no colour of its own. For glass: the tint of "
             "white light after 5 cm.")
        .add(&M::roughness, "roughness", "Roughness", Unit::percent, {0, 1, 0, 1},
             "Roughness of the surface or its coat. 0 % reflects like a mirror, 100 % gives broad, soft "
             "highlights.")
        .traced()
        .where([](const M& m) { return m.substance() != Substance::matte; })
        .add(&M::index, "index", "Refractive index", Unit::none, {1.01, 4, 1.3, 2.5},
             "Refractive index of the glass or the coat. Higher values bend and reflect more light: water "
             "1.33, glass 1.5, diamond 2.4.")
        .traced()
        .where([](const M& m) {
          return m.substance() == Substance::coated || m.substance() == Substance::glass;
        })
        .more()
        .add(&M::relief, "bump_height", "Bump height", Unit::length, {0, 0.1, 0, 0.002},
             "Height of small bumps on the surface, for example of bread, cast iron or hammered metal.")
        .formerly("relief")
        .traced()
        .zero("smooth")
        .where([](const M& m) { return m.substance() != Substance::glass; })
        .more()
        .add(&M::relief_size, "bump_size", "Bump size", Unit::length, {1e-5, 10, 5e-4, 0.02},
             "Distance from one bump to the next.")
        .formerly("relief_size")
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
    b.add(&Gas::heat_lift, "heat_lift", "Heat lift", Unit::none, {-100, 100, -2, 4},
          "Buoyancy of warm smoke. 1 is physically right, 0 turns it off, negative values make warm smoke "
          "sink.");
    b.add(
        &Gas::density_lift, "density_lift", "Density lift", Unit::none, {-1000, 1000, -4, 4},
        "Effect of the smoke's own weight. -1 sinks as physics says, 0 is weightless, positive values rise.");
    b.add(&Gas::density_half_life, "density_half_life", "Density half-life", Unit::time, {0, 1e5, 0, 10},
          "Time in which the smoke thins to half its density.")
        .zero_holding("never");
    b.add(&Gas::heat_half_life, "heat_half_life", "Heat half-life", Unit::time, {0, 1e5, 0, 10},
          "Time in which the smoke loses half of its heat, and with it half of its lift.")
        .zero_holding("never");
    for (Row<Gas>& row : b.rows()) row.fits = smoke_flows<Gas>;
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
          "Fineness of the simulation. Draft is for finding the look, medium for judging it, final for "
          "delivery.");
    b.add(&RunSettings::cell_size, "cell_size", "Cell size", Unit::length, {1e-5, 100, 5e-4, 0.02},
          "Edge length of a simulation cell. Half the size shows twice the detail and takes about 16 times "
          "as long.")
        .where([](const RunSettings& v) { return v.detail == Detail::custom; });
    b.add(&RunSettings::fit_bounds, "fit_bounds", "Fit bounds",
          "Fits the bounds to the pieces that take part in the simulation, with room above for smoke and "
          "splashes.");
    constexpr auto own = [](const RunSettings& v) { return !v.fit_bounds; };
    b.add(&RunSettings::bounds_center, "bounds_center", "Bounds centre", Unit::length, {-1e4, 1e4, -1, 1},
          "Centre of the simulated space. Fluid outside the bounds is not simulated.")
        .where(own);
    b.add(&RunSettings::bounds_size, "bounds_size", "Bounds size", Unit::length, {1e-3, 1e4, 0.05, 2},
          "Width, height and depth of the simulated space. Fluid outside the bounds is not simulated.")
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
      b.add(s.open, s.key, s.name,
            "Lets fluid leave through this side of the bounds. A closed side acts as a wall.")
          .more();
    b.add(&RunSettings::courant, "courant", "Courant number", Unit::none, {0.2, 5, 0.5, 5},
          "Courant number: cells that the fastest fluid may cross in a step. Lower is slower and more exact. "
          "Liquid stays below 2.")
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
          "Length over which the skin of the liquid is smoothed, at most 4 cells. Every drop keeps its "
          "volume.")
        .zero_holding("2 cells")
        .add(&SkinSettings::grow, "grow", "Grow", Unit::length, {-0.1, 0.1, -0.005, 0.005},
             "Moves the skin outwards by this distance, or inwards when negative.")
        .add(&SkinSettings::smallest, "smallest", "Smallest drop", Unit::length, {0, 1, 0, 0.02},
             "Deletes drops with a smaller diameter than this.")
        .zero("none")
        .add(&SkinSettings::sheets, "close_gaps", "Close gaps", Unit::length, {0, 1, 0, 0.02},
             "Closes gaps up to this width in sheets thinner than a cell. Less than one cell closes none.")
        .formerly("sheets")
        .zero_holding("2.5 cells")
        .add(&SkinSettings::cell, "cell", "Skin cell size", Unit::length, {1e-4, 1, 5e-4, 0.01},
             "Cell size of the skin. Below half a simulation cell the skin hardly gains detail.")
        .zero_holding("½ cell")
        .more()
        .add(&SkinSettings::flat, "flat", "Flat tolerance", Unit::length, {0, 0.1, 0, 0.001},
             "Largest error allowed when flat areas get fewer triangles.")
        .zero("none")
        .more();
    for (Row<SkinSettings>& row : b.rows())
      row.fits = [](const Shot& shot, const SkinSettings&) { return shot.brings(FlowKind::liquid); };
    return b.done();
  }();
  return rows;
}

/// Whether colour or emission of smoke depends on it.
template <SmokeBy by>
bool goes_by(const Look& l) {
  return l.smoke_color_by == by || (l.shine > 0 && l.shine_by == by);
}

template <>
const Table<Look>& table() {
  static const Table<Look> rows = [] {
    TableOf<Look> b;
    b.touching(Touches::light);
    b.add(&Look::thickness, "extinction", "Extinction", Unit::area_by_mass, {0, 1e7, 0, 40000},
          "Extinction: how strongly each gram of smoke dims light passing through.")
        .formerly("thickness");
    b.add(&Look::glow, "multiple_scattering", "Multiple scattering", Unit::percent, {0, 4, 0, 1},
          "Strength of the light scattered many times inside the smoke. More brightens its dense, shaded "
          "parts.")
        .formerly("glow");
    b.add(&Look::shade, "shadow_tint", "Shadow tint",
          "Tint that light takes on inside the smoke, seen most in its shadows. White leaves it unchanged.")
        .formerly("shade");
    b.add(&Look::smoke_color_by, smoke_bys, "color_by", "Coloured by",
          "Keeps the poured colours, or blends towards a second colour where the smoke is dense or hot.")
        .formerly("smoke_color_by")
        .more();
    b.add(&Look::smoke_far_color, "second_color", "Second colour",
          "Second colour, reached where the smoke is dense or hot.")
        .formerly("smoke_far_color")
        .where([](const Look& l) { return l.smoke_color_by != SmokeBy::itself; })
        .more();
    b.add(&Look::far_density, "full_density", "Full density", Unit::density, {1e-6, 100, 1e-4, 0.05},
          "Density at which the smoke has fully taken the second colour, or glows at full strength.")
        .formerly("far_density")
        .where(goes_by<SmokeBy::density>)
        .more();
    b.add(&Look::far_heat, "full_warmth", "Full warmth", Unit::warmth, {0.1, 3000, 5, 200},
          "Temperature above the air at which the smoke has fully taken the second colour, or glows at full "
          "strength.")
        .formerly("far_heat")
        .where(goes_by<SmokeBy::heat>)
        .more();
    b.touching(Touches::picture);
    b.add(&Look::forward, "forward", "Forward scatter", Unit::percent, {-0.9, 0.95, 0, 0.9},
          "Forward scattering: positive values brighten smoke lit from behind, negative values smoke lit "
          "from the front. Mist has about 85 %.")
        .traced()
        .zero("even")
        .more();
    b.add(&Look::shine, "emission", "Emission", Unit::percent, {0, 100, 0, 4},
          "Emission: light from the smoke itself. It also lights nearby pieces.")
        .formerly("shine")
        .traced()
        .zero("none")
        .more();
    b.add(&Look::shine_color, "emission_color", "Emission colour", "Colour of the emitted light.")
        .formerly("shine_color")
        .where([](const Look& l) { return l.shine > 0; })
        .more();
    b.add(&Look::shine_by, smoke_bys, "emission_by", "Emission by",
          "Where the smoke glows: everywhere, or more strongly where it is dense or hot.")
        .formerly("shine_by")
        .where([](const Look& l) { return l.shine > 0; })
        .more();
    b.add(&Look::breakup, "breakup", "Breakup", Unit::length, {0, 1, 0, 0.02},
          "Displaces the smoke by fine noise of this strength that drifts along with it. Soft edges of a "
          "draft become ragged.")
        .traced()
        .zero("none")
        .more();
    b.add(&Look::breakup_size, "breakup_size", "Breakup size", Unit::length, {1e-4, 10, 0.001, 0.05},
          "Distance from one billow of the breakup noise to the next.")
        .where([](const Look& l) { return l.breakup > 0; })
        .more();
    const size_t of_smoke = b.rows().size();
    b.add(&Look::backdrop, backdrops, "backdrop", "Backdrop",
          "What stands behind the set. Choose transparent for pictures that are laid over others. Quick "
          "pictures always show the studio.")
        .fixed();
    b.add(&Look::backdrop_color, "backdrop_color", "Backdrop colour",
          "Colour of the backdrop, or of its upper edge where it is a gradient.")
        .formerly("background");
    b.add(&Look::below, "lower_color", "Lower colour", "Colour at the lower edge of a gradient backdrop.")
        .formerly("below")
        .where([](const Look& l) { return l.backdrop == Backdrop::gradient; });
    b.add(&Look::backdrop_picture, "backdrop_picture", "Backdrop picture",
          "Picture file that fills the frame behind the set.")
        .formerly("picture")
        .where([](const Look& l) { return l.backdrop == Backdrop::picture; })
        .fixed();
    b.add(&Look::floor, "floor", "Floor", "Puts a floor under the set at height 0.");
    b.add(&Look::floor_surface, floors, "floor_surface", "Floor surface",
          "Surface of the floor: polished, matte, or only its shadows and reflections. Quick pictures always "
          "show it polished.")
        .formerly("floor_kind")
        .where([](const Look& l) { return l.floor; });
    b.add(&Look::solid, "solid", "Solid colour", "Colour of pieces that hold no fluid and have no material.");
    b.add(&Look::glass, "glass", "Glass edges", Unit::percent, {0, 1, 0, 1},
          "Visibility of the edges of glass vessels. 0 % hides them.");
    b.add(&Look::halo, "halo", "Halo", Unit::percent, {0, 1, 0, 0.5},
          "Glare that spreads around bright areas, as in a lens.");
    b.add(&Look::exposure, "exposure", "Exposure", Unit::none, {-20, 20, -3, 3},
          "Exposure of the picture in stops. Each stop up doubles the brightness.");
    b.add(&Look::contrast, "contrast", "Contrast", Unit::percent, {0.2, 3, 0.5, 1.5},
          "Contrast around middle grey. 100 % is neutral; highlights always roll off softly.")
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
    b.add(&Camera::target, "target", "Target", Unit::length, {-1e4, 1e4, -1, 1},
          "Point in the set at the centre of the picture.");
    b.add(&Camera::distance, "distance", "Distance", Unit::length, {0.01, 1e4, 0.2, 5},
          "Distance from the camera to the point it looks at.");
    b.add(&Camera::azimuth, "azimuth", "Azimuth", Unit::angle,
          {-36000 * degree, 36000 * degree, -180 * degree, 180 * degree},
          "Direction of the camera around the set: 0° is in front, 90° on the right.")
        .formerly("yaw");
    b.add(&Camera::elevation, "elevation", "Elevation", Unit::angle,
          {-89 * degree, 89 * degree, -30 * degree, 80 * degree},
          "Elevation of the camera above the ground. Positive looks down on the set, negative looks up.")
        .formerly("pitch");
    b.add(&Camera::focal, "focal_length", "Focal length", Unit::focal, {0.008, 0.6, 0.018, 0.135},
          "Focal length for a frame 36 mm wide. Longer lenses bring the set closer and flatten it.")
        .formerly("focal");
    b.add(&Camera::f_number, "f_number", "F-number", Unit::none, {0, 128, 0, 16},
          "Aperture. Lower numbers blur more of what lies before and behind the focus: 2.8 is shallow, 16 "
          "deep.")
        .traced()
        .zero_holding("all sharp");
    b.add(&Camera::focus, "focus", "Focus", Unit::length, {0, 1e4, 0, 5},
          "Distance from the camera at which the picture is sharp.")
        .zero("at the target", [](const Shot&, const Camera& c) { return c.distance; })
        .where([](const Camera& c) { return c.f_number > 0; });
    b.add(&Camera::shutter, "shutter", "Shutter", Unit::angle, {0, 360 * degree, 0, 360 * degree},
          "Shutter angle: how long each frame is exposed, out of 360° per frame. Larger angles blur motion "
          "more; film uses 180°.")
        .traced()
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
        .add(&P::name, "name", "Name", "Name of the piece.")
        .add(&P::locked, "locked", "Locked", "Keeps the piece from being picked or moved on the stage.")
        .more();
    b.touching(Touches::shape)
        .add<Choice>(
            "kind", "Kind", "Shape of the piece.", [](const P& p) { return Choice{int(p.shape.index())}; },
            [](P& p, const Choice& c) {
              if (size_t(c.index) == p.shape.index()) return;
              p.shape = new_shape(c.index);
              drop_lost_tracks(p, settings_of(p));
            })
        .words(kinds());
    b.touching(Touches::layout)
        .add(&P::holds, "holds", "Holds", "Makes the piece a vessel: fluid poured inside stays inside.")
        .words(holds)
        .add(&P::joins, "joins", "Joins",
             "Makes one vessel of this piece and every vessel that it overlaps, as a bridge between letters. "
             "Smoke rises from seeds in those, not in this piece.")
        .where([](const P& p) { return p.holds; })
        .fixed()
        .more()
        .add(&P::blocks, "blocks", "Blocks", "Makes the piece solid: fluid flows around it.")
        .words(blocks);
    b.touching(Touches::picture)
        .add(&P::shows, "shows", "Shows", "Shows the piece in pictures. Otherwise only the stage draws it.")
        .words(shows);
    b.touching(Touches::flow)
        .add(&P::friction, "friction", "Friction", Unit::percent, {0, 1, 0, 1},
             "Grip on liquid running along the surface. 0 % lets it slide as on wax, 100 % holds it as a "
             "rough wall does.")
        .where([](const P& p) { return p.blocks || p.holds; })
        .in_shot([](const Shot& shot, const P&) { return shot.brings(FlowKind::liquid); })
        .fixed()
        .more()
        .add(&P::contact_angle, "contact_angle", "Contact angle", Unit::angle,
             {5 * degree, 175 * degree, 10 * degree, 170 * degree},
             "Advancing contact angle, measured in the liquid. Small angles let liquid spread; above 90° it "
             "beads up, as on wax.")
        .where([](const P& p) { return p.blocks || p.holds; })
        .in_shot([](const Shot& shot, const P&) { return shot.brings(FlowKind::liquid); })
        .fixed()
        .more()
        .add(&P::receding_angle, "receding_angle", "Receding angle", Unit::angle,
             {5 * degree, 175 * degree, 10 * degree, 170 * degree},
             "Receding contact angle. When it is smaller than the advancing angle, drops cling until they "
             "grow too heavy.")
        .where([](const P& p) { return p.blocks || p.holds; })
        .in_shot([](const Shot& shot, const P&) { return shot.brings(FlowKind::liquid); })
        .fixed()
        .more()
        .add(&P::bounce, "bounce", "Bounce", Unit::percent, {0, 0.95, 0, 0.9},
             "Share of its speed with which liquid is thrown back. 0 % is natural, higher values make the "
             "surface springy.")
        .where([](const P& p) { return p.blocks || p.holds; })
        .in_shot([](const Shot& shot, const P&) { return shot.brings(FlowKind::liquid); })
        .fixed()
        .more()
        .add(&P::stickiness, "stickiness", "Stickiness", Unit::percent, {0, 1, 0, 1},
             "Hold on liquid that would come off the surface. 0 % lets drops fall from an underside, 100 % "
             "keeps them there.")
        .where([](const P& p) { return p.blocks || p.holds; })
        .in_shot([](const Shot& shot, const P&) { return shot.brings(FlowKind::liquid); })
        .fixed()
        .more()
        .add(&P::drains, "drains", "Drains", "Removes fluid that enters the piece.")
        .where([](const P& p) { return !p.blocks && !p.holds; })
        .more()
        .add(&P::thickens, "thin_walls", "Thin walls",
             "Thickens walls thinner than two cells for the solver, so that they don't leak. Pictures show "
             "the true shape.")
        .formerly("thickens")
        .words(thin_walls)
        .where([](const P& p) { return p.blocks || p.drains; })
        .fixed()
        .more();
    b.touching(Touches::picture)
        .add(&P::material, "material", "Material",
             "Material of the piece. Without one it takes the colour of solids. A vessel is always thin "
             "glass.")
        .fixed()
        .where([](const P& p) { return p.may_show() && !p.holds; })
        .add<PictureFile>(
            "label", "Label", "Picture printed on the piece. Its transparent parts show the material.",
            [](const P& p) { return p.label.picture; },
            [](P& p, const PictureFile& file) { p.label.picture = file; })
        .traced()
        .where(may_have_label)
        .in_shot(takes_print)
        .fixed()
        .more()
        .add<Choice>(
            "label_placement", "Label placement",
            "How the label is applied: onto the front, wrapped around the upright axis, or by the model's "
            "texture coordinates (UV).",
            [](const P& p) { return Choice{int(p.label.place)}; },
            [](P& p, const Choice& c) { p.label.place = LabelPlace(c.index); })
        .formerly("label_place")
        .words(label_places)
        .where(has_label)
        .in_shot(takes_print)
        .more()
        .add<double>(
            "label_height", "Label height", Unit::length, {1e-4, 100, 0.005, 0.3}, "Height of the label.",
            [](const P& p) { return p.label.height; }, [](P& p, const double& v) { p.label.height = v; })
        .where(label_has_size)
        .more()
        .add<double>(
            "label_position", "Label position", Unit::length, {-100, 100, -0.2, 0.2},
            "Height of the label's centre above the centre of the piece.",
            [](const P& p) { return p.label.middle; }, [](P& p, const double& v) { p.label.middle = v; })
        .formerly("label_middle")
        .where(label_has_size)
        .more()
        .add<double>(
            "label_turn", "Label turn", Unit::angle,
            {-360 * degree, 360 * degree, -180 * degree, 180 * degree},
            "Turns the label around the upright axis of the piece.", [](const P& p) { return p.label.turn; },
            [](P& p, const double& v) { p.label.turn = v; })
        .where(label_has_size)
        .more();
    b.touching(Touches::pose)
        .add(&P::position, "position", "Position", Unit::length, {-1e3, 1e3, -1, 1},
             "Position of the centre: right, up and towards the camera.")
        .more()
        .add(&P::turn, "turn", "Turn", Unit::angle,
             {-36000 * degree, 36000 * degree, -180 * degree, 180 * degree},
             "Rotation about the x, y and z axes.")
        .more()
        .add(&P::scale, "scale", "Scale", Unit::percent, {1e-3, 1e3, 0.1, 3},
             "Scale of the whole piece. 100 % is the size given by its measures.")
        .more()
        .add(&P::spin, "spin", "Spin", Unit::spin,
             {-36000 * degree, 36000 * degree, -360 * degree, 360 * degree},
             "Steady rotation about the x, y and z axes, added to its turn.")
        .more()
        .fixed()
        .add(&P::parent, "attached_to", "Attached to", "Piece that this one is attached to and moves with.")
        .formerly("parent")
        .more()
        .fixed()
        .add(&P::path, "path", "Path", "Tube whose curve the piece follows, from the place where it stands.")
        .more()
        .fixed()
        .add(&P::along, "progress", "Progress", Unit::percent, {-1000, 1000, 0, 1},
             "Progress along the path: 0 % is its start, 100 % its end. On a closed path higher values go "
             "round again.")
        .formerly("along")
        .where([](const P& p) { return !p.path.id.empty(); })
        .more()
        .add(&P::turns_along, "follow_path", "Follow path", "Turns the piece to follow the path.")
        .formerly("turns_along")
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
const Table<Pour>& table() {
  static const Table<Pour> rows = [] {
    using P = Pour;
    TableOf<Pour> b;
    b.touching(Touches::name).add(&P::name, "name", "Name", "Name of the pour.");
    b.touching(Touches::layout)
        .add(&P::fluid, "fluid", "Fluid", "Fluid that is poured.")
        .add(&P::from, source_kinds, "source_type", "Source type",
             "Source of the fluid: a seed in every letter, or a piece.")
        .formerly("from")
        .add(&P::source, "source", "Source", "Piece that the fluid comes out of.")
        .where(from<SourceKind::piece>)
        .add(&P::seed_place, "seed_place", "Seed place",
             "Where seeds sit in each letter: low in every foot, in the centre, to one side, at the top or "
             "at the "
             "back. Several places may be chosen.")
        .words(places_of_seeds)
        .where(from<SourceKind::every_body>)
        .add(&P::seed_size, "seed_size", "Seed size", Unit::percent, {0.05, 1, 0.2, 1},
             "Seed diameter as a share of the stroke's width.")
        .where(from<SourceKind::every_body>)
        .add(&P::windows, "windows", "Pour windows", Unit::time, {0, 1e5, 0, 10},
             "Pour windows: the first and last film frame of each, for example 1-24, 48-72, or times: "
             "0.5s-2s.")
        .add(&P::pulse_period, "pulse_period", "Pulse period", Unit::time, {0, 1e4, 0, 2},
             "Makes the pour pulse: the length of one on-and-off cycle within its windows.")
        .zero("never")
        .more()
        .add(&P::pulse_share, "pulse_share", "Pulse share", Unit::percent, {0.001, 1, 0.05, 1},
             "Share of each pulse in which fluid comes out, from its start.")
        .where([](const P& p) { return p.pulse_period > 0; })
        .more()
        .add(&P::fill_at, "fill_at", "Fill at", Unit::time, {0, 1e5, 0, 10},
             "Film frame at which the whole source is filled at once, or a time: 0.5s.")
        .more()
        .add(&P::replaces_source, "replaces_source", "Replaces source",
             "Turns the source into the fluid: from the moment it is filled, the piece neither blocks nor "
             "shows.")
        .where([](const P& p) { return p.from == SourceKind::piece && p.fill_at.time; })
        .fixed()
        .more()
        .add(&P::mode, pour_modes, "mode", "Mode",
             "Adds smoke to the source at a rate, or keeps the source at a fixed density.")
        .in_shot(brings<FlowKind::gas>);
    b.touching(Touches::flow)
        .add(&P::rate, "rate", "Rate", Unit::volume_rate, {0, 1, 0, 2e-4},
             "Volume poured per second. From a disc or plane, a faster jet of the same rate is thinner.")
        .zero_holding("by its speed")
        .where([](const P& p) { return p.volume <= 0; })
        .in_shot(brings<FlowKind::liquid>)
        .add(&P::volume, "volume", "Volume", Unit::volume, {0, 1e3, 0, 1e-3},
             "Total liquid poured over all windows, in place of a rate. Slow motion does not change it.")
        .zero("by its rate")
        .fixed()
        .in_shot(brings<FlowKind::liquid>)
        .add(&P::density_rate, "density_rate", "Density rate", Unit::density_rate, {0, 100, 0, 0.5},
             "Density added to the source per second. Higher rates give thicker smoke.")
        .where([](const P& p) { return p.mode == PourMode::adds; })
        .in_shot(brings<FlowKind::gas>)
        .add(&P::density, "density", "Density", Unit::density, {0, 100, 0, 0.02},
             "Density that the smoke in the source is set to. Denser smoke is more opaque and heavier.")
        .where([](const P& p) { return p.mode == PourMode::sets || p.fill_at.time; })
        .in_shot(brings<FlowKind::gas>)
        .add(
            &P::heat, "warmth", "Warmth", Unit::warmth, {-200, 3000, -20, 100},
            "Temperature of the poured smoke above the air. Warmer smoke rises faster, negative values sink.")
        .formerly("heat")
        .in_shot(brings<FlowKind::gas>)
        .add(&P::speed, "speed", "Source speed", Unit::speed, {0, 100, 0, 2},
             "Speed with which the fluid leaves the source.")
        .add(&P::direction, directions, "direction", "Direction",
             "Direction in which the fluid leaves its source.")
        .add(&P::aim, "aim", "Aim", Unit::none, {-1e3, 1e3, -1, 1},
             "Direction as a vector: right, up, towards the camera. Only its direction counts, not its "
             "length.")
        .where([](const P& p) { return p.direction == Direction::own; })
        .add(&P::outward, "outward_speed", "Outward speed", Unit::speed, {0, 100, 0, 2},
             "Extra speed along the surface normals, added to the source speed.")
        .formerly("outward")
        .where([](const P& p) { return p.direction != Direction::outwards; })
        .more()
        .add(&P::flipped, "normals", "Normals",
             "Whether fluid leaves along the surface normals of its source, or against them.")
        .formerly("flipped")
        .words(normal_ways)
        .where([](const P& p) { return p.direction == Direction::outwards || p.outward > 0; })
        .more()
        .add(&P::width, "layer_depth", "Layer depth", Unit::length, {0, 10, 0, 0.02},
             "Depth of the layer under the surface that pours. Without a value the whole piece pours.")
        .formerly("width")
        .zero_holding("whole piece")
        .where([](const P& p) { return p.from == SourceKind::piece; })
        .more()
        .add(&P::spread, "spread", "Spread", Unit::angle, {0, 180 * degree, 0, 45 * degree},
             "Angle by which the direction varies to all sides: 0° is a straight jet, 45° a wide spray.")
        .more()
        .add(&P::inherit, "inherited_motion", "Inherited motion", Unit::percent, {-10, 10, 0, 1},
             "Share of its source's motion that the fluid keeps. 0 % leaves at rest, 100 % swings along.")
        .formerly("inherit")
        .more()
        .add(&P::patchiness, "patchiness", "Patchiness", Unit::percent, {0, 1, 0, 1},
             "Unevenness of the pour. 0 % is even; higher values break it into patches.")
        .add(&P::patch_size, "patch_size", "Patch size", Unit::length, {1e-4, 100, 0.002, 0.1},
             "Size of the uneven patches on the source.")
        .in_shot(has_patches)
        .more()
        .add(&P::patch_rate, "patch_rate", "Patch rate", Unit::rate, {0, 100, 0, 10},
             "How many times per second the patches change.")
        .zero("never")
        .in_shot(has_patches)
        .fixed()
        .more()
        .add(&P::patch_seed, "patch_seed", "Patch seed", Unit::none, {1, 9999, 1, 100},
             "Seed of the random patches. Another number gives another pattern.")
        .in_shot(has_patches)
        .fixed()
        .more()
        .add(&P::colors, pour_colors, "color_by", "Coloured by",
             "Takes the colour from the fluid, from the source piece, or from its place in the source.")
        .formerly("colors")
        .fixed()
        .more()
        .add(&P::second_color, "second_color", "Second colour",
             "Second colour of the pour, beside the fluid's own.")
        .where([](const P& p) { return p.colors == PourColors::patches || p.colors == PourColors::ramp; })
        .more()
        .add(&P::third_color, "third_color", "Third colour", "Third colour of the patches.")
        .where([](const P& p) { return p.colors == PourColors::patches; })
        .more()
        .add(&P::color_size, "color_patch_size", "Colour patch size", Unit::length, {1e-4, 100, 0.002, 0.1},
             "Distance from one patch of colour to the next.")
        .formerly("color_size")
        .where([](const P& p) { return p.colors == PourColors::patches; })
        .more()
        .add(&P::ramp_way, ramp_ways, "gradient", "Gradient",
             "Direction of the gradient, from the fluid's colour to the second one.")
        .formerly("ramp_way")
        .where([](const P& p) { return p.colors == PourColors::ramp; })
        .fixed()
        .more();
    return b.done();
  }();
  return rows;
}

}  // namespace pour
