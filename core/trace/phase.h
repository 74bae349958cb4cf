// The phase function of smoke.
#pragma once
#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/vec.h"
#include "trace/bsdf.h"
#include "trace/sampler.h"

namespace pour {

/// Henyey–Greenstein phase function (1941) with mean cosine g, -1 < g < 1; positive scatters forwards.
inline float phase(float g, float cosine) {
  const float d = std::max(1e-6f, 1 + g * g - 2 * g * cosine);
  return (1 - g * g) / (4 * std::numbers::pi_v<float> * d * std::sqrt(d));
}

/// Samples it about the unit vector `way`.
inline Vec3f scattered_way(float g, const Vec3f& way, Pair u) {
  constexpr float even = 1e-3f;  // smaller |g| counts as isotropic
  const float root = (1 - g * g) / (1 - g + 2 * g * u.x);
  const float cosine = std::abs(g) < even ? 1 - 2 * u.x : (1 + g * g - root * root) / (2 * g);
  const float sine = std::sqrt(std::max(0.f, 1 - cosine * cosine)),
              turn = 2 * std::numbers::pi_v<float> * u.y;
  const Vec3f out{sine * std::cos(turn), sine * std::sin(turn), cosine};
  return Basis(way).from(out);
}

}  // namespace pour
