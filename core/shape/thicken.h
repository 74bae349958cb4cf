// Walls as thick as a solver needs them.
#pragma once
#include "shape/mesh.h"

namespace pour {

/// A wall thinner than this leaks or vanishes, in cells (common practice, no source).
inline constexpr double thinnest_kept = 2;

/// A closed mesh grown on all sides until its thinnest wall, `thinnest` (NearSurface::thinnest(), m), is two
/// cells thick; the mesh itself where it is. What holds liquid gets so much smaller inside: half of what was
/// missing.
Mesh thickened(const Mesh&, double thinnest, double cell_size);

}  // namespace pour
