// A body as a solver of a cell size sees it, and how that differs from what it is.
#pragma once
#include "base/work.h"
#include "shape/mesh.h"

namespace pour {

struct SolverView {
  Mesh surface;            // of the level set
  std::vector<float> off;  // of its points: how far they are from the body, m
  double furthest = 0;     // of those, and of the body from the level set where that has lost it, m
  double thinnest = 0;     // of the body's walls, but for edges and corners, m
  /// Cells that keep the thinnest wall: half as large as that is thick (common practice, no source).
  double keeping_cell() const { return thinnest / 2; }
};

/// Of a closed mesh, m. Throws GivenUp.
SolverView solver_view(const Mesh&, double cell_size, const StopAsked& = {});

}  // namespace pour
