// The solids near a block, for queries at points.
#pragma once
#include <vector>

#include "world/solid.h"

namespace pour {

class NearSolids {
 public:
  /// Collects the solids within a cell of the 9³ lattice points from `node`, at the end of the step. They
  /// must outlive this object.
  NearSolids(const std::vector<Solid>& solids, double cell_size, const Vec3i& node);
  bool empty() const { return near_.empty(); }
  /// Distance to the nearest solid, m, at most `most`; negative inside.
  double distance(const Vec3d& p, double most = 1e300) const;
  /// Unit vector away from the nearest solid, by differences over `step` (m); zero if there is none.
  Vec3d away(const Vec3d& p, double step) const {
    Vec3d out;
    for (int k = 0; k < 3; ++k) {
      Vec3d by;
      by[k] = step;
      out[k] = distance(p + by) - distance(p - by);
    }
    return length(out) > 0 ? normalized(out) : Vec3d();
  }
  /// The nearest solid, null if none is within `reach`.
  const Solid* nearest(const Vec3d& p, double reach) const;
  /// Velocity of the nearest solid at the end of the step, zero if none is within `reach`.
  Vec3d velocity(const Vec3d& p, double reach, double dt) const;

 private:
  struct One {
    const Solid* solid;
    Pose back;  // from the world
  };
  double distance(const One&, const Vec3d& p) const;
  std::vector<One> near_;
};

}  // namespace pour
