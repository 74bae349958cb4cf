// The sRGB transfer function (IEC 61966-2-1).
#pragma once
#include <cmath>

namespace pour {

template <class T>
T to_srgb(T linear) {
  return linear <= T(0.0031308) ? T(12.92) * linear : T(1.055) * std::pow(linear, T(1) / T(2.4)) - T(0.055);
}
template <class T>
T from_srgb(T shown) {
  return shown <= T(0.04045) ? shown / T(12.92) : std::pow((shown + T(0.055)) / T(1.055), T(2.4));
}

}  // namespace pour
