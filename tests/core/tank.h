// A tank of liquid, for tests of its solver.
#pragma once
#include <cstdlib>

#include "liquid/liquid.h"

/// What takes minutes is passed by ./test long alone.
#define NEEDS_LONG \
  if (!std::getenv("EASY_POUR_LONG")) GTEST_SKIP() << "./test long passes it"

namespace pour {

/// A tank with closed sides and an open top, filled at once where `shape` is.
struct Tank {
  LiquidWorld w;
  LiquidState s;
  LiquidSolver solver;
  Ledger ledger;

  Tank(const Vec3i& cells, double h, const SourceShape& shape, const Vec3d& velocity = {},
       std::vector<Solid> solids = {}) {
    w.cell_size = h, w.cells = cells, w.solids = std::move(solids);
    for (bool& open : w.open) open = false;
    w.open[side_top] = true;
    Source source;
    source.shape = shape, source.velocity = velocity, source.blows = true;
    solver.fill(s, w, {source}, ledger);
  }
  void run(double seconds) {
    const double end = s.time + seconds;
    while (s.time < end - 1e-9)
      solver.step(s, w, std::min(longest_step(s, w, 1, 0.01), end - s.time), ledger);
  }
};

inline SourceShape box(const Vec3d& low, const Vec3d& high, double h) {
  Mesh m = box_mesh(high - low);
  m.place({{}, (low + high) * 0.5});
  return SourceShape::surface(LevelSet(m, h), m.bounds(), 1);
}

}  // namespace pour
