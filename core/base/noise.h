// Smooth random fields in space and time.
#pragma once
#include <cstdint>
#include <memory>
#include <utility>
#include <vector>

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

struct TurnedGradients;

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
  std::shared_ptr<const TurnedGradients> turned_[octaves];
};

/// Curl noise near a box, sampled on a lattice that is the same for all boxes, and interpolated.
class NoiseNear {
 public:
  /// `low` and `high` bound the places, which may lie up to a lattice point further out.
  NoiseNear(const CurlNoise&, const Vec3f& low, const Vec3f& high);
  Vec3<v8> operator()(const Vec3<v8>& p) const;
  /// Whether sampling is less work than this many places in such a box.
  static bool pays(const Vec3f& low, const Vec3f& high, double places);

 private:
  static constexpr float spacing = 0.125f;  // about half of the finest octave's lattice
  static Vec3i first(const Vec3f& low);
  static Vec3i count(const Vec3f& low, const Vec3f& high);
  Vec3i first_, count_;
  std::vector<float> values_[3];  // x fastest
};

}  // namespace pour
