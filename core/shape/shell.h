// Closed bodies from surfaces that are not: a wall along them, a hull around them, or what they enclose.
#pragma once
#include "base/work.h"
#include "shape/mesh.h"

namespace pour {

/// All that is within half of `thickness` of a surface, open or not. On voxels of a third of it, but of at
/// least a 400th of the surface's size. Method: OpenVDB's unsigned distance to the triangles and its dual
/// mesher.
Mesh wall_along(const Mesh&, double thickness);
/// What of that lies outside, with `distance` to the surface: no holes finer than twice that, nothing within.
Mesh hull_around(const Mesh&, double distance);
/// What a surface encloses that faces outwards but has holes: where its winding number (winding.h) is over ½,
/// on voxels of a 128th of its size, with its edges where they are between those. Empty where that is
/// nothing.
Mesh filled(const Mesh&, const StopAsked& = {});

}  // namespace pour
