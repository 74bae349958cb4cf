// A body as a solver with a given cell size sees it, and the error of that.
#pragma once
#include "base/work.h"
#include "shape/mesh.h"

namespace pour {

struct SolverView {
  Mesh surface;            // of the level set
  std::vector<float> off;  // of its points: distance from the body, m
  double furthest = 0;     // largest error, including parts lost by the level set, m
  double thinnest = 0;     // thinnest wall of the body, without edges and corners, m
  /// Cell size that keeps the thinnest wall: half its thickness (common practice, no source).
  double keeping_cell() const { return thinnest / 2; }
};

/// For a closed mesh, m. Throws GivenUp.
SolverView solver_view(const Mesh&, double cell_size, const StopAsked& = {});

}  // namespace pour
