// What the strength of a force may depend on.
#pragma once
#include <utility>
#include <vector>

#include "base/simd.h"

namespace pour {

enum class Driver { none, age, height, speed, distance, density, warmth };

/// A factor over a driver: straight between its points, constant beyond them.
struct Dependence {
  Driver driver = Driver::none;
  std::vector<std::pair<double, double>> points;  // driver (SI), in rising order; factor
  bool operator==(const Dependence&) const = default;
  v8 factor(v8 x) const;
  double most() const;  // largest factor either way
};

}  // namespace pour
