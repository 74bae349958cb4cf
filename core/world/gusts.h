// Eddies of a given size in a field.
#pragma once
#include <memory>

#include "base/noise.h"
#include "base/vec.h"

namespace pour {

/// Curl noise with a size in metres; root mean square 1. Copies share what is sampled.
class Gusts {
 public:
  /// `turn` makes its pattern change; `origin` is where the pattern has drifted to, m.
  Gusts(float turn, double size, const Vec3d& origin = {}) : noise_(turn), size_(size), origin_(origin) {}
  Vec3<v8> operator()(const Vec3<v8>& at) const {
    Vec3<v8> p;
    for (int a = 0; a < 3; ++a) p[a] = (at[a] - float(origin_[a])) / float(size_);
    return near_ ? (*near_)(p) : noise_(p);
  }
  /// Samples it within a box, if that is less work than this many places there. Returns whether it did.
  /// From then on places are within the box.
  bool sample(const Box& box, double places) {
    if (near_) return false;
    const Vec3f low = to<float>((box.low - origin_) / size_), high = to<float>((box.high - origin_) / size_);
    if (!NoiseNear::pays(low, high, places)) return false;
    near_ = std::make_shared<NoiseNear>(noise_, low, high);
    return true;
  }

 private:
  CurlNoise noise_;
  double size_;
  Vec3d origin_;
  std::shared_ptr<const NoiseNear> near_;
};

}  // namespace pour
