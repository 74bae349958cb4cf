// Weights of a Poisson system for a row of eight cells.
#pragma once
#include "solve/poisson.h"
#include "solve/rows.h"

namespace pour {

/// The six face weights and the anchor of a row of cells, in 1/255.
struct RowWeights {
  v8 l, r, d, u, b, f, anchor, sum;
};

struct PlaneWeights {
  LatticePlane<uint8_t> x, y, z;
  const float* anchor;
  [[gnu::always_inline]] RowWeights row(int j) const {
    RowWeights w{x.at(j), x.right(j), y.at(j), y.above(j), z.at(j), z.before(j), load(anchor + j * 8), {}};
    w.sum = ((w.l + w.r) + (w.d + w.u)) + ((w.b + w.f) + w.anchor);
    return w;
  }
};

struct BlockWeights {
  Around<uint8_t> x, y, z;
  const float* anchor;
  BlockWeights(const PoissonWeights& w, const int* around, int block)
      : x(w.x, around, block), y(w.y, around, block), z(w.z, around, block), anchor(w.anchor.block(block)) {}
  PlaneWeights plane(int k) const { return {x.plane(k), y.plane(k), z.plane(k), anchor + 64 * k}; }
};

}  // namespace pour
