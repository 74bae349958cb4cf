// Rows of a block as vectors of eight cells, and their neighbours across block borders.
#pragma once
#include "base/simd.h"
#include "solve/block_grid.h"

namespace pour {

/// A plane of eight rows of a block. Loops over it are unrolled, so that it is known at compile time which
/// rows come from a neighbour.
template <class T>
struct LatticePlane {
  const T *c, *xm, *xp, *ym, *yp, *zm, *zp;
  v8 at(int y) const { return load(c + y * 8); }
  v8 left(int y) const { return from_left(load(xm + y * 8), at(y)); }
  v8 right(int y) const { return from_right(at(y), load(xp + y * 8)); }
  v8 below(int y) const { return load(y > 0 ? c + (y - 1) * 8 : ym); }
  v8 above(int y) const { return load(y < 7 ? c + (y + 1) * 8 : yp); }
  v8 behind(int y) const { return load(zm + y * 8); }
  v8 before(int y) const { return load(zp + y * 8); }
};

/// A block of a field and its six neighbours.
template <class T>
struct Around {
  const T *c, *xm, *xp, *ym, *yp, *zm, *zp;
  Around(const BlockField<T>& f, const int* around, int block)
      : c(f.block(block)),
        xm(f.block(around[x_minus])),
        xp(f.block(around[x_plus])),
        ym(f.block(around[y_minus])),
        yp(f.block(around[y_plus])),
        zm(f.block(around[z_minus])),
        zp(f.block(around[z_plus])) {}
  static constexpr int row(int y, int z) { return (z * 8 + y) * 8; }
  LatticePlane<T> plane(int z) const {
    return {c + 64 * z,
            xm + 64 * z,
            xp + 64 * z,
            ym + 64 * z + 56,
            yp + 64 * z,
            z > 0 ? c + 64 * (z - 1) : zm + 448,
            z < 7 ? c + 64 * (z + 1) : zp};
  }
};

}  // namespace pour
