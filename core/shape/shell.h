// Closed bodies from open surfaces: a wall along them, a hull around them, or their enclosed volume.
#pragma once
#include "base/work.h"
#include "shape/mesh.h"

namespace pour {

/// The volume within half of `thickness` of any surface, on voxels of a third of it, but at least a 400th of
/// the surface's size. Method: OpenVDB's unsigned distance to the triangles and its dual mesher.
Mesh wall_along(const Mesh&, double thickness);
/// The outermost surface at `distance`: closes holes narrower than twice that and removes everything inside.
Mesh hull_around(const Mesh&, double distance);
/// The volume enclosed by an outward-facing surface with holes: where its winding number (winding.h) exceeds
/// ½, on voxels of a 128th of its size, with the surface located between voxels. May be empty.
Mesh filled(const Mesh&, const StopAsked& = {});

}  // namespace pour
