// Small worlds for the tests of the gas solver.
#pragma once
#include "gas/gas.h"

namespace pour {

/// A closed box whose blocks are all active, without gravity.
inline GasWorld closed_box(int x, int y, int z, double h) {
  GasWorld w;
  w.cell_size = h;
  w.cells = {x, y, z};
  for (bool& o : w.open) o = false;
  w.gravity = 0;
  Source everywhere;  // pours nothing, but keeps the whole box awake
  everywhere.shape = SourceShape::nowhere({{0, 0, 0}, {x * h, y * h, z * h}}, h);
  w.sources = {everywhere};
  return w;
}

inline Source ball_source(const Vec3d& center, double radius, double rate) {
  Source s;
  s.shape = SourceShape::ball(center, radius);
  s.density = rate;
  return s;
}

inline Vec3i cell_at(const GasState& s, int b, int c) {
  return s.grid.key(b).at * 8 + Vec3i{c & 7, c >> 3 & 7, c >> 6};
}

/// f(block, cell, global cell) for every cell inside the bounds of a closed box that starts at zero.
template <class F>
void each_cell(const GasState& s, const GasWorld& w, const F& f) {
  for (int b = first_block; b < s.grid.size(); ++b)
    for (int c = 0; c < block_cells; ++c) {
      const Vec3i at = cell_at(s, b, c);
      if (at.x < w.cells.x && at.y < w.cells.y && at.z < w.cells.z) f(b, c, at);
    }
}

/// A field's value at a global cell of room 0.
template <class T>
T value_at(const GasState& s, const BlockField<T>& field, const Vec3i& at) {
  const int b = s.grid.find({0, {at.x >> 3, at.y >> 3, at.z >> 3}});
  return field.block(b)[((at.z & 7) * 8 + (at.y & 7)) * 8 + (at.x & 7)];
}

/// A world, its state and the solver, with the region and its geometry made.
struct Lab {
  GasWorld w;
  GasState s;
  GasSolver solver;
  Ledger ledger;
  explicit Lab(GasWorld world) : w(std::move(world)) { solver.update_region(s, w, 0, ledger); }
  /// Thin smoke everywhere that weighs nothing, for forces to act on.
  void fill() {
    w.density_lift = 0;
    each_cell(s, w, [&](int b, int c, const Vec3i&) { s.density.block(b)[c] = 0.001f; });
  }
};

}  // namespace pour
