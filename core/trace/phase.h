// Where smoke sends light on to.
#pragma once
#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/vec.h"
#include "trace/bsdf.h"
#include "trace/sampler.h"

namespace pour {

/// Density by solid angle of directions at this cosine to the way that light had, whose mean cosine is g: 0
/// all round, above it forwards (Henyey & Greenstein 1941). -1 < g < 1.
inline float phase(float g, float cosine) {
  const float d = std::max(1e-6f, 1 + g * g - 2 * g * cosine);
  return (1 - g * g) / (4 * std::numbers::pi_v<float> * d * std::sqrt(d));
}

/// A direction of that density about `way`, a unit vector.
inline Vec3f scattered_way(float g, const Vec3f& way, Pair u) {
  constexpr float even = 1e-3f;  // so little of it is none
  const float root = (1 - g * g) / (1 - g + 2 * g * u.x);
  const float cosine = std::abs(g) < even ? 1 - 2 * u.x : (1 + g * g - root * root) / (2 * g);
  const float sine = std::sqrt(std::max(0.f, 1 - cosine * cosine)),
              turn = 2 * std::numbers::pi_v<float> * u.y;
  const Vec3f out{sine * std::cos(turn), sine * std::sin(turn), cosine};
  return Basis(way).from(out);
}

}  // namespace pour
