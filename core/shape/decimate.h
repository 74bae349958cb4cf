// Fewer triangles for nearly the same surface.
#pragma once
#include "shape/mesh.h"

namespace pour {

/// About so many triangles between the points of a mesh that lie where its own do; its own where it has no
/// more. Method: quadric error metrics (Garland & Heckbert 1997), by meshoptimizer.
std::vector<std::array<int, 3>> fewer_triangles(const Mesh&, size_t triangles);
/// The same in a tenth of the time, and roughly, by joining points of a lattice.
std::vector<std::array<int, 3>> roughly(const Mesh&, size_t triangles);

/// Larger triangles between some of the points of a mesh, which are at most about `off` (m) beside its own.
/// Method: the same.
std::vector<std::array<int, 3>> larger_triangles(const Mesh&, double off);

}  // namespace pour
