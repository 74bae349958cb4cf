// The insides of vessels: regions of a surface that mostly see the surface itself.
#pragma once
#include <vector>

#include "shape/mesh.h"

namespace pour {

/// Connected groups of triangles that see less than half of the open hemisphere and cover at least a fiftieth
/// of the area, such as the inside of a jug. Eight rays a triangle (Zhukov, Iones & Kronin 1998, “An ambient
/// light illumination model”), smoothed. Empty for more than 250,000 triangles.
std::vector<std::vector<int>> hollows_of(const Mesh&);

}  // namespace pour
