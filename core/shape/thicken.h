// Walls as thick as a solver needs them.
#pragma once
#include "shape/mesh.h"

namespace pour {

/// A wall thinner than this leaks or vanishes, in cells (common practice, no source).
inline constexpr double thinnest_kept = 2;

/// A closed mesh grown on all sides until its thinnest wall (NearSurface::thinnest()) is two cells thick; the
/// mesh itself where it is. A vessel becomes smaller inside by half of what was missing.
Mesh thickened(const Mesh&, double cell_size);

}  // namespace pour
