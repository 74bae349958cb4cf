// Linear light in the primaries of ITU-R BT.709.
#pragma once
#include <numbers>

#include "base/vec.h"

namespace pour {

constexpr float pi = std::numbers::pi_v<float>;

/// Luminance (ITU-R BT.709-6, 3.2).
inline float luminance(const Vec3f& light) {
  return 0.2126f * light.x + 0.7152f * light.y + 0.0722f * light.z;
}
inline float largest(const Vec3f& v) { return std::max({v.x, v.y, v.z}); }

}  // namespace pour
