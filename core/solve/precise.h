// A field as the sum of two floats, as good as double.
#pragma once
#include "solve/rows.h"

namespace pour {

/// The value rounded to float, and the remainder.
struct Precise {
  Floats &high, &low;
  double one(int block, int c) const { return double(high.block(block)[c]) + double(low.block(block)[c]); }
  /// Adds a · p with compensated rounding: the product's error by Dekker 1971 with a fused operation, the
  /// sum's by Knuth (The Art of Computer Programming, 2, § 4.2.2).
  [[gnu::always_inline]] void add(int block, int c, v8 a, v8 p) const {
    const v8 old = pour::load(high.block(block) + c);
    v8 product = a * p;
    __asm__("" : "+x"(product));  // keeps the compiler from fusing it with the sum
    const v8 sum = old + product, part = sum - old;
    const v8 lost = ((old - (sum - part)) + (product - part)) + fused(a, p, -product);
    pour::store(high.block(block) + c, sum);
    pour::store(low.block(block) + c, pour::load(low.block(block) + c) + lost);
  }
};

/// A block of a precise field with its neighbouring rows and cells, widened once and read seven times.
struct PreciseTile {
  static constexpr int row = 16, plane = 10 * row;
  alignas(64) double value[10 * plane];

  PreciseTile(const Precise& x, const int* around, int i) {
    const auto put = [&](int j, int k, int block, int c) {
      const v8 high = load(x.high.block(block) + c), low = load(x.low.block(block) + c);
      for (const int half : {0, 1})
        pour::store(at(j, k) + 4 * half, widened_half(high, half) + widened_half(low, half));
    };
    for (int k = 0; k < 8; ++k) {
      put(-1, k, around[y_minus], Around<float>::row(7, k)),
          put(8, k, around[y_plus], Around<float>::row(0, k));
      put(k, -1, around[z_minus], Around<float>::row(k, 7)),
          put(k, 8, around[z_plus], Around<float>::row(k, 0));
      for (int j = 0; j < 8; ++j) {
        const int c = Around<float>::row(j, k);
        put(j, k, i, c);
        at(j, k)[-1] = x.one(around[x_minus], c + 7), at(j, k)[8] = x.one(around[x_plus], c);
      }
    }
  }
  /// Of the cell with x = 0.
  double* at(int j, int k) { return value + (k + 1) * plane + (j + 1) * row + 4; }
};

}  // namespace pour
