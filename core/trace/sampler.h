// Low-discrepancy random numbers of a path, reproducible.
#pragma once
#include <cstdint>

namespace pour {

/// An integer hash (Wellons 2018, "lowbias32").
inline uint32_t mixed(uint32_t x) {
  x ^= x >> 16, x *= 0x7feb352du, x ^= x >> 15, x *= 0x846ca68bu, x ^= x >> 16;
  return x;
}

struct Pair {
  float x, y;
};

/// Owen-scrambled Sobol points, each pair of dimensions with its own scrambling
/// (Burley 2020, "Practical hash-based Owen scrambling", JCGT 9(4)). All numbers are in [0, 1).
class Sampler {
 public:
  Sampler(uint32_t pixel, uint32_t sample)
      : seed_(mixed(pixel * 0x9e3779b9u + 0x51633e2du)), sample_(turned(sample)) {}

  /// Switches to an independent set of numbers.
  Sampler other(uint32_t which) const {
    Sampler s = *this;
    s.seed_ = mixed(seed_ + 0x9e3779b9u * (which + 1));
    return s;
  }
  float one() {
    const uint32_t seed = next();
    return first(seed, turned(scrambled(sample_, seed)));
  }
  Pair two() {
    const uint32_t seed = next(), i = turned(scrambled(sample_, seed));
    return {first(seed, i), fraction(turned(scrambled(sobol(i), mixed(seed + 2))))};
  }

 private:
  uint32_t next() { return mixed(seed_ + 0x68bc21ebu * ++drawn_); }
  static uint32_t turned(uint32_t x) {
    x = __builtin_bswap32(x);
    x = (x >> 4 & 0x0f0f0f0fu) | (x & 0x0f0f0f0fu) << 4;
    x = (x >> 2 & 0x33333333u) | (x & 0x33333333u) << 2;
    return (x >> 1 & 0x55555555u) | (x & 0x55555555u) << 1;
  }
  // Scrambling works on reversed bits. The first dimension of point i is i itself, the second is sobol(i).
  static float first(uint32_t seed, uint32_t i) { return fraction(turned(scrambled(i, mixed(seed + 1)))); }
  /// The second dimension with reversed bits. Its matrix is Pascal's triangle modulo 2, whose entry (j, k) is
  /// 1 if k has all the bits of j (Lucas): a sum over supersets.
  static uint32_t sobol(uint32_t i) {
    i ^= (i & 0xaaaaaaaau) >> 1, i ^= (i & 0xccccccccu) >> 2, i ^= (i & 0xf0f0f0f0u) >> 4;
    i ^= (i & 0xff00ff00u) >> 8, i ^= i >> 16;
    return i;
  }
  static uint32_t scrambled(uint32_t x, uint32_t seed) {
    x += seed;  // Laine & Karras 2011 with constants by Burley
    x ^= x * 0x6c50b47cu, x ^= x * 0xb82f1e52u, x ^= x * 0xc7afe638u, x ^= x * 0x8d22f6e6u;
    return x;
  }
  static float fraction(uint32_t x) { return float(x >> 8) * 0x1p-24f; }

  uint32_t seed_, sample_, drawn_ = 0;  // index of the sample with reversed bits
};

}  // namespace pour
