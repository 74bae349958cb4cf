// The document: one shot as a plain value. SI units, y up, the set stands on y = 0.
//
// Copying is cheap and undo is the previous value. What each member means, its range and its unit
// stand once, in tables.cpp; JSON, the recipe column, the command line, the comparison of runs and
// docs/settings.md all walk these tables (describe.h).
#pragma once
#include <numbers>
#include <string>
#include <utility>
#include <vector>

#include "base/vec.h"
#include "shape/shape.h"
#include "shot/lights.h"
#include "shot/limits.h"
#include "shot/liquids.h"
#include "shot/materials.h"
#include "shot/setting.h"
#include "shot/track.h"

namespace pour {

inline constexpr double degree = std::numbers::pi / 180;  // rad

/// A picture on a piece, in the piece's own space.
enum class LabelPlace { front, around, uv };
struct Label {
  PictureFile picture;
  LabelPlace place = LabelPlace::around;
  double height = 0.05, middle = 0;  // of the picture, and of its middle above that of the piece, m
  double turn = 0;                   // about the piece's axis, rad
  bool operator==(const Label&) const = default;
};

struct Piece {
  std::string id, name;
  Shape shape;
  // The parts that it plays; one that plays none only helps, and is drawn just in the stage.
  bool holds = true, blocks = false, shows = true;
  bool drains = false;  // what comes into it is gone
  bool may_show() const;  // at some time of the film
  bool locked = false;  // it can't be picked or moved in the stage
  // Of what blocks or holds, to liquid.
  double friction = 0.5;                // along it
  double contact_angle = 60 * degree;   // between it and the surface, in the liquid, where that advances
  double receding_angle = 60 * degree;  // and where it draws back; drops cling where it is less
  double bounce = 0, stickiness = 1;    // of what hits it; of what would leave it
  bool thickens = false;  // the solver may take its walls for thicker than they are, so that they are tight
  MaterialId material;    // none: as the look says
  Label label;
  // Its place: of a piece that belongs to another one, in the space of that.
  Vec3d position{0, 0.12, 0}, turn{};
  double scale = 1;
  Vec3d spin{};  // rad/s, added to the turn about each axis
  PieceId parent;
  PieceId path;      // a tube that it goes along, from its position
  double along = 0;  // share of the path's length
  bool turns_along = true;
  Tracks tracks;
  bool operator==(const Piece&) const = default;
};

/// What the colour of a liquid goes by; depth is how thick it is there (local_thickness.h).
enum class ColorBy { itself, speed, age, depth };

/// What flows. All smokes are one gas, in which their colours mix; liquids are another flow beside it.
struct Fluid {
  std::string id, name;
  FluidKind kind = FluidKind::smoke;
  Color color{0.55, 0.87, 0.74};
  NamedLiquid liquid = NamedLiquid::water;
  double temperature = 20;  // °C
  Matter own;               // where liquid == own
  double longest_life = 0;  // of a liquid, s; 0: for ever
  double liveliness = 0;    // of a liquid: how much of what is too fine for cells it keeps
  double mixes_in =
      0;  // of liquids: time in which half of a difference of colours beside it is gone, s; 0: never
  Clarity clarity = Clarity::usual;
  double depth = 0.01;  // where clarity is clear or cloudy, m
  MaterialId material;  // of a liquid, in place of its clearness; none: as it is
  ColorBy color_by = ColorBy::itself;
  Color far_color{0.9, 0.9, 0.9};                       // at the fastest or oldest
  double far_speed = 1, far_age = 2, far_depth = 0.02;  // m/s, s, m
  double bubbles = 0;                                   // share of a liquid's volume
  double bubble_size = 0.002;                           // of the largest, across, m
  Tracks tracks;
  bool operator==(const Fluid&) const = default;
};

/// What a liquid is made of at its temperature.
Matter matter_of(const Fluid&);
/// How light goes through a liquid that names no material; never `usual`.
Clearness clearness_of(const Fluid&);

enum class SourceKind { every_body, piece };
enum class PourMode { adds, sets };
enum class Direction { outwards, up, down, left, right, front, back, own };
/// What what is poured is coloured by: its fluid's colour, the piece that it comes out of, patches of three
/// colours, or from one side of the piece to the other.
enum class PourColors { fluid, piece, patches, ramp };
enum class RampWay { right, up, front };

/// What brings a fluid in.
struct Pour {
  std::string id, name;
  FluidId fluid;
  SourceKind from = SourceKind::every_body;
  PieceId source;  // that pours, where from == piece
  SeedPlace seed_place = SeedPlace::low;
  double seed_size = 0.7;  // of the room that there is in the stroke
  Windows windows{{{0, 3}}};
  double pulse_period = 0;   // s; 0: it pours all through its windows
  double pulse_share = 0.5;  // of the period, from its beginning
  Moment fill_at;            // at which all of the source is filled at once
  PourMode mode = PourMode::adds;
  double density_rate = 0.18, density = 0.004;
  double heat = 40;
  double rate = 3e-5;  // of liquid, m³/s; 0: as much as its speed brings
  double volume = 0;   // of liquid over all of its windows, m³; 0: by its rate
  double width = 0;    // of a piece, how deep under its surface it pours, m; 0: all of it
  double speed = 0.15;
  Direction direction = Direction::outwards;
  Vec3d aim{0, -1, 0};                                         // where direction == own
  double outward = 0;                                          // besides, where direction != outwards, m/s
  bool flipped = false;                                        // against the normals of its source
  double spread = 0;                                           // of liquid, rad
  double inherit = 1;                                          // of the motion of its source
  double patchiness = 0, patch_size = 0.01, patch_rate = 1.5;  // changes a second
  int patch_seed = 1;
  PourColors colors = PourColors::fluid;
  Color second_color{0.9, 0.75, 0.35}, third_color{0.85, 0.3, 0.2};
  double color_size = 0.02;  // of patches, m
  RampWay ramp_way = RampWay::up;
  Tracks tracks;
  bool operator==(const Pour&) const = default;
};

/// How the mixture of all smokes behaves in the air.
struct Gas {
  double heat_lift = 1, density_lift = -1;
  double density_half_life = 0, heat_half_life = 2;  // 0: for ever
  Tracks tracks;
  bool operator==(const Gas&) const = default;
};

struct Forces {
  double gravity = 9.81;
  double turbulence_speed = 0.04, turbulence_size = 0.04, turbulence_rate = 0.7;
  double confinement_speed = 0.02, confinement_length = 0.02;
  Tracks tracks;
  bool operator==(const Forces&) const = default;
};

/// From the particles of a liquid to its skin.
struct SkinSettings {
  double cell = 0;       // m; 0: half of the run's
  double smoothing = 0;  // m; 0: twice the run's cells
  double grow = 0;       // outwards, m
  double smallest = 0;   // drops that are less across are left out, m
  double flat = 0;       // how far triangles may be off where they are fewer, m; 0: all are kept
  double sheets = 0;     // gaps in thin sheets are closed up to this width, m; 0: two and a half of the run's
  Tracks tracks;
  bool operator==(const SkinSettings&) const = default;
};

enum class Detail { draft, medium, final, custom };

struct RunSettings {
  Detail detail = Detail::draft;
  double cell_size = 0.0025;  // where detail == custom
  bool fit_bounds = true;
  Vec3d bounds_center{0, 0.2, 0}, bounds_size{0.8, 0.4, 0.3};
  bool open_left = true, open_right = true, open_bottom = true, open_top = true, open_back = true,
       open_front = true;
  double courant = 2.5;
  Tracks tracks;
  bool operator==(const RunSettings&) const = default;
};

/// What is seen behind everything, and what stands under it.
enum class Backdrop { studio, plain, gradient, picture, room, transparent };
enum class FloorKind { glossy, matte, shadows };
/// What colour and glow of smoke go by.
enum class SmokeBy { itself, density, heat };

struct Look {
  std::vector<Light> lights = light_sets()[0].make();
  double thickness = 14000;  // extinction, m²/kg
  double glow = 0.3;
  Color shade{1, 1, 1};  // of light behind one optical depth
  double forward = 0;    // mean cosine between light that smoke scatters and the way that it had
  SmokeBy smoke_color_by = SmokeBy::itself, shine_by = SmokeBy::itself;
  Color smoke_far_color{0.95, 0.93, 0.9};
  double shine = 0;  // light that thick smoke gives off by itself; 1 is white at exposure 0
  Color shine_color{1, 0.35, 0.06};
  double far_density = 0.01, far_heat = 60;  // kg/m³, K: of what has the other colour, or glows, altogether
  double breakup = 0, breakup_size = 0.01;   // how far fine noise moves smoke in pictures; across, m
  Backdrop backdrop = Backdrop::studio;
  Color background{0.022, 0.03, 0.03};
  Color below{0.01, 0.012, 0.012};  // where backdrop == gradient, at the lower edge
  PictureFile picture;              // where backdrop == picture
  double exposure = 0;              // stops
  double contrast = 1;
  Color solid{0.055, 0.06, 0.062};  // of pieces that hold nothing
  double glass = 0.6;
  double halo = 0.1;
  bool floor = true;
  FloorKind floor_kind = FloorKind::glossy;
  Tracks tracks;
  bool operator==(const Look&) const = default;
  /// By id. Throws std::out_of_range where there is none.
  Light& light(const std::string& id);
};

struct Camera {
  Vec3d target{0, 0.14, 0};
  double distance = 1.15, yaw = 0, pitch = 3.5 * degree;
  double focal = 0.050;           // on a frame 36 mm wide
  double f_number = 0;            // of the lens; 0: all is sharp
  double focus = 0;               // distance of what is sharp, m; 0: of what it looks at
  double shutter = 180 * degree;  // how long it is open, of 360° between two frames
  Tracks tracks;
  bool operator==(const Camera&) const = default;
};

/// What pictures are delivered as: to be looked at, or linear light, alone or with passes.
enum class Stills { png, exr, passes, jpeg };

struct Film {
  std::string title = "Untitled";
  int width = 1920, height = 1080, frames = 120;
  int samples = 0;   // paths of light a pixel of what is delivered; 0: quick pictures
  double noise = 0;  // where samples > 0: as many as bring it down to this, at most so many; 0: all
  Stills stills = Stills::png;
  std::string picture_name = "{shot}.{frame:06}";
  double fps = 24;     // at which it is played
  double capture = 0;  // frames a second at the camera; 0: as many as are played
  Tracks tracks;
  bool operator==(const Film&) const = default;
};

struct Shot {
  Film film;
  std::vector<Piece> pieces;
  std::vector<Fluid> fluids;
  std::vector<Pour> pours;
  std::vector<Material> materials;
  Gas gas;
  Forces forces;
  RunSettings run;
  SkinSettings surface;
  Look look;
  Camera camera;
  /// What its file had beyond the limits, until somebody accepts or changes it (out_of_range.h).
  std::vector<OutOfRange> out_of_range;
  bool operator==(const Shot&) const = default;

  /// By id; null where there is none.
  const Piece* piece(const std::string& id) const;
  const Fluid* fluid(const std::string& id) const;
  const Pour* pour(const std::string& id) const;
  const Material* material(const std::string& id) const;
  /// Whether a pour brings a fluid of this kind, and whether any does.
  bool brings(const Pour&, FluidKind) const;
  bool brings(FluidKind) const;
  Piece* piece(const std::string& id) { return const_cast<Piece*>(std::as_const(*this).piece(id)); }
  Pour* pour(const std::string& id) { return const_cast<Pour*>(std::as_const(*this).pour(id)); }
  Material* material(const std::string& id) {
    return const_cast<Material*>(std::as_const(*this).material(id));
  }
};

/// Whether light goes through a liquid.
bool is_see_through(const Shot&, const Fluid&);

/// The settings of a T, in the order in which they are shown.
template <class T>
const Table<T>& table();
template <>
const Table<Film>& table();
template <>
const Table<Piece>& table();
template <>
const Table<Fluid>& table();
template <>
const Table<Pour>& table();
template <>
const Table<Material>& table();
template <>
const Table<Gas>& table();
template <>
const Table<Forces>& table();
template <>
const Table<RunSettings>& table();
template <>
const Table<SkinSettings>& table();
template <>
const Table<Light>& table();
template <>
const Table<Look>& table();
template <>
const Table<Camera>& table();

/// The settings that an item has now: of a piece, those of its kind too.
template <class T>
const Table<T>& settings_of(const T&) {
  return table<T>();
}
const Table<Piece>& settings_of(const Piece&);

}  // namespace pour
