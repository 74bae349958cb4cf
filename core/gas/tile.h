// A block of a field with a margin of neighbouring cells, and its interpolation at eight points at a time.
#pragma once
#include <cmath>

#include "solve/rows.h"

namespace pour {

/// Rows of 24 values with the block's own at 8 to 15, so that copying does not depend on the reach.
/// Lattice point (x, y, z) of the block, from -reach to 8 + reach, is at index(x, y, z).
class Tile {
 public:
  static constexpr int most_reach = 7, row = 24;

  void fill(const BlockField<float>& field, const int* around, int reach) {
    make(around, reach, [&](int block, int c) { return load(field.block(block) + c); });
  }
  /// Fills the tile from value(block, c), the row of eight cells that starts at cell c.
  template <class F>
  void make(const int* around, int reach, const F& value) {
    each_row(around, reach,
             [&](float* to, int third, int block, int c) { store(to + third * 8, value(block, c)); });
  }
  const float* data() const { return data_; }
  /// The block's cells, smoothed `passes` times with weights ¼, ½, ¼ along each axis, by binomial
  /// coefficients. The tile must be filled with a reach of `passes`. `out` receives a block.
  void smooth(int passes, float* out) const {
    float weight[2 * most_reach + 1];
    weight[0] = std::ldexp(1.f, -2 * passes);
    for (int i = 1; i <= 2 * passes; ++i) weight[i] = weight[i - 1] * float(2 * passes + 1 - i) / float(i);
    const int taps = 2 * passes + 1, n = 9 + 2 * passes;
    const auto mean = [&](const auto& at) {
      v8 sum = weight[0] * at(0);
      for (int i = 1; i < taps; ++i) sum += weight[i] * at(i);
      return sum;
    };
    alignas(32) float in_x[across * across * 8], in_y[across * 8 * 8];
    for (int r = 0; r < n * n; ++r)
      store(in_x + 8 * r, mean([&](int i) { return load(data_ + r * row + 8 - passes + i); }));
    for (int z = 0; z < n; ++z)
      for (int y = 0; y < 8; ++y)
        store(in_y + 8 * (z * 8 + y), mean([&](int i) { return load(in_x + 8 * (z * n + y + i)); }));
    for (int z = 0; z < 8; ++z)
      for (int y = 0; y < 8; ++y)
        store(out + 8 * (z * 8 + y), mean([&](int i) { return load(in_y + 8 * ((z + i) * 8 + y)); }));
  }

 private:
  template <class F>
  [[gnu::always_inline]] void each_row(const int* around, int reach, const F& f) {
    float* to = data_;
    for (int z = -reach; z <= 8 + reach; ++z)
      for (int y = -reach; y <= 8 + reach; ++y, to += row) {
        const int* blocks = around + ((z >> 3) + 1) * 9 + ((y >> 3) + 1) * 3;
        const int c = (z & 7) * 64 + (y & 7) * 8;
        for (int third = 0; third < 3; ++third) f(to, third, blocks[third], c);
      }
  }

  static constexpr int across = 9 + 2 * most_reach;
  alignas(32) float data_[across * across * row];
};

/// Positions of eight points in a tile: the lower corner and the fraction within the cell.
struct TilePlaces {
  v8i at;
  v8 x, y, z;

  /// Points (0..7, y, z) of the block, each displaced by less than the reach, in cells.
  [[gnu::always_inline]] void set(int row_y, int row_z, v8 dx, v8 dy, v8 dz, int reach) {
    const v8 px = dx + v8{0, 1, 2, 3, 4, 5, 6, 7}, py = dy + splat(float(row_y)),
             pz = dz + splat(float(row_z));
    const v8 bx = vfloor(px), by = vfloor(py), bz = vfloor(pz);
    x = px - bx, y = py - by, z = pz - bz;
    const v8i ix = __builtin_convertvector(bx, v8i), iy = __builtin_convertvector(by, v8i),
              iz = __builtin_convertvector(bz, v8i);
    at = ((iz + reach) * (9 + 2 * reach) + iy + reach) * Tile::row + ix + 8;
  }
};

struct TileValues {
  v8 value, low, high;  // trilinear value, and the range of the eight corners
};

/// `with_range`: also computes low and high.
template <bool with_range>
[[gnu::always_inline]] inline TileValues read(const Tile& tile, const TilePlaces& p, int reach) {
  typedef float v4 __attribute__((vector_size(16)));
  const int layer = (9 + 2 * reach) * Tile::row;
  alignas(32) float pairs[3][16];               // of each point, at smaller and larger x
  const auto corners = [](const float* from) {  // (x0 y0, x1 y0, x0 y1, x1 y1)
    const __m128 below = _mm_castsi128_ps(_mm_loadl_epi64(reinterpret_cast<const __m128i*>(from)));
    return v4(_mm_loadh_pi(below, reinterpret_cast<const __m64*>(from + Tile::row)));
  };
  const auto put = [&](int which, int n, v4 v) {
    _mm_storel_pi(reinterpret_cast<__m64*>(&pairs[which][2 * n]), __m128(v));
  };
  for (int n = 0; n < 8; ++n) {
    const float* from = tile.data() + p.at[n];
    const v4 behind = corners(from), before = corners(from + layer);
    const v4 z = v4{p.z[n], p.z[n], p.z[n], p.z[n]}, y = v4{p.y[n], p.y[n], p.y[n], p.y[n]};
    const v4 flat = behind + z * (before - behind);
    put(0, n, flat + y * (__builtin_shufflevector(flat, flat, 2, 3, 2, 3) - flat));
    if (with_range) {
      const v4 low = v4(_mm_min_ps(__m128(behind), __m128(before))),
               high = v4(_mm_max_ps(__m128(behind), __m128(before)));
      put(1, n, v4(_mm_min_ps(__m128(low), __m128(__builtin_shufflevector(low, low, 2, 3, 2, 3)))));
      put(2, n, v4(_mm_max_ps(__m128(high), __m128(__builtin_shufflevector(high, high, 2, 3, 2, 3)))));
    }
  }
  const auto smaller = [&](int which) {
    return __builtin_shufflevector(load(pairs[which]), load(pairs[which] + 8), 0, 2, 4, 6, 8, 10, 12, 14);
  };
  const auto larger = [&](int which) {
    return __builtin_shufflevector(load(pairs[which]), load(pairs[which] + 8), 1, 3, 5, 7, 9, 11, 13, 15);
  };
  TileValues v{};
  v.value = smaller(0) + p.x * (larger(0) - smaller(0));
  if (with_range) {
    v.low = vmin(smaller(1), larger(1));
    v.high = vmax(smaller(2), larger(2));
  }
  return v;
}

}  // namespace pour
