// Liquid that is gathered into shapes, and carried along curves.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <set>

#include "core/tank.h"
#include "shot/force.h"
#include "world/push.h"

namespace pour {
namespace {

constexpr double h = 0.01;  // m

Mesh box_at(const Vec3d& low, const Vec3d& high) {
  Mesh m = box_mesh(high - low);
  m.place({{}, (low + high) * 0.5});
  return m;
}

/// A gathering force towards boxes.
Acting gathering(const Gather& kind, const std::vector<Mesh>& parts) {
  SetAround set;
  const auto target = std::make_shared<const Target>(parts, Vec3d{1, 0, 0});
  set.target = [target](const std::string&) { return TargetThere{target, {}, {}}; };
  set.since = 100;
  return {.field = kind.field(set), .strength = {}, .inside = true, .sharing = kind.sharing(set, 0)};
}

bool is_in(const Vec3d& p, const Vec3d& low, const Vec3d& high) {
  for (int a = 0; a < 3; ++a)
    if (p[a] < low[a] || p[a] > high[a]) return false;
  return true;
}

Vec3d place_of(const LiquidState& s, size_t n) {
  Vec3d at;
  for (size_t a = 0; a < 3; ++a) at[int(a)] = double(s.particles.place[a][n]) * h;
  return at;
}

/// Share of a box's cells that hold at least half of their eight particles.
double filled_share(const LiquidState& s, const Vec3d& low, const Vec3d& high) {
  Vec3i n;
  for (int a = 0; a < 3; ++a) n[a] = int(std::lround((high[a] - low[a]) / h));
  std::vector<int> count(size_t(n.x * n.y * n.z), 0);
  for (size_t k = 0; k < s.particles.size(); ++k) {
    const Vec3d p = place_of(s, k);
    if (!is_in(p, low, high)) continue;
    Vec3i c;
    for (int a = 0; a < 3; ++a) c[a] = std::clamp(int((p[a] - low[a]) / h), 0, n[a] - 1);
    ++count[size_t((c.z * n.y + c.y) * n.x + c.x)];
  }
  return double(std::count_if(count.begin(), count.end(), [](int c) { return c >= 4; })) /
         double(count.size());
}

/// Intersection over union of the silhouettes of the liquid's level set and of a box, seen along an axis, in
/// squares of a cell.
double overlap(const LiquidState& s, const Vec3d& low, const Vec3d& high, int along) {
  const int u = (along + 1) % 3, v = (along + 2) % 3;
  std::set<std::pair<int, int>> seen;
  for (int b = first_block; b < s.grid.size(); ++b)
    for (int c = 0; c < block_cells; ++c) {
      if (s.surface.block(b)[c] >= 0) continue;
      const Vec3i at = s.grid.key(b).at * 8 + Vec3i{c & 7, c >> 3 & 7, c >> 6};
      seen.insert({at[u], at[v]});
    }
  int both = 0, wanted = 0;
  for (int i = int(std::lround(low[u] / h)); i < int(std::lround(high[u] / h)); ++i)
    for (int j = int(std::lround(low[v] / h)); j < int(std::lround(high[v] / h)); ++j)
      ++wanted, both += int(seen.count({i, j}));
  return both / double(wanted + int(seen.size()) - both);
}

std::set<uint32_t> ids(const LiquidState& s) { return {s.particles.id.begin(), s.particles.id.end()}; }

}  // namespace

// A ball flows into a block of its volume and fills it; no particle is lost, made or faster than stated.
TEST(Gather, LiquidFillsAShape) {
  const Vec3d low{0.35, 0.25, 0.25}, high{0.47, 0.37, 0.49};
  const double volume = 0.12 * 0.12 * 0.24, radius = std::cbrt(1.04 * volume * 3 / (4 * std::numbers::pi));
  Tank tank({63, 63, 63}, h, SourceShape::ball({0.15, 0.3, 0.3}, radius), {});
  tank.w.gravity = 0;
  const Gather gather{.fastest = 0.5, .strength = 30, .calm = 0.1};
  tank.w.fields = {gathering(gather, {box_at(low, high)})};
  const std::set<uint32_t> first = ids(tank.s);
  double fastest = 0;
  for (int i = 0; i < 50; ++i) {
    tank.run(0.04);
    fastest = std::max(fastest, measure(tank.s, h).max_speed);
  }
  EXPECT_LE(fastest, gather.fastest * 1.0001);
  EXPECT_EQ(ids(tank.s), first);
  EXPECT_GE(filled_share(tank.s, low, high), 0.97);
  EXPECT_GE(overlap(tank.s, low, high, 0), 0.92);
  EXPECT_GE(overlap(tank.s, low, high, 2), 0.92);
  EXPECT_NEAR(tank.ledger.in_shot, tank.ledger.poured, 0.01 * tank.ledger.poured);
}

// Gravity is lifted off what is gathered, by the stated share.
TEST(Gather, LiftsGravity) {
  SetAround set;
  const auto target =
      std::make_shared<const Target>(std::vector<Mesh>{box_mesh({0.1, 0.1, 0.1})}, Vec3d{1, 0, 0});
  set.target = [&](const std::string&) { return TargetThere{target, {}, {}}; };
  set.gravity = 9.81;
  Push push;
  Gather{.ease_in = 0, .gravity = 0.25}.field(set)->add({splat(Vec3d{0.03, 0, 0}), splat(1), splat(0), false},
                                                        splat(1), push);
  EXPECT_NEAR(double(push.acceleration.y[0]), 0.75 * 9.81, 1e-5);
}

// A target that moves takes along what it holds.
TEST(Gather, TakesLiquidAlong) {
  SetAround set;
  const auto target =
      std::make_shared<const Target>(std::vector<Mesh>{box_mesh({0.1, 0.1, 0.1})}, Vec3d{1, 0, 0});
  set.target = [&](const std::string&) {
    TargetThere there{target, {}, {}};
    there.soon.position = Vec3d{0.3, 0, 0.1} * there.seconds;
    return there;
  };
  Push push;
  Gather().field(set)->add({splat(Vec3d{}), splat(1), splat(0), false}, splat(1), push);
  EXPECT_NEAR(double(push.led.x[0]), 0.3 * double(push.drag[0]), 1e-3);
  EXPECT_NEAR(double(push.led.z[0]), 0.1 * double(push.drag[0]), 1e-3);
}

// From left to right by volume, or each body by hand; what is poured later goes to the nearest.
TEST(Gather, SharesLiquidAmongParts) {
  const std::vector<Mesh> parts{box_at({0.1, 0.4, 0.2}, {0.2, 0.5, 0.3}),
                                box_at({0.3, 0.4, 0.2}, {0.4, 0.5, 0.5})};
  for (const bool by_hand : {false, true}) {
    Tank tank({63, 63, 63}, h, SourceShape::ball({0.15, 0.15, 0.3}, 0.05), {});
    Source right;
    right.shape = SourceShape::ball({0.45, 0.15, 0.3}, 0.05);
    tank.w.gravity = 0;
    tank.solver.update_region(tank.s, tank.w, 0);
    tank.solver.fill(tank.s, tank.w, {right}, tank.ledger);
    Gather gather{.goes_to = by_hand ? GoesTo::by_hand : GoesTo::in_order, .bodies = "2, 1"};
    tank.w.fields = {gathering(gather, parts)};
    tank.solver.update_region(tank.s, tank.w, 0);
    tank.solver.share_out(tank.s, tank.w);
    size_t to_first = 0, from_left = 0;
    for (size_t n = 0; n < tank.s.particles.size(); ++n) {
      uint16_t goals[8];
      std::fill_n(goals, 8, tank.s.particles.goal[n]);
      const bool first = part_of(*tank.w.fields[0].sharing, goals)[0] == 0;
      to_first += first, from_left += first && place_of(tank.s, n).x < 0.3;
    }
    const double all = double(tank.s.particles.size());
    EXPECT_NEAR(double(to_first) / all, by_hand ? 0.5 : 0.25, 0.01);
    EXPECT_EQ(from_left, by_hand ? 0 : to_first);
    // A third ball, poured while the force acts.
    right.shape = SourceShape::ball({0.15, 0.5, 0.5}, 0.03);
    const uint32_t poured = tank.s.poured;
    tank.solver.fill(tank.s, tank.w, {right}, tank.ledger);
    tank.solver.update_region(tank.s, tank.w, 0);
    tank.solver.share_out(tank.s, tank.w);
    for (size_t n = 0; n < tank.s.particles.size(); ++n) {
      uint16_t goals[8];
      std::fill_n(goals, 8, tank.s.particles.goal[n]);
      if (tank.s.particles.id[n] >= poured) {
        ASSERT_EQ(part_of(*tank.w.fields[0].sharing, goals)[0], -1);
      }
    }
  }
}

// A current goes along its curve, faster at one end, draws in, and ends at its radius.
TEST(Current, GoesAlongItsCurve) {
  const Current c{.points = {{{0, 0, 0}, {1, 0, 0}}},
                  .speed = 2,
                  .end_speed = 0.5,
                  .radius = 0.1,
                  .draw = 0.3,
                  .response = 0.1};
  const auto at = [&](const Vec3d& p) {
    Push push;
    c.field({})->add({splat(p), splat(1), splat(0), false}, splat(1), push);
    return push;
  };
  const Push middle = at({0.5, 0, 0}), beside = at({0.5, 0.05, 0}), outside = at({0.5, 0.11, 0});
  EXPECT_NEAR(double(middle.drag[0]), 10, 1e-4);
  EXPECT_NEAR(double(middle.led.x[0] / middle.drag[0]), 1.5, 1e-4) << "half way between 2 and 1 m/s";
  EXPECT_NEAR(double(at({0.001, 0, 0}).led.x[0]), 20, 0.05);
  EXPECT_NEAR(double(beside.led.y[0] / beside.drag[0]), -0.3, 1e-4);
  EXPECT_NEAR(double(beside.drag[0]), 10 * 0.75 * 0.75, 1e-3) << "(1 − r²/R²)²";
  EXPECT_EQ(outside.drag[0], 0);
}

// Copies about an axis are turned copies of the first curve.
TEST(Current, IsCopiedAboutAnAxis) {
  const Current c{.points = {{{0.1, 0, 0}, {0.2, 0.3, 0.05}}}, .copies = 3, .noise = 0};
  const Vec3d p{0.14, 0.12, 0.01};
  const double turn = 2 * std::numbers::pi / 3;
  // A positive turn about y takes z to x.
  const auto turned_about_y = [&](const Vec3d& v) {
    return Vec3d{v.x * std::cos(turn) + v.z * std::sin(turn), v.y,
                 v.z * std::cos(turn) - v.x * std::sin(turn)};
  };
  Push one, other;
  const auto field = c.field({});
  field->add({splat(p), splat(1), splat(0), false}, splat(1), one);
  field->add({splat(turned_about_y(p)), splat(1), splat(0), false}, splat(1), other);
  ASSERT_GT(one.drag[0], 1);
  EXPECT_NEAR(double(other.drag[0]), double(one.drag[0]), 1e-4);
  const Vec3d led = turned_about_y({double(one.led.x[0]), double(one.led.y[0]), double(one.led.z[0])});
  for (int a = 0; a < 3; ++a) EXPECT_NEAR(double(other.led[a][0]), led[a], 1e-4);
}

// A closed ring carries a drop round: after a turn at the stated speed it is back.
TEST(Current, CarriesADropRound) {
  constexpr double radius = 0.15, speed = 0.4;
  Current c{.closed = true, .speed = speed, .radius = 0.08, .draw = 0.2, .response = 0.02};
  c.points.list.clear();
  for (int i = 0; i < 12; ++i) {
    const double a = 2 * std::numbers::pi * i / 12;
    c.points.list.push_back({0.32 + radius * std::cos(a), 0.32, 0.32 - radius * std::sin(a)});
  }
  Tank tank({63, 63, 63}, h, SourceShape::ball({0.32 + radius, 0.32, 0.32}, 0.03), {});
  tank.w.gravity = 0;
  tank.w.fields = {{.field = c.field({}), .strength = {}, .inside = true}};
  double angle = 0, before = 0;
  while (angle < 2 * std::numbers::pi && tank.s.time < 12) {
    tank.run(0.02);
    const Vec3d at = measure(tank.s, h).centroid - Vec3d{0.32, 0.32, 0.32};
    const double now = std::atan2(-at.z, at.x);
    angle += std::remainder(now - before, 2 * std::numbers::pi), before = now;
    ASSERT_NEAR(std::hypot(at.x, at.z), radius, 0.02);
  }
  EXPECT_NEAR(tank.s.time, 2 * std::numbers::pi * radius / speed,
              0.1 * 2 * std::numbers::pi * radius / speed);
}

}  // namespace pour
