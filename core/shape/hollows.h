// The insides of vessels: parts of a surface that mostly see the surface itself.
#pragma once
#include <vector>

#include "shape/mesh.h"

namespace pour {

/// Triangles of a mesh from where less than half of the way out is free, in groups that hang together and are
/// at least a fiftieth of its area: what is inside of a jug, up to its lip. For each triangle eight rays are
/// sent out (Zhukov, Iones & Kronin 1998, “An ambient light illumination model”), and what they find is
/// smoothed. None where it has more than 250,000 triangles.
std::vector<std::vector<int>> hollows_of(const Mesh&);

}  // namespace pour
