#include "shape/thicken.h"

#include <algorithm>
#include <cmath>

#include "shape/grid_mesh.h"
#include "shape/near_surface.h"

namespace pour {

Mesh thickened(const Mesh& mesh, double cell_size) {
  const double thinnest = NearSurface(mesh).thinnest();
  const double missing = thinnest_kept * cell_size - thinnest;
  if (!(missing > 0) || mesh.triangles.empty()) return mesh;
  const double far = missing / 2;
  // Voxels that see both sides of the wall, as far as memory lasts.
  constexpr double most_voxels = 2e7;
  double voxel = std::min(thinnest / 2.5, far / 2);
  const double layers = 2 * (far / voxel + 3);
  voxel = std::max(voxel, std::sqrt(mesh.area() * layers / most_voxels));
  voxel = std::max(voxel, cell_size / 50);
  return mesh_of(*grid_of(mesh, voxel, float(far / voxel + 3), true), far);
}

bool are_cut(const Body& body, double cell_size) {
  constexpr double least_across = 4;  // cells
  return !body.openings.empty() && 2 * body.openings.front().radius >= least_across * cell_size;
}

double closest(const std::vector<Body::Opening>& all) {
  double least = 1e300;
  for (size_t i = 1; i < all.size(); ++i) least = std::min(least, length(all[i].end[0] - all[0].end[0]));
  return least;
}

Mesh as_wall(const Body& body, bool thickens, double cell_size) {
  const bool cut = are_cut(body, cell_size);
  const Mesh& mesh = cut ? *body.pierced : body.mesh;
  return thickens || (!cut && !body.openings.empty()) ? thickened(mesh, cell_size) : mesh;
}

}  // namespace pour
