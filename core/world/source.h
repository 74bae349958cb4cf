// Sources of a fluid.
#pragma once
#include <algorithm>
#include <optional>

#include "shape/colors.h"
#include "shape/level_set.h"
#include "shape/near_surface.h"

namespace pour {

/// The shape of a source: a ball, or the inside of a surface, in the frame of reference of its room, m.
struct SourceShape {
  static SourceShape ball(const Vec3d& center, double radius);
  /// A surface with its pose in the room.
  static SourceShape surface(LevelSet, const Box& bounds, double area_by_volume, const Pose& = {});

  /// Pours nothing, but keeps a box at this distance among the computed blocks.
  static SourceShape nowhere(const Box&, double away);

  Box bounds;
  double area_by_volume = 0;  // 1/m
  double distance(const Vec3d& p) const {
    if (away > 0) return away;
    const double d = to_surface(p);
    return shell > 0 ? std::max(d, -shell - d) : d;
  }
  /// A sheet: the part of a surface that faces to one side.
  SourceShape along(std::shared_ptr<const NearSurface>) const;
  bool faces() const { return sheet != nullptr; }
  /// Unit normal of its surface or sheet; zero where it has none.
  Vec3d normal(const Vec3d& p, double cell_size) const;
  /// Restricts it to a layer of this depth under its surface.
  SourceShape shell_of(double thickness) const;
  /// The shape with this pose applied.
  SourceShape placed(const Pose&) const;

 private:
  double to_surface(const Vec3d& p) const {
    return set.empty() ? length(p - center) - radius : set.distance(pose.inverse(p)) * pose.scale;
  }
  Vec3d center{};
  double radius = 0, away = 0, shell = 0;
  LevelSet set;
  std::shared_ptr<const NearSurface> sheet;
  Pose pose;
  Box own;  // bounds before the pose
};

/// The colour of poured fluid, by position in the frame of reference of the source piece.
struct Palette {
  enum class By { one, piece, patches, ramp } by = By::one;
  Vec3d colors[3]{{1, 1, 1}, {1, 1, 1}, {1, 1, 1}};  // linear; a gradient goes from the first to the second
  std::shared_ptr<const BodyColors> of_piece;        // where by == piece; null: the first colour
  double patch_size = 1;                             // m
  Vec3d low, way;                                    // start of a gradient, and the vector to its end
  Vec3d at(const Vec3d& own) const;
};

struct Source {
  SourceShape shape;
  int room = 0;        // room into which it pours
  bool fills = false;  // fills its shape once with density, heat and colour
  bool sets = false;   // sets the density instead of adding at a rate
  double density = 0;  // kg/m³ if it sets, kg/(m³ s) if it adds
  double heat = 0;     // K, set inside the source
  Vec3d velocity{};    // m/s, set inside the source if blows
  bool blows = false;
  /// Of smoke: velocity at a point, with normals, spread and inherited motion.
  Vec3d velocity_at(const Vec3d& p, double cell_size, double time) const;
  double speed() const { return length(velocity) + std::abs(outwards); }
  double divergence = 0;  // 1/s, of sources that pour outwards
  Palette palette;
  Pose own;                                               // of its piece in the room
  Vec3d color_at(const Vec3d&) const;                     // linear
  double patchiness = 0, patch_size = 1, patch_rate = 0;  // 0..1; m; changes a second
  uint32_t patch_seed = 0;
  /// Share of its rate at this place and time, 0 to 1, from its patches.
  double patch(const Vec3d&, double time) const;
  int number = 0;       // number of the source, constant over steps
  double of_step = 1;   // share of the step in which it pours
  Vec3d motion{};       // inherited velocity, m/s
  double spread = 0;    // rad; for smoke, by patches
  double outwards = 0;  // extra speed along its normals, m/s
  // Of liquid.
  int liquid = 0;                 // which one
  double rate = 0;                // m³/s; 0: fills free space
  std::optional<Mouth> mouth[2];  // at both ends of the step; none: the whole shape pours
};

/// A vector tilted by `off` towards the side given by `around`; rad.
Vec3d turned_off(const Vec3d&, double off, double around);

}  // namespace pour
