// Thickens walls for solvers.
#pragma once
#include "shape/mesh.h"

namespace pour {

/// Thinner walls leak or vanish, in cells (common practice, no source).
inline constexpr double thinnest_kept = 2;

/// Grows a closed mesh on all sides until its thinnest wall (NearSurface::thinnest()) is two cells thick. The
/// inside of a vessel shrinks by half of the added thickness.
Mesh thickened(const Mesh&, double cell_size);

}  // namespace pour
