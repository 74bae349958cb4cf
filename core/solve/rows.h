// Eight cells at a time: rows of a block as vectors, and their neighbours across block borders.
#pragma once
#include <immintrin.h>

#include <cstdint>
#include <cstring>

#include "solve/block_grid.h"

namespace pour {

typedef float v8 __attribute__((vector_size(32)));
typedef double v8d __attribute__((vector_size(64)));
typedef int32_t v8i __attribute__((vector_size(32)));

inline v8 load(const float* p) {
  v8 v;
  std::memcpy(&v, p, sizeof v);
  return v;
}
inline v8d load(const double* p) {
  v8d v;
  std::memcpy(&v, p, sizeof v);
  return v;
}
// Intrinsics here, since the compiler widens bytes one by one.
inline v8 load(const uint8_t* p) {
  return v8(_mm256_cvtepi32_ps(_mm256_cvtepu8_epi32(_mm_loadl_epi64(reinterpret_cast<const __m128i*>(p)))));
}
inline v8 load(const uint16_t* p) {
  return v8(_mm256_cvtepi32_ps(_mm256_cvtepu16_epi32(_mm_loadu_si128(reinterpret_cast<const __m128i*>(p)))));
}
inline void store(float* p, v8 v) { std::memcpy(p, &v, sizeof v); }
inline void store(double* p, v8d v) { std::memcpy(p, &v, sizeof v); }
inline v8 splat(float s) { return v8{s, s, s, s, s, s, s, s}; }
inline v8d widen(v8 v) { return __builtin_convertvector(v, v8d); }
inline v8 narrow(v8d v) { return __builtin_convertvector(v, v8); }
inline double sum(v8d v) { return ((v[0] + v[4]) + (v[1] + v[5])) + ((v[2] + v[6]) + (v[3] + v[7])); }

/// [last of `left`, first seven of `row`]: what lies at x - 1.
inline v8 from_left(v8 left, v8 row) {
  return __builtin_shufflevector(left, row, 7, 8, 9, 10, 11, 12, 13, 14);
}
/// [last seven of `row`, first of `right`]: what lies at x + 1.
inline v8 from_right(v8 row, v8 right) { return __builtin_shufflevector(row, right, 1, 2, 3, 4, 5, 6, 7, 8); }

/// One plane of rows of a block: loops over its eight rows are meant to be unrolled, so that which rows
/// come from a neighbour is settled when compiling.
template <class T>
struct Plane {
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
  Plane<T> plane(int z) const {
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
