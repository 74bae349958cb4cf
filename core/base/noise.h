// Smooth random fields in space and time.
#pragma once
#include <cstdint>
#include <utility>

#include "base/simd.h"
#include "base/vec.h"

namespace pour {

/// Gradient noise (Perlin 2002) in 3-d space whose gradients turn with time (flow noise, Perlin &
/// Neyret 2001). Lattice size 1; zero mean, values about -1..1.
struct NoiseSample {
  float value;
  Vec3f gradient;
};
NoiseSample flow_noise(const Vec3f& p, float turn, uint32_t seed);

/// A divergence-free velocity field (Bridson, Hourihan & Nordenstam 2007): the curl of a vector
/// potential of flow noise with three octaves, each on a lattice turned differently. Lattice size 1,
/// root mean square speed 1.
class CurlNoise {
 public:
  explicit CurlNoise(float turn);
  /// Eight points at a time.
  Vec3<v8> operator()(const Vec3<v8>& p) const;
  Vec3f operator()(const Vec3f& p) const;

 private:
  static constexpr int octaves = 3;
  static constexpr float octave_size = 2.1f;  // lattice size relative to the octave before
  std::pair<float, float> turn_[octaves];     // cosine and sine
};

}  // namespace pour
