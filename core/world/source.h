// What brings a fluid in, as data.
#pragma once
#include <algorithm>
#include <optional>

#include "shape/colors.h"
#include "shape/level_set.h"
#include "shape/near_surface.h"

namespace pour {

/// Where it comes out of: a ball, or the inside of a surface; in the space of its room, m.
struct SourceShape {
  static SourceShape ball(const Vec3d& center, double radius);
  /// A surface in its own space, which is placed so in that of the room.
  static SourceShape surface(LevelSet, const Box& bounds, double area_by_volume, const Pose& = {});

  /// Nothing comes out of it; it is this far away from all of a box, which so is computed.
  static SourceShape nowhere(const Box&, double away);

  Box bounds;
  double area_by_volume = 0;  // 1/m
  double distance(const Vec3d& p) const {
    if (away > 0) return away;
    const double d = to_surface(p);
    return shell > 0 ? std::max(d, -shell - d) : d;
  }
  /// The same, along a surface of its space that faces to one side.
  SourceShape along(std::shared_ptr<const NearSurface>) const;
  bool faces() const { return sheet != nullptr; }
  /// Away from its surface, or to where the sheet faces that it is along, of length 1; 0 where that is
  /// nowhere.
  Vec3d normal(const Vec3d& p, double cell_size) const;
  /// Only what of it is at most this far from its surface.
  SourceShape shell_of(double thickness) const;
  /// The same shape in a space in which its own stands like this.
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
  Box own;  // bounds before it was placed
};

/// What what comes out of a source is coloured by, by place in the space of its piece.
struct Palette {
  enum class By { one, piece, patches, ramp } by = By::one;
  Vec3d colors[3]{{1, 1, 1}, {1, 1, 1}, {1, 1, 1}};  // linear; a ramp goes from the first to the second
  std::shared_ptr<const BodyColors> of_piece;        // where by == piece; null: the first
  double patch_size = 1;                             // m
  Vec3d low, way;                                    // where a ramp begins, and from there to its end
  Vec3d at(const Vec3d& own) const;
};

struct Source {
  SourceShape shape;
  int room = 0;        // the room that it pours into
  bool fills = false;  // once, whole, and with nothing else than density, heat and colour
  bool sets = false;   // sets the density instead of adding at a rate
  double density = 0;  // kg/m³ where it sets, kg/(m³ s) where it adds
  double heat = 0;     // K that the source is brought to
  Vec3d velocity{};    // m/s that the source is brought to, where blows
  bool blows = false;
  /// Of smoke: the velocity at a place, along its normals, scattered by place and time, with its motion.
  Vec3d velocity_at(const Vec3d& p, double cell_size, double time) const;
  double speed() const { return length(velocity) + std::abs(outwards); }
  double divergence = 0;  // 1/s, of sources that push outwards on all sides
  Palette palette;
  Pose own;                                               // of its piece in the room
  Vec3d color_at(const Vec3d&) const;                     // linear
  double patchiness = 0, patch_size = 1, patch_rate = 0;  // 0..1; m; changes a second
  uint32_t patch_seed = 0;
  /// How much of what it pours it pours here at this time, 0 to 1.
  double patch(const Vec3d&, double time) const;
  int number = 0;       // of the source, the same in all steps
  double of_step = 1;   // the share of the step in which it pours
  Vec3d motion{};       // of what it comes out of, as far as it is taken along, m/s
  double spread = 0;    // rad; of smoke in patches
  double outwards = 0;  // m/s along its normals, besides; of smoke only where its shape faces
  // Of liquid.
  int liquid = 0;                 // which one
  double rate = 0;                // m³/s; 0: as much as there is room for
  std::optional<Mouth> mouth[2];  // that it comes out of, at both ends of the step; none: all of its shape
};

/// A vector turned by `off` from its way, to the side that `around` says; rad.
Vec3d turned_off(const Vec3d&, double off, double around);

}  // namespace pour
