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

}  // namespace pour
