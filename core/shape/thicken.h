// Thickens walls for solvers.
#pragma once
#include "shape/body.h"

namespace pour {

/// Thinner walls leak or vanish, in cells (common practice, no source).
inline constexpr double thinnest_kept = 2;

/// Grows a closed mesh on all sides until its thinnest wall (NearSurface::thinnest()) is two cells thick. The
/// inside of a vessel shrinks by half of the added thickness.
Mesh thickened(const Mesh&, double cell_size);

/// Whether cells are fine enough for the holes of a body: four across.
bool are_cut(const Body&, double cell_size);
/// Of holes that lie closer than this, in cells, several are one: their streams would be.
inline constexpr double streams_apart = 2;
/// The distance of the first of these openings from the one nearest to it, m.
double closest(const std::vector<Body::Opening>&);
/// A body as a wall for the solver. Holes that cells can't cut are closed, and the wall is then thick enough
/// in any case.
Mesh as_wall(const Body&, bool thickens, double cell_size);

}  // namespace pour
