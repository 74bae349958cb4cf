// The document: one shot as a plain value. SI units, y up, the set stands on y = 0.
//
// Copying is cheap, and undo restores the previous value. Name, range, unit and help of each member stand
// once, in tables.cpp. JSON, the recipe column, the command line, the comparison of runs and docs/settings.md
// all walk these tables (describe.h).
#pragma once
#include <numbers>
#include <string>
#include <utility>
#include <vector>

#include "base/vec.h"
#include "shape/shape.h"
#include "shot/fluid.h"
#include "shot/force.h"
#include "shot/lights.h"
#include "shot/limits.h"
#include "shot/materials.h"
#include "shot/setting.h"
#include "shot/track.h"

namespace pour {

inline constexpr double degree = std::numbers::pi / 180;  // rad

/// A picture printed on a piece, in the piece's frame of reference.
enum class LabelPlace { front, around, uv };
struct Label {
  PictureFile picture;
  LabelPlace place = LabelPlace::around;
  double height = 0.05, middle = 0;  // m; middle is the height of its centre above the piece's
  double turn = 0;                   // about the piece's upright axis, rad
  bool operator==(const Label&) const = default;
};

struct Piece {
  std::string id, name;
  Shape shape;
  // Its roles. A piece without any is a helper that only the stage draws.
  bool holds = true, blocks = false, shows = true;
  bool drains = false;    // removes fluid that enters it
  bool joins = false;     // a vessel that is one room with every vessel that it overlaps
  bool may_show() const;  // at any time in the film
  bool locked = false;    // cannot be picked or moved on the stage
  // How a piece that blocks or holds treats liquid.
  double friction = 0.5;                // grip along the surface
  double contact_angle = 60 * degree;   // advancing, measured in the liquid
  double receding_angle = 60 * degree;  // receding; if smaller, drops cling
  double bounce = 0, stickiness = 1;    // of liquid that hits it; hold on liquid that would leave it
  bool thickens = false;                // the solver may thicken thin walls so that they don't leak
  MaterialId material;                  // none: the look's colour of solids
  Label label;
  // Its place, relative to the parent if it has one.
  Vec3d position{0, 0.12, 0}, turn{};
  double scale = 1;
  Vec3d spin{};  // rad/s, added to the turn about each axis
  PieceId parent;
  PieceId path;      // a tube that it follows, starting at its position
  double along = 0;  // share of the path's length
  bool turns_along = true;
  Tracks tracks;
  bool operator==(const Piece&) const = default;
};

enum class SourceKind { every_body, piece };
enum class PourMode { adds, sets };
enum class Direction { outwards, up, down, left, right, front, back, own };
/// Where poured fluid gets its colour: from its fluid, from the source piece, from patches of three colours,
/// or from a gradient across the piece.
enum class PourColors { fluid, piece, patches, ramp };
enum class RampWay { right, up, front };

/// A source of a fluid over time.
struct Pour {
  std::string id, name;
  FluidId fluid;
  SourceKind from = SourceKind::every_body;
  PieceId source;                                         // the source piece, where from == piece
  Choices seed_place = Choices::of(int(SeedPlace::low));  // one or more, by SeedPlace
  double seed_size = 0.7;                                 // diameter as a share of the stroke's width
  Windows windows{{{0, 3}}};
  double pulse_period = 0;       // s; 0: pours throughout its windows
  double pulse_share = 0.5;      // share of the period, from its start
  Moment fill_at;                // when the whole source is filled at once
  bool replaces_source = false;  // then the source is gone: it has turned into the fluid
  PourMode mode = PourMode::adds;
  double density_rate = 0.18, density = 0.004;
  double heat = 40;
  double rate = 3e-5;  // of liquid, m³/s; 0: source area times speed
  double volume = 0;   // of liquid over all windows, m³; 0: set by the rate
  double width = 0;    // depth of the pouring layer under the surface, m; 0: the whole piece
  double speed = 0.15;
  Direction direction = Direction::outwards;
  Vec3d aim{0, -1, 0};                                         // where direction == own
  double outward = 0;                                          // extra speed along the normals, m/s
  bool flipped = false;                                        // against the normals of its source
  double spread = 0;                                           // of liquid, rad
  double inherit = 1;                                          // share of its source's motion
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

/// How the skin of a liquid is made from its particles.
struct SkinSettings {
  double cell = 0;       // m; 0: half a cell of the run
  double smoothing = 0;  // m; 0: twice the run's cells
  double grow = 0;       // outwards, m
  double smallest = 0;   // smaller drops are deleted; diameter, m
  double flat = 0;       // largest error when triangles are merged, m; 0: none are merged
  double sheets = 0;     // widest gap in thin sheets that is closed, m; 0: 2.5 cells of the run
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

/// What is behind the set, and under it.
enum class Backdrop { studio, plain, gradient, picture, room, transparent };
enum class FloorKind { glossy, matte, shadows };
/// What colour and emission of smoke depend on.
enum class SmokeBy { itself, density, heat };

struct Look {
  std::vector<Light> lights = light_sets()[0].make();
  double thickness = 14000;  // extinction, m²/kg
  double glow = 0.3;
  Color shade{1, 1, 1};  // colour of white light after one optical depth
  double forward = 0;    // mean cosine of the scattering angle
  SmokeBy smoke_color_by = SmokeBy::itself, shine_by = SmokeBy::itself;
  Color smoke_far_color{0.95, 0.93, 0.9};
  double shine = 0;  // emission of dense smoke; 1 is white at exposure 0
  Color shine_color{1, 0.35, 0.06};
  double far_density = 0.01, far_heat = 60;  // kg/m³, K: where the second colour or emission is complete
  double breakup = 0, breakup_size = 0.01;  // m: displacement by fine noise in pictures, and the noise's size
  Backdrop backdrop = Backdrop::studio;
  Color backdrop_color{0.022, 0.03, 0.03};
  Color below{0.01, 0.012, 0.012};  // where backdrop == gradient, at the lower edge
  PictureFile backdrop_picture;     // where backdrop == picture
  double exposure = 0;              // stops
  double contrast = 1;
  Color solid{0.055, 0.06, 0.062};  // of pieces without a material
  double glass = 0.6;
  double halo = 0.1;
  bool floor = true;
  FloorKind floor_surface = FloorKind::glossy;
  Tracks tracks;
  bool operator==(const Look&) const = default;
  /// By id. Throws std::out_of_range where there is none.
  Light& light(const std::string& id);
};

struct Camera {
  Vec3d target{0, 0.14, 0};
  double distance = 1.15, azimuth = 0, elevation = 3.5 * degree;
  double focal = 0.050;           // on a frame 36 mm wide
  double f_number = 0;            // 0: everything is sharp
  double focus = 0;               // distance of sharpness, m; 0: the target's
  double shutter = 180 * degree;  // exposure, out of 360° per frame
  Tracks tracks;
  bool operator==(const Camera&) const = default;
};

/// Format of delivered pictures: ready to view, or linear light, alone or with passes.
enum class Stills { png, exr, passes, jpeg };

struct Film {
  std::string title = "Untitled";
  int width = 1920, height = 1080, frames = 120;
  int samples = 0;   // light paths a pixel of a delivered picture; 0: quick pictures
  double noise = 0;  // where samples > 0: stops below this noise; 0: uses all samples
  int loop = 0;      // the last so many frames fade into the first ones; 0: none
  Stills image_format = Stills::png;
  std::string image_names = "{shot}.{frame:06}";
  double frame_rate = 24;  // of playback
  double capture = 0;      // frames a second at the camera; 0: as played
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
  std::vector<Force> forces = usual_forces();
  RunSettings run;
  SkinSettings surface;
  Look look;
  Camera camera;
  /// Values that its file had beyond their limits, until they are accepted or changed (out_of_range.h).
  std::vector<OutOfRange> out_of_range;
  bool operator==(const Shot&) const = default;

  /// By id; null where there is none.
  const Piece* piece(const std::string& id) const;
  const Fluid* fluid(const std::string& id) const;
  const Pour* pour(const std::string& id) const;
  const Material* material(const std::string& id) const;
  const Force* force(const std::string& id) const;
  /// Whether this pour, or any pour, brings a fluid that this solver computes.
  bool brings(const Pour&, FlowKind) const;
  bool brings(FlowKind) const;
  Fluid* fluid(const std::string& id) { return const_cast<Fluid*>(std::as_const(*this).fluid(id)); }
  Piece* piece(const std::string& id) { return const_cast<Piece*>(std::as_const(*this).piece(id)); }
  Force* force(const std::string& id) { return const_cast<Force*>(std::as_const(*this).force(id)); }
  Pour* pour(const std::string& id) { return const_cast<Pour*>(std::as_const(*this).pour(id)); }
  Material* material(const std::string& id) {
    return const_cast<Material*>(std::as_const(*this).material(id));
  }
};

/// The settings of a T, in the order of the window.
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
const Table<Force>& table();
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

/// The settings that an item has now. A piece and a force have those of their kind too.
template <class T>
const Table<T>& settings_of(const T&) {
  return table<T>();
}
const Table<Piece>& settings_of(const Piece&);
const Table<Fluid>& settings_of(const Fluid&);
const Table<Force>& settings_of(const Force&);

}  // namespace pour
