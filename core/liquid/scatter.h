// Places and numbers that look random and are always the same.
#pragma once
#include <cmath>
#include <cstdint>
#include <numbers>
#include <utility>

#include "world/source.h"

namespace pour {

/// A number of 0 to 1 that is the same for the same two.
inline float scatter(uint32_t a, uint32_t b) {
  uint32_t x = a * 0x9E3779B9u ^ (b + 0x85EBCA6Bu) * 0xC2B2AE35u;
  x ^= x >> 16, x *= 0x7FEB352Du, x ^= x >> 15, x *= 0x846CA68Bu, x ^= x >> 16;
  return float(x >> 8) / float(1 << 24);
}

/// Place number n in a mouth, along it and across it. Evenly over it however many there are: the sequence
/// that goes with the plastic number (Roberts 2018).
inline std::pair<double, double> in_mouth(const Mouth& mouth, double n) {
  const double a = std::fmod(0.5 + n * 0.7548776662466927, 1), b = std::fmod(0.5 + n * 0.5698402909980532, 1);
  if (!mouth.round) return {2 * a - 1, 2 * b - 1};
  const double r = std::sqrt(a), around = 2 * std::numbers::pi * b;
  return {r * std::cos(around), r * std::sin(around)};
}

}  // namespace pour
