// Liquid that runs out of a slot with sharp edges.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "core/tank.h"

namespace pour {
namespace {

using Outline = std::vector<std::pair<double, double>>;  // x and y, counter-clockwise

/// A convex outline drawn out along z.
Mesh prism(const Outline& p, double low, double high) {
  Mesh m;
  const int n = int(p.size());
  for (const double z : {low, high})
    for (const auto& [x, y] : p) m.points.push_back({float(x), float(y), float(z)});
  for (int i = 1; i + 1 < n; ++i)
    m.triangles.push_back({0, i + 1, i}), m.triangles.push_back({n, n + i, n + i + 1});
  for (int i = 0; i < n; ++i) {
    const int next = (i + 1) % n;
    m.triangles.push_back({i, next, n + next}), m.triangles.push_back({i, n + next, n + i});
  }
  return m;
}

/// Of area times √(2 g h), the share that comes out of a slot that is so many cells wide, in the bottom of a
/// tank eight times as wide, whose edges recede below at 45°.
double share_of_slot(int cells) {
  const double h = 0.005, wide = 8 * cells * h, bottom = 40 * h, slot = cells * h, thick = 6 * h;
  const double left = (wide - slot) / 2, right = (wide + slot) / 2, deep = 8 * h;
  const Outline walls[2] = {
      {{-0.1, bottom - thick}, {left - thick, bottom - thick}, {left, bottom}, {-0.1, bottom}},
      {{right + thick, bottom - thick}, {wide + 0.1, bottom - thick}, {wide + 0.1, bottom}, {right, bottom}}};
  std::vector<Solid> solids;
  for (const Outline& wall : walls) solids.emplace_back(LevelSet(prism(wall, -0.1, 0.2), h));
  Tank tank({8 * cells - 1, 111, 7}, h, box({-0.1, bottom, -0.1}, {wide + 0.1, bottom + 60 * h, 0.5}, h), {},
            std::move(solids));
  tank.w.open[side_bottom] = true, tank.w.liquids[0] = {.density = 1000, .viscosity = 0, .tension = 0};
  const auto above = [&] {
    double count = 0;
    for (const float y : tank.s.particles.place[1]) count += double(y) * h > bottom;
    return count * h * h * h / 8;
  };
  tank.run(0.2);
  const double before = above();
  tank.run(0.2);
  const double after = above(), level = (before + after) / 2 / (wide * deep);
  return (before - after) / 0.2 / (slot * deep * std::sqrt(2 * 9.81 * level));
}

}  // namespace

// Torricelli, with the contraction of a free jet out of a sharp slot, π / (π + 2) = 0.611 (Kirchhoff 1869;
// Lamb, Hydrodynamics, 1932, § 73 and following; from memory). An edge holds a jet for about a cell.
TEST(LongLiquid, RunsOutOfASlotAsKirchhoffSays) {
  NEEDS_LONG;
  const double share = std::numbers::pi / (std::numbers::pi + 2);
  EXPECT_NEAR(share_of_slot(24), share, 0.05 * share);
  EXPECT_NEAR(share_of_slot(12), share, 0.16 * share);
}

}  // namespace pour
