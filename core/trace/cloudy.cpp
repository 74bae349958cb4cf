#include "trace/cloudy.h"

#include <algorithm>
#include <cmath>

#include "trace/bsdf.h"

namespace pour {

float mirrored_of_all_sides(float index) {
  constexpr int steps = 512;
  float sum = 0;
  for (int i = 0; i < steps; ++i) {
    const float cosine = (float(i) + 0.5f) / steps;
    sum += fresnel(cosine, 1 / index) * 2 * cosine / steps;
  }
  return sum;
}

namespace {

/// With R = (1 - s) (1 - 0.139 s) / (1 + 1.17 s) of a deep body that nothing covers, 1 - s².
float single(float deep) {
  const float b = 1.139f + 1.17f * deep, s = (b - std::sqrt(b * b - 0.556f * (1 - deep))) / 0.278f;
  return 1 - s * s;
}

}  // namespace

CloudySurface::CloudySurface(float index)
    : comes_in_(1 - mirrored_of_all_sides(index)), sent_back_(1 - comes_in_ / (index * index)) {}

Vec3f CloudySurface::albedo(const Vec3f& color) const {
  constexpr float whitest = 0.999f;
  Vec3f out;
  for (int c = 0; c < 3; ++c) {
    const float seen = std::clamp(color[c], 0.f, whitest);
    out[c] = single(std::min(whitest, seen / (comes_in_ * (1 - sent_back_) + sent_back_ * seen)));
  }
  return out;
}

}  // namespace pour
