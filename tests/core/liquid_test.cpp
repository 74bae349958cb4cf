// Liquid with a free surface, against closed formulas and published measurements.
#include <gtest/gtest.h>

#include <cmath>
#include <cstdlib>
#include <numbers>

#include "base/parallel.h"
#include "core/tank.h"
#include "shape/turned_mesh.h"

namespace pour {
namespace {

/// Speed of the fastest particle once all of it rests, m/s.
double restlessness(const LiquidState& s) { return measure(s, 1).max_speed; }

}  // namespace

TEST(Particles, AreSortedByCellAndNoneIsLost) {
  Particles p;
  p.resize(5000);
  for (size_t i = 0; i < p.size(); ++i) {
    for (size_t a = 0; a < 3; ++a) p.place[a][i] = float((i * (7 + 4 * a) * 2654435761u) % 1600) / 100;
    p.id[i] = uint32_t(i), p.age[i] = p.place[0][i];
  }
  p.place[0][17] = 99;  // not in the grid
  std::vector<BlockKey> keys;
  for (int n = 0; n < 8; ++n) keys.push_back({0, {n & 1, n >> 1 & 1, n >> 2}});
  const BlockGrid g(keys, [](const BlockKey&) { return int(outside_open); });
  const ParticleCells cells = sort_particles(p, g);
  ASSERT_EQ(p.size(), 4999u);
  std::vector<bool> seen(5000, false);
  for (int b = first_block; b < g.size(); ++b)
    for (int c = 0; c < block_cells; ++c)
      for (uint32_t i = cells.begin(b, c); i < cells.end(b, c); ++i) {
        const Vec3i at = g.key(b).at * 8 + Vec3i{c & 7, c >> 3 & 7, c >> 6};
        for (int a = 0; a < 3; ++a) ASSERT_EQ(int(p.place[size_t(a)][i]), at[a]);
        ASSERT_EQ(p.age[i], p.place[0][i]) << "its values stay together";
        ASSERT_TRUE(i == cells.begin(b, c) || p.id[i - 1] < p.id[i]) << "equal cells keep their order";
        seen[p.id[i]] = true;
      }
  EXPECT_EQ(std::count(seen.begin(), seen.end(), true), 4999);
}

// Free flight: y = v t - g t² / 2 (Galilei), without any pull between its parts.
TEST(Liquid, ADropFliesOnItsArc) {
  const double h = 0.01;
  Tank tank({63, 95, 31}, h, SourceShape::ball({0.12, 0.3, 0.15}, 0.04), {1, 2, 0});
  const Vec3d start = measure(tank.s, h).centroid;
  while (tank.s.time < 0.3 - 1e-9)
    tank.solver.step(tank.s, tank.w, 0.002, tank.ledger);  // of first order in time
  const Vec3d way = measure(tank.s, h).centroid - start;
  EXPECT_NEAR(way.x, 0.3, 0.003);
  EXPECT_NEAR(way.y, 2 * 0.3 - 9.81 * 0.3 * 0.3 / 2, 0.005);
  EXPECT_NEAR(way.z, 0, 1e-3);
}

// What APIC carries over a step is linear and angular momentum (Jiang et al. 2015).
TEST(Liquid, ASpinningBallKeepsItsTurn) {
  const double h = 0.01;
  Tank tank({47, 47, 47}, h, SourceShape::ball({0.235, 0.235, 0.235}, 0.1));
  tank.w.gravity = 0;
  const auto turn = [&] {
    double sum = 0;
    const Particles& p = tank.s.particles;
    for (size_t i = 0; i < p.size(); ++i)
      sum += double((p.place[0][i] - 23.5f) * p.velocity[1][i] - (p.place[1][i] - 23.5f) * p.velocity[0][i]);
    return sum;
  };
  Particles& p = tank.s.particles;
  for (size_t i = 0; i < p.size(); ++i) {
    p.velocity[0][i] = -0.05f * (p.place[1][i] - 23.5f), p.velocity[1][i] = 0.05f * (p.place[0][i] - 23.5f);
    p.slope[1][i] = -0.05f, p.slope[3][i] = 0.05f;
  }
  const double before = turn();
  for (int i = 0; i < 10; ++i) tank.solver.step(tank.s, tank.w, 0.002, tank.ledger);
  EXPECT_NEAR(turn() / before, 1, 0.03);
}

// What rests keeps resting, its level is that of its volume (hydrostatics), and the books say so.
TEST(Liquid, RestsLevelInATank) {
  const double h = 0.01;
  Tank tank({23, 23, 15}, h, box({-0.1, -0.1, -0.1}, {0.5, 0.12, 0.5}, h));
  tank.run(1.5);
  EXPECT_LT(restlessness(tank.s), 0.01);
  EXPECT_NEAR(tank.ledger.in_shot / (0.23 * 0.15), 0.12, 0.01 * 0.12);
  EXPECT_LT(std::abs(tank.ledger.numeric), 0.002 * tank.ledger.poured);
  EXPECT_EQ(tank.ledger.left, 0);
}

// A slot of five cells that stands as the cells do, and one aslant: what was poured into them comes to rest,
// and stays as much as it was.
TEST(Liquid, RestsInNarrowVessels) {
  const double h = 0.004;
  for (const double tilt : {0.0, 0.3}) {
    Mesh slot = box_mesh({5 * h, 22 * h, 11 * h});
    slot.place({Rotation::euler({tilt, 0, 0.7 * tilt}), {16 * h, 16 * h, 16 * h}});
    std::vector<Solid> solids{Solid::around(LevelSet(slot, h))};
    solids[0].friction = 0.5;
    Tank tank({31, 31, 31}, h, box({-0.1, -0.1, -0.1}, {0.4, 21 * h, 0.4}, h), {}, solids);
    tank.run(1);
    double squares = 0;
    for (const auto& v : tank.s.particles.velocity)
      for (const float x : v) squares += double(x) * double(x);
    const double count = double(tank.s.particles.size());
    EXPECT_LT(std::sqrt(squares / count), tilt == 0 ? 0.003 : 0.04) << tilt;
    EXPECT_LT(std::abs(tank.ledger.numeric), 0.02 * tank.ledger.poured) << tilt;
  }
}

// Ten seconds in a tank of cells of 5 mm: nothing moves, nothing is lost.
TEST(LongLiquid, RestsForTenSeconds) {
  NEEDS_LONG;
  const double h = 0.005;
  Tank tank({31, 31, 31}, h, box({-0.1, -0.1, -0.1}, {0.5, 0.08, 0.5}, h));
  tank.run(10);
  EXPECT_LT(restlessness(tank.s), 0.0025) << "its fastest particle";
  EXPECT_NEAR(tank.ledger.in_shot / (0.155 * 0.155), 0.08, 0.5 * h) << "its level";
  EXPECT_LT(std::abs(tank.ledger.numeric), 0.002 * tank.ledger.poured);
}

// Water stands in a bowl as high as its volume says, and on the outside nothing is wet.
TEST(Liquid, StaysInABowl) {
  const double h = 0.005;
  // A block with a pit of 8 by 8 by 6 cm in it.
  std::vector<Solid> walls;
  for (const auto& [low, high] : {std::pair<Vec3d, Vec3d>{{0.03, 0.02, 0.03}, {0.15, 0.04, 0.15}},
                                  {{0.03, 0.04, 0.03}, {0.05, 0.1, 0.15}},
                                  {{0.13, 0.04, 0.03}, {0.15, 0.1, 0.15}},
                                  {{0.05, 0.04, 0.03}, {0.13, 0.1, 0.05}},
                                  {{0.05, 0.04, 0.13}, {0.13, 0.1, 0.15}}}) {
    Mesh m = box_mesh(high - low);
    m.place({{}, (low + high) * 0.5});
    walls.emplace_back(LevelSet(m, h));
  }
  Tank tank({39, 39, 39}, h, box({0.04, 0.03, 0.04}, {0.14, 0.07, 0.14}, h), {}, walls);
  const double volume = 0.08 * 0.03 * 0.08;
  EXPECT_NEAR(tank.ledger.poured, volume, 0.02 * volume);
  tank.run(1);
  EXPECT_LT(restlessness(tank.s), 0.03);
  EXPECT_NEAR(tank.ledger.in_shot, volume, 0.02 * volume);
  for (size_t i = 0; i < tank.s.particles.size(); ++i)
    for (size_t a = 0; a < 3; a += 2) {
      ASSERT_GT(double(tank.s.particles.place[a][i]) * h, 0.049);
      ASSERT_LT(double(tank.s.particles.place[a][i]) * h, 0.131);
    }
  EXPECT_NEAR(2 * (measure(tank.s, h).centroid.y - 0.04), 0.03, h / 2) << "its level";
}

// A jet brings what its mouth and its speed say: area times speed.
TEST(Liquid, APourBringsAreaTimesSpeed) {
  const double h = 0.005;
  Tank tank({31, 63, 31}, h, box({0.06, 0.28, 0.06}, {0.1, 0.3, 0.1}, h), {0, -1, 0});
  Source mouth;
  mouth.shape = box({0.06, 0.28, 0.06}, {0.1, 0.3, 0.1}, h), mouth.velocity = {0, -1, 0};
  tank.w.sources = {mouth}, tank.w.gravity = 0;
  const double before = tank.ledger.poured;
  tank.run(0.15);
  EXPECT_NEAR((tank.ledger.poured - before) / (0.04 * 0.04 * 1 * 0.15), 1, 0.08);
}

// The front of a column of water of width a and height 2a that is let go: Martin & Moyce (Phil. Trans. R.
// Soc. A 244, 1952), n² = 2: it is at Z = 2.11 and 3.00 widths at T = 1.83 and 2.51, with T = t √(2 g / a)
// (their table, from memory).
TEST(Liquid, ADamBreaksAsMartinAndMoyceMeasured) {
  const double h = 0.005, a = 0.1;
  Tank tank({95, 63, 7}, h, box({-0.1, -0.1, -0.1}, {a, 2 * a, 0.3}, h));
  const double at[2] = {2.11 * a, 3.00 * a};
  double seen[2] = {}, was = a;
  while (tank.s.time < 0.25 && !seen[1]) {
    const double before = tank.s.time;
    tank.run(0.002);
    double foremost[8] = {}, front = 0;  // of each row of cells, and their mean: one particle says little
    for (size_t n = 0; n < tank.s.particles.size(); ++n) {
      double& f = foremost[std::clamp(int(tank.s.particles.place[2][n]), 0, 7)];
      f = std::max(f, double(tank.s.particles.place[0][n]) * h);
    }
    for (const double f : foremost) front += f / 8;
    for (int k = 0; k < 2; ++k)
      if (!seen[k] && front >= at[k])
        seen[k] = (before + (at[k] - was) / (front - was) * (tank.s.time - before)) * std::sqrt(2 * 9.81 / a);
    was = front;
  }
  EXPECT_NEAR(seen[0], 1.83, 0.05 * 1.83);
  EXPECT_NEAR(seen[1], 2.51, 0.05 * 2.51);
  EXPECT_NEAR(seen[1] - seen[0], 2.51 - 1.83, 0.05 * 0.68);
}

// Shear above a floor to which it clings, with a top that slips: u = sin(π y / 2 H) dies away as exp(-ν (π /
// 2 H)² t) (Stokes; diffusion of momentum).
TEST(Liquid, ShearDiesAwayByViscosity) {
  const double h = 0.005;
  Tank tank({31, 7, 15}, h, box({-1, -1, -1}, {1, 1, 1}, h));
  for (bool& open : tank.w.open) open = false;
  const double height = 7 * h;
  tank.w.liquids = {{.density = 1000, .viscosity = 0.5}};
  LiquidState& s = tank.s;
  tank.solver.update_region(s, tank.w, 0);
  tank.solver.gather(s);
  const auto shape = [&](int y) { return std::sin(std::numbers::pi / 2 * (y + 0.5) * h / height); };
  const auto each = [&](const auto& f) {
    for (int b = first_block; b < s.grid.size(); ++b)
      for (int c = 0; c < block_cells; ++c) {
        const Vec3i at = s.grid.key(b).at * 8 + Vec3i{c & 7, c >> 3 & 7, c >> 6};
        if (at.x > 0 && at.x < 31 && at.y < 7 && at.z < 15 && at.y >= 0 && at.z >= 0) f(b, c, at);
      }
  };
  each([&](int b, int c, const Vec3i& at) { s.u.block(b)[c] = float(shape(at.y)); });
  constexpr int steps = 40;
  const double dt = 5e-3;
  for (int i = 0; i < steps; ++i) tank.solver.apply_viscosity(s, tank.w, dt);
  double sum = 0, norm = 0;
  each([&](int b, int c, const Vec3i& at) {
    if (at.x == 15 && at.z == 7)
      sum += double(s.u.block(b)[c]) * shape(at.y), norm += shape(at.y) * shape(at.y);
  });
  const double k = std::numbers::pi / 2 / height;
  EXPECT_NEAR(sum / norm, std::exp(-0.5e-3 * k * k * steps * dt), 0.02);
}

namespace {

/// The speed of a film of 12 mm that runs down a wall, in rows of `cells` over its thickness, m/s.
std::vector<double> film_profile(int cells) {
  constexpr double thick = 0.012, wall = 0.03, nu = 2e-3;
  const double h = thick / cells;
  Mesh m = box_mesh({wall, 0.6, 0.2});
  m.place({{}, {wall / 2, 0.2, 0.05}});
  const auto blocks = [&](double size) { return int(size / h + 8) / 8 * 8 - 1; };
  Tank tank({blocks(0.063), blocks(0.191), 7}, h, box({wall, 0.01, -0.1}, {wall + thick, 0.19, 0.2}, h / 2),
            {}, {Solid(LevelSet(m, h))});
  tank.w.open[side_bottom] = true;
  tank.w.liquids = {{.density = 1000, .viscosity = 1000 * nu}};
  tank.run(0.17);
  std::vector<double> sum(size_t(cells), 0), count(size_t(cells), 0);
  const Particles& p = tank.s.particles;
  for (size_t i = 0; i < p.size(); ++i) {
    const double y = double(p.place[1][i]) * h, row = double(p.place[0][i]) - wall / h;
    if (y < 0.05 || y > 0.1 || row < 0 || row >= cells) continue;
    sum[size_t(row)] -= double(p.velocity[1][i]), ++count[size_t(row)];
  }
  for (size_t i = 0; i < sum.size(); ++i) sum[i] /= count[i];
  return sum;
}

/// What Nusselt says of the same row.
double film_speed(int cells, size_t row) {
  constexpr double thick = 0.012, g = 9.81, nu = 2e-3;
  const double x = (double(row) + 0.5) * thick / cells;
  return g / nu * (thick * x - x * x / 2);
}

}  // namespace

// A film that runs down a wall has the profile u = g / ν (d x - x² / 2) (Nusselt 1916).
TEST(Liquid, AFilmRunsDownAWallAsNusseltSays) {
  const std::vector<double> speed = film_profile(6);
  for (size_t row = 0; row < speed.size(); ++row)
    EXPECT_NEAR(speed[row], film_speed(6, row), 0.05 * film_speed(6, 5)) << "row " << row;
}

// The same film falls alike in cells of half the size.
TEST(LongLiquid, AFilmFallsAlikeInFinerCells) {
  NEEDS_LONG;
  const std::vector<double> coarse = film_profile(6), fine = film_profile(12);
  for (size_t row = 0; row < coarse.size(); ++row) {
    const double same = (fine[2 * row] + fine[2 * row + 1]) / 2;
    EXPECT_NEAR(coarse[row], same, 0.1 * film_speed(6, 5)) << "row " << row;
    EXPECT_NEAR(fine[2 * row], film_speed(12, 2 * row), 0.05 * film_speed(12, 11)) << "row " << 2 * row;
  }
}

namespace {

/// Means of f(n) over the particles with y between `low` and `high` cells, in rings of a cell around a
/// middle.
template <class F>
std::vector<double> by_ring(const Particles& p, float middle, float low, float high, size_t rings,
                            const F& f) {
  std::vector<double> sum(rings, 0), count(rings, 0);
  for (size_t n = 0; n < p.size(); ++n) {
    const size_t ring = size_t(std::hypot(p.place[0][n] - middle, p.place[2][n] - middle));
    if (p.place[1][n] < low || p.place[1][n] > high || ring >= rings) continue;
    sum[ring] += f(n), ++count[ring];
  }
  for (size_t i = 0; i < rings; ++i) sum[i] /= std::max(1.0, count[i]);
  return sum;
}

}  // namespace

// In a tube that is open at both ends weight drives what is thick: w = g (R² - r²) / 4 ν, and so much comes
// through as π g R⁴ / 8 ν (Poiseuille 1840; Landau & Lifshitz, Fluid Mechanics, § 17, from memory).
TEST(Liquid, RunsThroughATubeAsPoiseuilleSays) {
  const double h = 0.002, radius = 8 * h, nu = 0.01, middle = 16 * h;
  Mesh tube = cylinder_mesh(radius, 0.4), filled = cylinder_mesh(radius, 0.13);
  tube.place({{}, {middle, 0.1, middle}}), filled.place({{}, {middle, 0.1, middle}});
  Tank tank({31, 95, 31}, h, SourceShape::surface(LevelSet(filled, h / 2), filled.bounds(), 1), {},
            {Solid::around(LevelSet(tube, h))});
  tank.w.open[side_bottom] = true;
  tank.w.liquids = {{.density = 1000, .viscosity = 1000 * nu}};
  tank.run(0.08);
  const Particles& p = tank.s.particles;
  const auto speed = by_ring(p, 16, 30, 60, 8, [&](size_t n) { return -double(p.velocity[1][n]); });
  double through = 0, should = 0;
  for (size_t i = 0; i < speed.size(); ++i) {
    const double r = (double(i) + 0.5) * h, area = 2 * std::numbers::pi * r * h;
    const double theirs = 9.81 / (4 * nu) * (radius * radius - r * r - h * h / 4);  // its mean over the ring
    through += speed[i] * area, should += theirs * area;
    EXPECT_NEAR(speed[i], theirs, 0.05 * 9.81 / (4 * nu) * radius * radius) << "ring " << i;
  }
  EXPECT_NEAR(through / should, 1, 0.05);
}

// A rod that spins in a thick liquid takes it along with v = Ω R₁² / (R₂² - R₁²) · (R₂² / r - r), R₂ that of
// the vessel (Taylor 1923 has it as Couette's flow; Landau & Lifshitz, § 18, from memory).
TEST(Liquid, ASpinningRodTakesItAlongAsCouetteSays) {
  const double h = 0.002, inner = 8 * h, outer = 20 * h, nu = 5e-3, spin = 5, middle = 24 * h;
  Mesh vessel = cylinder_mesh(outer, 0.4), filled = cylinder_mesh(outer, 12 * h);
  vessel.place({{}, {middle, 16 * h, middle}}), filled.place({{}, {middle, 16 * h, middle}});
  const LevelSet turning(cylinder_mesh(inner, 0.4), h);
  const auto at = [&](double t) {
    return Pose{Rotation::euler({0, spin * t, 0}), {middle, 16 * h, middle}, 1};
  };
  Tank tank({47, 39, 47}, h, SourceShape::surface(LevelSet(filled, h / 2), filled.bounds(), 1), {},
            {Solid::around(LevelSet(vessel, h)), Solid(turning, at(0), at(0))});
  tank.w.gravity = 0, tank.w.liquids = {{.density = 1000, .viscosity = 1000 * nu}};
  while (tank.s.time < 0.1) {
    const double dt = 0.004;
    tank.w.solids[1] = Solid(turning, at(tank.s.time), at(tank.s.time + dt));
    tank.solver.step(tank.s, tank.w, dt, tank.ledger);
  }
  const Particles& p = tank.s.particles;
  const auto speed = by_ring(p, 24, 13, 19, 20, [&](size_t n) {
    const double x = double(p.place[0][n]) - 24, z = double(p.place[2][n]) - 24;
    return (z * double(p.velocity[0][n]) - x * double(p.velocity[2][n])) / std::hypot(x, z);
  });
  for (size_t i = 8; i < speed.size(); ++i) {
    const double r = (double(i) + 0.5) * h;
    const double theirs = spin * inner * inner / (outer * outer - inner * inner) * (outer * outer / r - r);
    EXPECT_NEAR(speed[i], theirs, 0.05 * spin * inner) << "ring " << i;
  }
}

// What is thick adheres to what is only half as rough as can be, wherever between the cells that ends.
TEST(Liquid, CreamThatIsThrownOnAPlateStaysThere) {
  const double h = 0.0025, top = 8.6 * h;
  const auto slides = [&](double friction) {
    Mesh m = box_mesh({0.4, 0.1, 0.4});
    m.place({{}, {0.1, top - 0.05, 0.05}});
    Solid plate(LevelSet(m, h));
    plate.friction = friction;
    Tank tank({79, 31, 47}, h, box({0.03, top, 0.04}, {0.06, top + 0.01, 0.08}, h), {0.8, -0.4, 0}, {plate});
    tank.w.liquids = {{.density = 1000, .viscosity = 22, .yield = 260, .exponent = 0.6, .tension = 0.04}};
    const double before = measure(tank.s, h).centroid.x;
    tank.run(0.1);
    return measure(tank.s, h).centroid.x - before;
  };
  const double rough = slides(1);
  EXPECT_NEAR(slides(0.5), rough, 0.1 * rough);
  EXPECT_GT(slides(0), 2 * rough) << "of what is waxed it slides";
}

// What has a yield stress holds a slope that what has none runs down from (Bingham).
TEST(Liquid, KetchupStandsWhereSyrupRunsAway) {
  const auto height_after = [](const Matter& matter) {
    const double h = 0.004;
    Tank tank({31, 31, 31}, h, box({0.04, -0.01, 0.04}, {0.08, 0.04, 0.08}, h));
    tank.w.liquids = {matter};
    tank.run(0.4);
    return measure(tank.s, h).centroid.y;
  };
  const double stands = height_after({.density = 1140, .viscosity = 14, .yield = 400, .exponent = 0.28});
  const double runs = height_after({.density = 1140, .viscosity = 0.5});
  EXPECT_GT(stands, 1.5 * runs);
}

// A flat mouth brings its rate, and comes as thin as its speed makes it: area · speed = rate (continuity).
TEST(Liquid, AMouthMeetsItsRate) {
  const double h = 0.005;
  for (const double radius : {0.0015, 0.01}) {
    Tank tank({31, 63, 31}, h, SourceShape::ball({-1, -1, -1}, 0.001));
    tank.w.gravity = 0;
    Source s;
    s.rate = 5e-5, s.velocity = {0, -1, 0};
    const Mouth mouth{{0.08, 0.3, 0.08}, {radius, 0, 0}, {0, 0, radius}, true};
    s.mouth[0] = s.mouth[1] = mouth;
    tank.w.sources = {s};
    tank.run(0.2);
    EXPECT_NEAR(tank.ledger.poured, 5e-5 * 0.2, 0.02 * 5e-5 * 0.2);
    const double speed = std::max(1.0, 5e-5 / mouth.area());
    float fastest = 0, widest = 0;
    for (size_t i = 0; i < tank.s.particles.size(); ++i) {
      if (tank.s.particles.age[i] > 0.01f) continue;
      fastest = std::max(fastest, -tank.s.particles.velocity[1][i]);
      widest = std::max(widest, std::abs(tank.s.particles.place[0][i] - 16));
    }
    EXPECT_NEAR(fastest, speed, 0.1 * speed);
    EXPECT_LT(double(widest) * h, std::sqrt(5e-5 / speed / std::numbers::pi) + 0.6 * h);
  }
}

// Out of a shell alone, at its rate and away from its surface, as thin as half a cell.
TEST(Liquid, AShellPoursOutwardsAtItsRate) {
  const double h = 0.005, radius = 0.03, thick = 0.0025, speed = 0.4, rate = 1e-4;
  Tank tank({31, 31, 31}, h, SourceShape::ball({-1, -1, -1}, 0.001));
  tank.w.gravity = 0, tank.w.liquids[0].tension = 0;
  const Vec3d middle{0.08, 0.08, 0.08};
  Source s;
  s.shape = SourceShape::ball(middle, radius).shell_of(thick), s.rate = rate, s.outwards = speed;
  tank.w.sources = {s};
  tank.run(0.05);
  EXPECT_NEAR(tank.ledger.poured, rate * 0.05, 0.02 * rate * 0.05);
  double off = 0, nearest = 1;
  const Particles& p = tank.s.particles;
  for (size_t n = 0; n < p.size(); ++n) {
    const Vec3d out = Vec3d{p.place[0][n], p.place[1][n], p.place[2][n]} * h - middle;
    nearest = std::min(nearest, length(out));
    off +=
        dot(Vec3d{p.velocity[0][n], p.velocity[1][n], p.velocity[2][n]}, normalized(out)) / double(p.size());
  }
  EXPECT_GT(nearest, radius - thick - 1.5 * h) << "nothing comes from its middle";
  EXPECT_GT(off, 0.5 * speed);
  EXPECT_LT(off, 1.1 * speed);
}

// What is too fine for cells dies in APIC and stays in FLIP: particles that all fly another way.
TEST(Liquid, WhatIsLivelyKeepsWhatCellsCannotShow) {
  const auto energy_left = [](double liveliness) {
    Tank tank({31, 31, 31}, 0.01, SourceShape::ball({0.15, 0.15, 0.15}, 0.06));
    tank.w.gravity = 0, tank.w.liquids[0] = {998, 0, 0, 1, 0}, tank.w.liveliness = {liveliness};
    uint32_t seed = 1;
    for (auto& v : tank.s.particles.velocity)
      for (float& x : v) seed = seed * 1664525u + 1013904223u, x = float(seed >> 8) / float(1 << 23) - 1;
    const double before = measure(tank.s, 0.01).kinetic_energy;
    for (int i = 0; i < 4; ++i) tank.solver.step(tank.s, tank.w, 0.001, tank.ledger);
    return measure(tank.s, 0.01).kinetic_energy / before;
  };
  EXPECT_LT(energy_left(0), 0.2);
  EXPECT_GT(energy_left(1), 0.7);
  EXPECT_LT(energy_left(1), 1.01);
}

// A plate that comes down on water presses it aside and takes none of it away.
TEST(Liquid, APieceThatMovesPressesItAside) {
  const double h = 0.005;
  Tank tank({31, 31, 31}, h, box({-1, -1, -1}, {1, 0.05, 1}, h));
  const double before = tank.ledger.poured;
  const LevelSet plate(box_mesh({0.08, 0.03, 0.08}), h);
  const auto at = [](double t) { return Pose{{}, {0.08, 0.1 - 0.25 * t, 0.08}, 1}; };
  while (tank.s.time < 0.24) {
    const double dt = 0.004;
    tank.w.solids = {Solid(plate, at(tank.s.time), at(tank.s.time + dt))};
    tank.solver.step(tank.s, tank.w, dt, tank.ledger);
  }
  EXPECT_NEAR(tank.ledger.in_shot, before, 0.02 * before);
  const Solid& end = tank.w.solids.front();
  float highest = 0;
  for (size_t i = 0; i < tank.s.particles.size(); ++i) {
    const Particles& p = tank.s.particles;
    const Vec3d place = Vec3d{p.place[0][i], p.place[1][i], p.place[2][i]} * h;
    ASSERT_GT(end.distance(place), -0.2 * h) << "inside of the plate";
    highest = std::max(highest, p.place[1][i]);
  }
  EXPECT_GT(double(highest) * h, 0.055) << "it rises around it";
  // A plate that has come to a stand drags nothing along any more.
  tank.w.solids = {Solid(plate, at(0.24), at(0.24))};
  tank.run(0.6);
  double sum = 0;
  int count = 0;
  for (size_t i = 0; i < tank.s.particles.size(); ++i) {
    const Particles& p = tank.s.particles;
    if (tank.w.solids[0].distance(Vec3d{p.place[0][i], p.place[1][i], p.place[2][i]} * h) > h) continue;
    sum += double(p.velocity[1][i]), ++count;
  }
  ASSERT_GT(count, 50);
  EXPECT_NEAR(sum / count, 0, 0.04) << "it came down with 0.25 m/s";
}

namespace {

/// A box that is half full and moves, seen from itself.
struct MovingBox : Tank {
  static constexpr double half = 0.1, deep = 0.08, h = 0.01;
  explicit MovingBox(const Room& how) : Tank({31, 31, 31}, h, SourceShape::ball({9, 9, 9}, h)) {
    w.room = how, w.room->moves = true;
    w.room->inside = LevelSet(box_mesh({2 * half, 2 * half, 2 * half}), h);
    w.low = {-16, -16, -16};
    w.open[side_top] = false;
    w.solids = {Solid::around(w.room->inside)};
    w.liquids[0].viscosity = 2;  // or it would swing for long
    Source source;
    source.shape = box({-half, -half, -half}, {half, deep - half, half}, h);
    solver.fill(s, w, {source}, ledger);
  }
  Vec3d place(size_t n) const {
    return Vec3d{s.particles.place[0][n], s.particles.place[1][n], s.particles.place[2][n]} * h;
  }
  Vec3d middle() const {
    Vec3d sum;
    for (size_t n = 0; n < s.particles.size(); ++n) sum += place(n);
    return sum / double(s.particles.size());
  }
};

}  // namespace

// In a vessel that is pulled evenly the surface stands across g - a: its slope is a / g (Landau & Lifshitz,
// Fluid Mechanics, § 2, from memory). A box of that slope has its middle of mass moved by slope · width² /
// (12 depth).
TEST(Liquid, LeansInAVesselThatIsPulled) {
  const double slope = 0.3;
  Room how;
  how.acceleration = {slope * 9.81, 0, 0};
  MovingBox box(how);
  box.run(0.8);
  const double wide = 2 * box.half, expected = -slope * wide * wide / (12 * box.deep);
  EXPECT_NEAR(box.middle().x, expected, 0.05 * std::abs(expected));
  EXPECT_NEAR(box.middle().z, 0, 0.02 * std::abs(expected));
  EXPECT_EQ(box.ledger.left, 0);
}

// Newton's bucket: what turns with its vessel stands as a paraboloid, ω² r² / 2g high (the same, § 10).
TEST(Liquid, StandsAsAParaboloidInAVesselThatTurns) {
  Room how;
  how.spin = {0, 8, 0};
  MovingBox box(how);
  box.run(1);
  // The highest particles of columns of three cells.
  const auto top = [&](double x, double z) {
    double highest = -1;
    for (size_t n = 0; n < box.s.particles.size(); ++n) {
      const Vec3d p = box.place(n);
      if (std::abs(p.x - x) < 1.5 * box.h && std::abs(p.z - z) < 1.5 * box.h)
        highest = std::max(highest, p.y);
    }
    return highest;
  };
  const double r = 0.07, rise = 64 * 2 * r * r / (2 * 9.81);
  for (const double x : {-r, r})
    for (const double z : {-r, r}) EXPECT_NEAR(top(x, z) - top(0, 0), rise, 0.5 * box.h) << x << " " << z;
}

// A source under a surface pushes its way in: all that it owes comes, and what is there makes room.
TEST(Liquid, ASourceUnderASurfaceMeetsItsRate) {
  const double h = 0.01, rate = 1e-3;  // m³/s
  Tank tank({15, 23, 15}, h, box({0, 0, 0}, {0.16, 0.08, 0.16}, h));
  const double before = tank.ledger.poured;
  Source source;
  source.shape = SourceShape::ball({0.08, 0.03, 0.08}, 0.02), source.rate = rate;
  tank.w.sources = {source};
  tank.run(0.5);
  EXPECT_NEAR(tank.ledger.poured - before, 0.5 * rate, 0.02 * 0.5 * rate);
  EXPECT_NEAR(tank.ledger.in_shot, tank.ledger.poured, 0.03 * tank.ledger.poured)
      << "its level rises by what came";
}

// What hits with a speed v leaves with e v, e the coefficient of restitution, and comes up by (e v)² / 2 g
// (handbook mechanics): drops do. More of it spreads as it hits.
TEST(Liquid, BouncesOffWhatIsSpringyAndOffNothingElse) {
  const double h = 0.005;
  const auto highest_after = [&](double bounce) {
    const Vec3d low{0, 0, 0}, high{0.24, 0.02, 0.24};
    Mesh floor = box_mesh(high - low);
    floor.place({{}, (low + high) * 0.5});
    Solid solid(LevelSet(floor, h));
    solid.bounce = bounce;
    Tank tank({47, 47, 47}, h, SourceShape::ball({0.12, 0.06, 0.12}, 0.004), {0, -1.5, 0}, {solid});
    double highest = 0;
    for (int i = 0; i < 40; ++i) {
      tank.run(0.005);
      if (i > 6) highest = std::max(highest, measure(tank.s, h).centroid.y);
    }
    return highest;
  };
  const double dead = highest_after(0), springy = highest_after(0.8);
  EXPECT_LT(dead, 0.03) << "it lies where it fell";
  EXPECT_NEAR(springy - 0.02, 1.2 * 1.2 / 2 / 9.81, 0.035);
}

// Galilei: what lets go at once has fallen g t² / 2.
TEST(Liquid, FallsOffACeilingThatDoesNotHoldIt) {
  const double h = 0.005, t = 0.12;
  const auto fallen = [&](double stickiness) {
    const Vec3d low{0.02, 0.16, 0.02}, high{0.22, 0.2, 0.22};
    Mesh ceiling = box_mesh(high - low);
    ceiling.place({{}, (low + high) * 0.5});
    Solid solid(LevelSet(ceiling, h));
    solid.stickiness = stickiness;
    Tank tank({47, 47, 47}, h, box({0.08, 0.13, 0.08}, {0.16, 0.16, 0.16}, h), {}, {solid});
    const double before = measure(tank.s, h).centroid.y;
    tank.run(t);
    return before - measure(tank.s, h).centroid.y;
  };
  EXPECT_NEAR(fallen(0), 9.81 * t * t / 2, 0.012);
  EXPECT_LT(fallen(1), fallen(0) - 0.01) << "suction holds it until air comes in from its sides";
}

// However unevenly it pours, it pours what it says.
TEST(Liquid, PatchesMeetTheRate) {
  const double h = 0.005, rate = 2e-4;
  for (const bool mouth : {true, false}) {
    LiquidWorld w;
    LiquidState s;
    LiquidSolver solver;
    Ledger ledger;
    w.cell_size = h, w.cells = {63, 63, 63}, w.gravity = 0;
    Source source;
    source.shape = box({0.05, 0.15, 0.05}, {0.25, 0.17, 0.25}, h);
    if (mouth) source.mouth[0] = source.mouth[1] = Mouth{{0.15, 0.2, 0.15}, {0.1, 0, 0}, {0, 0, 0.1}, false};
    source.velocity = {0, -0.5, 0}, source.rate = rate;
    source.patchiness = 1, source.patch_size = 0.05, source.patch_seed = 3;
    w.sources = {source};
    const double dt = 0.004;
    double even = 0;
    for (int i = 0; i < 25; ++i) {
      const size_t first = s.particles.size();
      solver.pour(s, w, dt, ledger);
      for (size_t n = first; n < s.particles.size(); ++n) {
        const Vec3d at{s.particles.place[0][n], s.particles.place[1][n], s.particles.place[2][n]};
        even += source.patch(at * h, s.time);
      }
      s.time += dt;
    }
    EXPECT_NEAR(ledger.poured / (rate * dt * 25), 1, 0.02);
    double everywhere = 0;
    for (int i = 0; i < 1000; ++i)
      everywhere +=
          source.patch({0.05 + 0.2 * (i % 32) / 31.0, mouth ? 0.2 : 0.16, 0.05 + 0.2 * (i / 32) / 31.0}, 0);
    EXPECT_GT(even / double(s.particles.size()), 1.06 * everywhere / 1000)
        << "it comes out where patches are";
  }
}

TEST(Liquid, FlowsTheSameAtAnyThreadCount) {
  const auto run = [](int threads) {
    const ThreadLimit limit(threads);
    Tank tank({31, 31, 31}, 0.01, SourceShape::ball({0.15, 0.12, 0.15}, 0.06));
    tank.run(0.15);
    return tank.s.particles.place;
  };
  EXPECT_EQ(run(1), run(2));
}

}  // namespace pour
