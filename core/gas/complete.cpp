// The air around smoke of which only the smoke's own velocity is known.
#include "base/parallel.h"
#include "gas/gas.h"
#include "solve/cells.h"

namespace pour {
namespace {

/// Faces beside those that are known get the mean of them, and are known from then on.
void go_on(const BlockGrid& g, const Bytes& open, Floats& velocity, Bytes& known) {
  const Floats was = velocity;
  const Bytes knew = known;
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = g.around(b);
    for (int c = 0; c < block_cells; ++c) {
      if (knew.block(b)[c] || !open.block(b)[c]) continue;
      float sum = 0, count = 0;
      for (int a = 0; a < 3; ++a)
        for (const size_t n : {before(around, b, c, a), after(around, b, c, a)}) {
          const size_t block = n / block_cells, cell = n % block_cells;
          if (!knew.block(int(block))[cell]) continue;
          sum += was.block(int(block))[cell], ++count;
        }
      if (count > 0) velocity.block(b)[c] = sum / count, known.block(b)[c] = 1;
    }
  });
}

}  // namespace

void GasSolver::complete_air(GasState& s, const GasWorld& world, const Bytes (&known)[3]) {
  constexpr int reach = 2, rounds = 12;  // cells that velocity is continued over; projections onto both
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  for (int a = 0; a < 3; ++a) {
    Bytes so_far = known[a];
    for (int n = 0; n < reach; ++n) go_on(s.grid, *face[a], *velocity[a], so_far);
  }
  GasWorld calm = world;
  calm.sources.clear();
  const Floats kept[3] = {s.u, s.v, s.w};
  target_.resize(0);
  for (int n = 0; n < rounds; ++n) {
    if (n)
      parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
        const int b = int(i) + first_block;
        for (int a = 0; a < 3; ++a)
          for (int c = 0; c < block_cells; ++c)
            if (known[a].block(b)[c]) velocity[a]->block(b)[c] = kept[a].block(b)[c];
      });
    project(s, calm);
  }
}

}  // namespace pour
