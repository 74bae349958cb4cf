// Holes finer than cells: what runs through them, and what they hold.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <numeric>
#include <optional>

#include "check/checks.h"
#include "core/tank.h"
#include "run/staging.h"
#include "shape/thicken.h"
#include "shot/edit.h"
#include "shot/recipes.h"

namespace pour {
namespace {

/// A tank with a wall two cells thick across it, a third of the way up, and liquid above to this height.
struct Sieve : Tank {
  double top;
  Sieve(double h, int wide, double head, const Matter& matter)
      : Tank({wide, 71, wide}, h, box({-0.1, 24 * h, -0.1}, {1, 24 * h + head, 1}, h), {},
             {Solid(LevelSet(slab(h), h))}),
        top(24 * h) {
    w.open[side_bottom] = true, w.liquids[0] = matter;
  }
  static Mesh slab(double h) {
    Mesh m = box_mesh({2, 2 * h, 2});
    m.place({{}, {0.5, 23 * h, 0.5}});
    return m;
  }
  void pierce(double x, double z, double radius, double discharge = 0.61) {
    const double h = w.cell_size;
    w.holes.push_back({.end = {{x, 24 * h, z}, {x, 22 * h, z}}, .radius = radius, .discharge = discharge});
  }
  double above() const {
    double count = 0;
    for (const float y : s.particles.place[1]) count += double(y) * w.cell_size > top - w.cell_size;
    return count * particle_volume(w.cell_size);
  }
};

const Matter water{.density = 1000, .viscosity = 0, .tension = 0};

}  // namespace

// Torricelli (1643) with a coefficient of discharge: dV/dt = −C A √(2 g H) (Lamb, “Hydrodynamics”, 1932,
// §24), in steps of different lengths, for one hole and several.
TEST(Holes, LetThroughWhatTheirCoefficientSays) {
  const double h = 0.005;
  for (const auto& [discharge, step] : {std::pair{0.61, 0.002}, {0.95, 0.005}}) {
    const int wide = 13;
    Sieve tank(h, wide, 0.1, water);
    for (const double x : {0.015, 0.05}) tank.pierce(x, wide * h / 2, 0.003, discharge);
    const auto run = [&, most = step](double seconds) {
      for (const double end = tank.s.time + seconds; tank.s.time < end - 1e-9;)
        tank.solver.step(tank.s, tank.w, std::min(most, longest_step(tank.s, tank.w, 1, most)), tank.ledger);
    };
    run(0.15);
    const double before = tank.above(), start = tank.s.time;
    run(0.2);
    const double after = tank.above(), area = std::pow(wide * h, 2), head = (before + after) / 2 / area + h;
    const double expected =
        2 * discharge * std::numbers::pi * 9e-6 * std::sqrt(2 * 9.81 * head) * (tank.s.time - start);
    EXPECT_NEAR((before - after) / expected, 1, 0.05) << discharge << ", steps of " << step;
  }
}

// A jet leaves at √(2 g H) and falls on: below, it is as fast as what fell from the surface. On average over
// a tenth of a second, since what runs through a hole of two cells comes in bursts. They are a tenth slower.
TEST(Holes, LetOutJetsAsFastAsWhatFell) {
  const double h = 0.005;
  const int wide = 15;
  Sieve tank(h, wide, 0.1, water);
  tank.pierce(wide * h / 2, wide * h / 2, 0.005);
  tank.run(0.2);
  double speed = 0, expected = 0, side = 0;
  int count = 0;
  for (int i = 0; i < 20; ++i) {
    tank.run(0.005);
    const Particles& p = tank.s.particles;
    const double head = tank.above() / std::pow(wide * h, 2);
    for (size_t n = 0; n < p.size(); ++n)
      if (const double y = double(p.place[1][n]); y < 21 && y > 4) {
        speed += double(-p.velocity[1][n]), expected += std::sqrt(2 * 9.81 * (head + (24 - y) * h));
        side = std::max(side,
                        std::hypot(double(p.place[0][n]) - wide / 2.0, double(p.place[2][n]) - wide / 2.0));
        ++count;
      }
  }
  ASSERT_GT(count, 100);
  EXPECT_NEAR(speed / expected, 1, 0.15);
  EXPECT_LT(side, 4) << "cells from its axis";
}

// Young–Laplace: a meniscus in a hole holds up to 4 σ / d, here 14.7 mm of water.
TEST(Holes, HoldWhatTensionHolds) {
  const double h = 0.002;
  for (const double head : {0.008, 0.020}) {
    const int wide = 9;
    Sieve tank(h, wide, head, {.density = 1000, .viscosity = 0.001, .tension = 0.072});
    tank.pierce(wide * h / 2, wide * h / 2, 0.001);
    tank.run(0.12);
    const double before = tank.above();
    tank.run(0.06);
    const double ran = before - tank.above();
    EXPECT_EQ(ran > 1e-8, head > 0.0147) << ran;
  }
}

// Under liquid a hole lets through by the difference of the levels, and no more once they are level.
TEST(Holes, LevelOutUnderLiquid) {
  const double h = 0.005;
  Tank tank({23, 31, 15}, h, box({-0.1, -0.1, -0.1}, {11 * h, 20 * h, 1}, h), {}, {});
  Mesh wall = box_mesh({2 * h, 2, 2});
  wall.place({{}, {12 * h, 0, 0}});
  tank.w.solids.emplace_back(LevelSet(wall, h));
  tank.w.liquids[0] = water;
  for (const double y : {2.5 * h, 5.5 * h})
    for (const double z : {4 * h, 11 * h})
      tank.w.holes.push_back({.end = {{11 * h, y, z}, {13 * h, y, z}}, .radius = 0.006});
  tank.run(2.5);
  double level[2] = {};
  for (const float x : tank.s.particles.place[0]) level[x > 12] += 1;
  level[0] /= 8 * 11 * 15, level[1] /= 8 * 10 * 15;
  EXPECT_NEAR(level[0], level[1], 1);
  EXPECT_GT(level[1], 8);
}

// A hole that is cut, twelve cells wide: the coefficient of a sharp edge, 0.61 (Lamb, “Hydrodynamics”, § 24).
// An edge holds a jet for about a cell all round, so it is 0.77 here.
TEST(LongHoles, OfTwelveCellsContractTheirJet) {
  NEEDS_LONG;
  const double h = 0.001, foot = 12 * h, thick = 2 * h, wide = 36 * h;
  const Body plate =
      bodies_of(
          Shape(Disc{.radius = wide, .thickness = thick, .holes = {.diameter = 12 * h, .gap = wide / 2}}))
          ->front();
  ASSERT_EQ(plate.openings.size(), 1u);
  Mesh wall = as_wall(plate, false, h);
  wall.place({{}, {wide / 2, foot - thick / 2, wide / 2}});
  Tank tank({36, 50, 36}, h, box({-0.1, foot, -0.1}, {1, foot + 0.032, 1}, h), {},
            {Solid(LevelSet(wall, h))});
  tank.w.open[side_bottom] = true, tank.w.liquids[0] = water;
  const auto level = [&] {
    double count = 0;
    for (const float y : tank.s.particles.place[1]) count += double(y) * h > foot;
    return count * particle_volume(h) / (wide * wide);
  };
  tank.run(0.1);
  const double before = level(), start = tank.s.time;
  tank.run(0.1);
  const double after = level(), ran = (before - after) * wide * wide / (tank.s.time - start),
               ideal = std::numbers::pi * 36 * h * h * std::sqrt(9.81 * (before + after));
  EXPECT_NEAR(ran / ideal, 0.61, 0.3 * 0.61);
}

// The mesh of a pierced plate is that of the plate without the cylinders.
TEST(Holes, PiercedPlatesAreClosedAndLackTheirHoles) {
  for (const HolePattern pattern : {HolePattern::rows, HolePattern::staggered, HolePattern::rings}) {
    Disc disc{
        .radius = 0.05, .thickness = 0.002, .holes = {.diameter = 0.004, .gap = 0.003, .pattern = pattern}};
    const Body body = bodies_of(Shape(disc))->front();
    ASSERT_TRUE(body.pierced);
    EXPECT_TRUE(is_closed(*body.pierced));
    const double hole = std::numbers::pi * 4e-6 * 0.002, whole = std::numbers::pi * 0.05 * 0.05 * 0.002;
    EXPECT_NEAR(body.pierced->volume(), whole - double(body.openings.size()) * hole, 0.01 * whole);
    EXPECT_NEAR(body.mesh.volume(), whole, 0.002 * whole) << "without holes";
    for (const Body::Opening& a : body.openings) {
      EXPECT_LE(std::hypot(a.end[0].x, a.end[0].z), 0.05 - 0.0035 + 1e-9);
      for (const Body::Opening& b : body.openings)
        EXPECT_TRUE(&a == &b || length(a.end[0] - b.end[0]) > 0.00699) << "gaps are kept";
    }
  }
  EXPECT_THROW((void)bodies_of(Shape(Plane{.holes = {.diameter = 0.0005, .gap = 0.0002}})), Fault);
}

TEST(Holes, FineOnesAreClosedForTheSolverAndWideOnesCut) {
  const Body body = bodies_of(Shape(Disc{.holes = {.diameter = 0.008}}))->front();
  EXPECT_TRUE(are_cut(body, 0.002));
  EXPECT_FALSE(are_cut(body, 0.0021));
  EXPECT_LT(as_wall(body, false, 0.002).volume(), 0.8 * body.mesh.volume());
  EXPECT_NEAR(as_wall(body, false, 0.001).bounds().size().y, 0.004, 1e-6);
  EXPECT_NEAR(as_wall(body, false, 0.004).bounds().size().y, 0.008, 0.0005) << "two cells thick";
}

TEST(Holes, ACheckSaysWhichAreFinerThanCells) {
  Shot s = find_recipe("tea-through-a-strainer").make("");
  const auto said = [&] {
    const std::vector<Check> all = check_shot(s, ".");
    const auto found = std::find_if(all.begin(), all.end(), [](const Check& c) {
      return c.title == "Holes of Strainer are finer than cells";
    });
    return found == all.end() ? std::optional<Check>() : *found;
  };
  EXPECT_FALSE(said()) << "single streams are what is wanted";
  s.run.cell_size = 0.006;
  const std::optional<Check> check = said();
  ASSERT_TRUE(check);
  check->fix(s);
  EXPECT_LE(s.run.cell_size, 0.003 / 4);
  EXPECT_FALSE(said());
}

// What runs through a hole is known by the order of holes, which doesn't change.
TEST(Holes, KeepTheirOrderWhenAPieceTurnsIntoAFluid) {
  Shot s = find_recipe("tea-through-a-strainer").make("");
  s.run.detail = Detail::draft;
  const Staging staging(s);
  const auto holes = staging.liquid_world(0, 0, 0).holes;
  ASSERT_FALSE(holes.empty());
  EXPECT_GT(holes.front().count, 0);
  turn_into(s, "strainer", s.fluids[0].id, 13);
  const auto later = Staging(s).liquid_world(1, 1, 0).holes;
  ASSERT_EQ(later.size(), holes.size());
  EXPECT_EQ(later.front().count, 0);
}

TEST(Holes, ACheckSaysThatAVesselKeepsAllItHolds) {
  Shot s = find_recipe("tea-through-a-strainer").make("");
  s.piece("strainer")->holds = true, s.piece("strainer")->blocks = false;
  const auto said = [&] {
    for (Check& c : check_shot(s, "."))
      if (c.title == "Strainer has holes but holds") return std::optional<Check>(std::move(c));
    return std::optional<Check>();
  };
  const auto check = said();
  ASSERT_TRUE(check);
  check->fix(s);
  EXPECT_FALSE(said());
  EXPECT_TRUE(s.piece("strainer")->blocks);
}

// Holes closer than two cells are one stream; all of their area is kept.
TEST(Holes, OfAFineMeshAreTakenTogether) {
  Shot s = find_recipe("tea-through-a-strainer").make("");
  const auto holes = [&] { return Staging(s).liquid_world(0, 0, 0).holes; };
  const size_t wide = holes().size();
  double area[2] = {};
  for (const Hole& h : holes()) area[0] += h.area();
  s.run.cell_size = 0.006;
  const auto coarse = holes();
  for (const Hole& h : coarse) area[1] += h.area();
  EXPECT_LT(coarse.size(), wide);
  EXPECT_NEAR(area[1] / area[0], 1, 1e-9);
}

}  // namespace pour
