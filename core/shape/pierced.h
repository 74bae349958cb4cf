// Holes through level plates.
#pragma once
#include <functional>

#include "shape/body.h"
#include "shape/extrude.h"
#include "shot/setting.h"

namespace pour {

enum class HolePattern { rows, staggered, rings };

struct Piercing {
  double diameter = 0;  // m; 0: no holes
  double gap = 0.003;   // clear distance between two holes, m
  HolePattern pattern = HolePattern::staggered;
  double discharge = 0.61;  // share of a hole's area that a jet fills
  bool operator==(const Piercing&) const = default;
};

/// Adds holes to the body of a level plate, wherever `fits` says that one fits. It takes the middle of a
/// hole, z = 0, and the radius of the space that a hole needs. The outline of the plate lies in x and -z,
/// counter-clockwise. Lengths in m. Throws Fault (Blame::shot) for more than 10,000 holes.
void pierce(Body&, const Piercing&, const Outline::Ring&, double thickness,
            const std::function<bool(const Vec3d&, double)>& fits);

/// The settings of a kind that has holes, as its member `holes`.
template <class T>
TableOf<T>& add_piercing(TableOf<T>& table) {
  static constexpr Option patterns[] = {
      {"rows", "in rows"}, {"staggered", "staggered"}, {"rings", "in rings"}};
  const auto has_holes = [](const T& t) { return t.holes.diameter > 0; };
  return table
      .template add<double>(
          "hole_size", "Hole size", Unit::length, {0, 1, 0, 0.02},
          "Diameter of the holes through it. Holes under four cells let liquid through in single streams and "
          "stop smoke.",
          [](const T& t) { return t.holes.diameter; }, [](T& t, const double& v) { t.holes.diameter = v; })
      .zero_holding("none")
      .fixed()
      .more()
      .template add<double>(
          "hole_gap", "Hole gap", Unit::length, {1e-4, 1, 5e-4, 0.02}, "Clear distance between two holes.",
          [](const T& t) { return t.holes.gap; }, [](T& t, const double& v) { t.holes.gap = v; })
      .where(has_holes)
      .fixed()
      .more()
      .template add<Choice>(
          "hole_pattern", "Hole pattern", "Pattern in which the holes lie.",
          [](const T& t) { return Choice{int(t.holes.pattern)}; },
          [](T& t, const Choice& c) { t.holes.pattern = HolePattern(c.index); })
      .words(patterns)
      .where(has_holes)
      .fixed()
      .more()
      .template add<double>(
          "hole_flow", "Hole flow", Unit::percent, {0.1, 1, 0.4, 1},
          "Share of a hole that a stream fills. A sharp edge has 61 %, a rounded one up to 98 %.",
          [](const T& t) { return t.holes.discharge; }, [](T& t, const double& v) { t.holes.discharge = v; })
      .where(has_holes)
      .fixed()
      .more();
}

}  // namespace pour
