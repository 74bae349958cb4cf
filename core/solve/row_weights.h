// The weights of a Poisson system, a row of eight cells at a time.
#pragma once
#include "solve/poisson.h"
#include "solve/rows.h"

namespace pour {

/// The six face weights and the anchor of a row of cells, in 1/255.
struct RowWeights {
  v8 l, r, d, u, b, f, anchor, sum;
};

struct BlockWeights {
  Around<uint8_t> x, y, z;
  const uint16_t* anchor;
  BlockWeights(const PoissonWeights& w, const int* around, int block)
      : x(w.x, around, block), y(w.y, around, block), z(w.z, around, block), anchor(w.anchor.block(block)) {}
  RowWeights row(int j, int k) const {
    RowWeights w{x.at(j, k), x.right(j, k), y.at(j, k), y.above(j, k), z.at(j, k), z.before(j, k), load(anchor + Around<float>::row(j, k)), {}};
    w.sum = ((w.l + w.r) + (w.d + w.u)) + ((w.b + w.f) + w.anchor);
    return w;
  }
};

}  // namespace pour
