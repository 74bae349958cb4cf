#include "shape/solver_view.h"

#include <algorithm>
#include <cmath>

#include "base/parallel.h"
#include "shape/level_set.h"
#include "shape/near_surface.h"

namespace pour {

SolverView solver_view(const Mesh& body, double cell, const StopAsked& stop) {
  SolverView out;
  const LevelSet set(body, cell);
  give_up_if(stop);
  out.surface = set.surface();
  give_up_if(stop);
  const NearSurface near(body);
  out.thinnest = near.thinnest();
  // Errors deep inside a solid do not matter.
  const float reach = float(4 * cell);
  out.off.resize(out.surface.points.size());
  parallel_for(
      out.off.size(),
      [&](size_t i) {
        const auto at = near.nearest(out.surface.points[i], reach);
        out.off[i] = at ? std::abs(at->distance) : reach;
      },
      4096);
  for (const float off : out.off) out.furthest = std::max(out.furthest, double(off));
  for (const Vec3f& p : body.points)
    out.furthest = std::max(out.furthest, std::abs(set.distance(to<double>(p))));
  return out;
}

}  // namespace pour
