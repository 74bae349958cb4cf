// Mesh simplification.
#pragma once
#include "shape/mesh.h"

namespace pour {

/// Simplifies to about `count` triangles, using points of the mesh only; returns it unchanged if it has
/// fewer. Method: quadric error metrics (Garland & Heckbert 1997), by meshoptimizer.
std::vector<std::array<int, 3>> fewer_triangles(const Mesh&, size_t triangles);
/// A rougher result in a tenth of the time, by merging points in lattice cells.
std::vector<std::array<int, 3>> roughly(const Mesh&, size_t triangles);

/// Simplifies within an error of about `off` (m). Method: the same.
std::vector<std::array<int, 3>> larger_triangles(const Mesh&, double off);

}  // namespace pour
