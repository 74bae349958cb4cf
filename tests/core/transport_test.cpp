// Transport: exact where it can be, of second order where it is smooth, and never beyond what was there.
#include <gtest/gtest.h>

#include <numbers>

#include "core/gas_world.h"
#include "gas/tile.h"
#include "shape/mesh.h"

using namespace pour;

namespace {

/// A slab of gas that moves along x at one speed, and a field in it.
struct Draught : Lab {
  Draught(int n, double h, float speed) : Lab(closed_box(n, 15, 15, h)) {
    each_cell(s, w, [&](int b, int c, const Vec3i&) { s.u.block(b)[c] = speed; });
  }
};

double bump(double x) {  // smooth, of width 1
  return std::abs(x) < 0.5 ? std::pow(std::cos(std::numbers::pi * x), 4) : 0;
}

/// Mean error of a bump carried by a quarter of the box.
double bump_error(int n) {
  const double h = 1.0 / n;
  Draught lab(n - 1, h, 1);
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
    lab.s.density.block(b)[c] = float(bump(((at.x + 0.5) * h - 0.35) / 0.4));
  });
  const int steps = n / 8;  // 1.6 cells each, at any n
  const double way = 0.2;
  for (int i = 0; i < steps; ++i) lab.solver.advect_field(lab.s, lab.s.density, way / steps, h);
  double error = 0;
  for (int x = 0; x < n - 1; ++x)
    error +=
        std::abs(value_at(lab.s, lab.s.density, {x, 7, 7}) - bump(((x + 0.5) * h - 0.35 - way) / 0.4)) * h;
  return error;
}

}  // namespace

TEST(Transport, WholeCellsAreCarriedExactly) {
  Draught lab(63, 0.01, 1);
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
    lab.s.density.block(b)[c] = float((at.x * 7 + at.y * 3 + at.z) % 11);
  });
  lab.solver.advect_field(lab.s, lab.s.density, 0.03, 0.01);  // three cells
  for (int z = 2; z < 13; ++z)
    for (int y = 2; y < 13; ++y)
      for (int x = 12; x < 55; ++x)
        ASSERT_NEAR(value_at(lab.s, lab.s.density, {x, y, z}), float(((x - 3) * 7 + y * 3 + z) % 11), 2e-4);
}

// Only rows near smoke are computed: a lone cell of it must get through, whatever block borders it crosses.
TEST(Transport, ALoneCellOfSmokeGetsAcrossBlocks) {
  for (const Vec3i move :
       {Vec3i{3, 0, 0}, {-3, 0, 0}, {0, 3, 0}, {0, -3, 0}, {0, 0, 3}, {0, 0, -3}, {2, -3, 3}, {-3, 2, -2}})
    for (const Vec3i from : {Vec3i{15, 15, 15}, {16, 16, 16}, {17, 14, 16}}) {
      Lab lab(closed_box(31, 31, 31, 0.01));
      each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
        lab.s.u.block(b)[c] = float(move.x), lab.s.v.block(b)[c] = float(move.y);
        lab.s.w.block(b)[c] = float(move.z);
        lab.s.density.block(b)[c] = at == from;
      });
      lab.solver.advect_field(lab.s, lab.s.density, 0.01, 0.01);
      EXPECT_NEAR(value_at(lab.s, lab.s.density, from + move), 1, 1e-5)
          << move.x << " " << move.y << " " << move.z << " from " << from.x;
      double all = 0;
      each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i&) { all += double(lab.s.density.block(b)[c]); });
      EXPECT_NEAR(all, 1, 1e-4);
    }
}

// What is left of smoke far from where it is would be carried along for ever.
TEST(Transport, TracesVanishAndTheirMassIsKept) {
  GasWorld w = closed_box(63, 63, 63, 0.01);
  w.gravity = 0, w.turbulences = {{.speed = 0.4, .size = 0.3, .rate = 1}};
  Source source = ball_source({0.3, 0.3, 0.3}, 0.1, 0);
  source.sets = true, source.density = 0.02;
  w.sources = {source};
  GasState s;
  GasSolver solver;
  Ledger ledger;
  for (int i = 0; i < 20; ++i) solver.step(s, w, 0.02, ledger);
  float densest = 0, thinnest = 1;
  each_cell(s, w, [&](int b, int c, const Vec3i&) {
    const float d = s.density.block(b)[c];
    densest = std::max(densest, d);
    if (d > 0) thinnest = std::min(thinnest, d);
  });
  EXPECT_GT(thinnest, 1e-7f * densest);
  EXPECT_LT(std::abs(ledger.numeric), 1e-5 * ledger.poured);
  EXPECT_LT(std::abs(ledger.gap()), 1e-6 * ledger.poured);
}

// MacCormack's scheme (Selle et al. 2008) is of second order: half the cell, a quarter of the error; the
// clamp costs something at the top of the bump.
TEST(Transport, IsOfSecondOrder) {
  const double coarse = bump_error(32), fine = bump_error(64), finest = bump_error(128);
  EXPECT_GT(std::log2(coarse / fine), 1.5);
  EXPECT_GT(std::log2(fine / finest), 1.6);
  EXPECT_LT(finest, 2e-3);
}

TEST(Transport, MakesNoNewExtremes) {
  Draught lab(63, 0.01, 0.7f);
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
    lab.s.density.block(b)[c] = at.x > 10 && at.x < 25 ? 1.f : 0.f;
  });
  for (int i = 0; i < 10; ++i) lab.solver.advect_field(lab.s, lab.s.density, 0.013, 0.01);
  float low = 1, high = 0;
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i&) {
    low = std::min(low, lab.s.density.block(b)[c]), high = std::max(high, lab.s.density.block(b)[c]);
  });
  EXPECT_GE(low, 0.f);
  EXPECT_LE(high, 1.f);
}

// Colour travels as density times colour: smoke of one colour stays of that colour, however ragged it is.
TEST(Transport, SmokeOfOneColourKeepsIt) {
  constexpr int n = 47;
  Lab lab(closed_box(n, n, 15, 1.0 / n));
  uint32_t seed = 1;
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
    const double x = (at.x + 0.5) / n - 0.5, y = (at.y + 0.5) / n - 0.5;
    lab.s.u.block(b)[c] = float(-y), lab.s.v.block(b)[c] = float(x);
    seed = seed * 1664525u + 1013904223u;
    const float d = x * x + y * y < 0.1 && seed >> 30 ? float(seed >> 8 & 0xff) / 255 : 0.f;
    lab.s.density.block(b)[c] = lab.s.red.block(b)[c] = d;
    lab.s.green.block(b)[c] = 0.3f * d;
  });
  Ledger ledger;
  for (int i = 0; i < 12; ++i) lab.solver.advect(lab.s, lab.w, 0.09, ledger);
  double off = 0;
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i&) {
    const float d = lab.s.density.block(b)[c];
    off = std::max(off, double(std::abs(lab.s.red.block(b)[c] - d)));
    off = std::max(off, double(std::abs(lab.s.green.block(b)[c] - 0.3f * d)));
  });
  EXPECT_LT(off, 1e-5);
}

TEST(Transport, ARigidTurnComesBackToWhereItBegan) {
  constexpr int n = 63;
  const double h = 1.0 / 64;
  Lab lab(closed_box(n, n, 15, h));
  const auto blob = [](double x, double y) { return bump(std::hypot(x - 0.5, y - 0.7) / 0.55); };
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
    lab.s.u.block(b)[c] = float(-((at.y + 0.5) * h - 0.5));
    lab.s.v.block(b)[c] = float((at.x + 0.5) * h - 0.5);
    lab.s.density.block(b)[c] = float(blob((at.x + 0.5) * h, (at.y + 0.5) * h));
  });
  constexpr int steps = 120;
  for (int i = 0; i < steps; ++i)
    lab.solver.advect_field(lab.s, lab.s.density, 2 * std::numbers::pi / steps, h);
  double worst = 0;
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
    if (at.z == 7)
      worst = std::max(worst, std::abs(lab.s.density.block(b)[c] - blob((at.x + 0.5) * h, (at.y + 0.5) * h)));
  });
  EXPECT_LT(worst, 0.12);
}

TEST(Transport, NothingGetsThroughAThinWall) {
  // Two letters' walls, one cell apart, and wind against them.
  GasWorld w = closed_box(31, 15, 15, 0.01);
  Mesh wall = box_mesh({0.021, 0.4, 0.4});
  wall.place({{}, {0.16, 0.07, 0.07}});
  w.solids.emplace_back(LevelSet(wall, 0.01));
  Lab lab(w);
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
    lab.s.u.block(b)[c] = lab.s.geometry.fx.block(b)[c] ? 0.8f : 0.f;
    if (at.x < 14) lab.s.density.block(b)[c] = 1;
  });
  for (int i = 0; i < 20; ++i) {
    lab.solver.project(lab.s, lab.w);
    lab.solver.advect(lab.s, lab.w, 0.03, lab.ledger);
  }
  for (int x = 18; x < 31; ++x) EXPECT_EQ(value_at(lab.s, lab.s.density, {x, 7, 7}), 0.f) << x;
}

TEST(Transport, StillAirComesInThroughOpenSides) {
  // Gas that is drawn out at the right draws air in at the left: it brings neither smoke nor speed with it.
  GasWorld w = closed_box(31, 15, 15, 0.01);
  w.open[side_left] = w.open[side_right] = true;
  Lab lab(w);
  for (int b = first_block; b < lab.s.grid.size(); ++b)
    for (int c = 0; c < block_cells; ++c) {
      lab.s.u.block(b)[c] = lab.s.geometry.fx.block(b)[c] ? 1.f : 0;
      lab.s.v.block(b)[c] = lab.s.geometry.fy.block(b)[c] ? 0.2f : 0;
      lab.s.density.block(b)[c] = cell_at(lab.s, b, c).x < 31;
    }
  lab.solver.advect(lab.s, lab.w, 0.05, lab.ledger);
  EXPECT_NEAR(value_at(lab.s, lab.s.density, {2, 7, 7}), 0, 1e-6);
  EXPECT_NEAR(value_at(lab.s, lab.s.v, {2, 7, 7}), 0, 1e-6);
  EXPECT_NEAR(value_at(lab.s, lab.s.density, {12, 7, 7}), 1, 0.05);
  EXPECT_GT(lab.ledger.left, 0) << "and what was drawn out is in the books";
}

TEST(Region, GrowsWithSmokeAndLetsGoOfWhatIsEmpty) {
  GasWorld w;
  w.cell_size = 0.01, w.cells = {127, 127, 127};
  w.gravity = 0;
  w.sources = {ball_source({0.6, 0.6, 0.6}, 0.04, 0.1)};
  GasState s;
  GasSolver solver;
  Ledger ledger;
  solver.step(s, w, 0.01, ledger);
  const int at_first = s.grid.blocks();
  EXPECT_GE(at_first, 8);
  w.sources[0] = ball_source({0.9, 0.3, 0.6}, 0.04, 0.1);
  for (int i = 0; i < 2; ++i) solver.step(s, w, 0.01, ledger);
  EXPECT_GT(s.grid.blocks(), at_first) << "both places";
  w.sources.clear();
  w.density_half_life = 1e-3, w.heat_half_life = 1e-3;
  for (int i = 0; i < 6; ++i) solver.step(s, w, 0.02, ledger);
  EXPECT_NEAR(ledger.in_shot, 0, 1e-9);
  EXPECT_LT(std::abs(ledger.gap()), 1e-6 * ledger.poured);
}

TEST(Region, HoldsWhateverSmokeMayReachInAStep) {
  // Wherever there is smoke worth following, the cells that it may cross in the step are there.
  GasWorld w;
  w.cell_size = 0.01, w.cells = {127, 63, 63};
  Source source = ball_source({0.2, 0.3, 0.3}, 0.05, 0.1);
  source.blows = true, source.velocity = {1.5, 0.2, 0};
  w.sources = {source};
  GasState s;
  GasSolver solver;
  Ledger ledger;
  for (int i = 0; i < 25; ++i) {
    const double dt = longest_step(s, w, 2.5, 0.02);
    solver.update_region(s, w, dt, ledger);
    float densest = 0;
    for (int b = first_block; b < s.grid.size(); ++b)
      for (int c = 0; c < block_cells; ++c) densest = std::max(densest, s.density.block(b)[c]);
    for (int b = first_block; b < s.grid.size(); ++b)
      for (int c = 0; c < block_cells; ++c) {
        if (s.density.block(b)[c] <= 0.01f * densest) continue;
        const Vec3i at = cell_at(s, b, c);
        const Vec3i to{std::clamp(at.x + int(std::copysign(3.0, s.u.block(b)[c])), 0, w.cells.x - 1), at.y,
                       at.z};
        ASSERT_GE(s.grid.find({0, {to.x >> 3, to.y >> 3, to.z >> 3}}), first_block) << "step " << i;
      }
    solver.step(s, w, dt, ledger);
  }
  EXPECT_GT(measure(s, w.cell_size).centroid.x, 0.25) << "it was blown along";
  EXPECT_LT(std::abs(ledger.numeric), 1e-3 * ledger.poured) << "no smoke is cut off";
}

TEST(Region, DoesNotChangeWithEveryStep) {
  GasWorld w;
  w.cell_size = 0.01, w.cells = {95, 95, 95};
  Source source = ball_source({0.48, 0.3, 0.48}, 0.08, 0.02);
  source.heat = 20;
  w.sources = {source};
  GasState s;
  GasSolver solver;
  Ledger ledger;
  int grids = 0;
  uint64_t id = 0;
  for (int i = 0; i < 80; ++i) {
    solver.step(s, w, 0.01, ledger);
    grids += s.geometry_id != id, id = s.geometry_id;
  }
  EXPECT_GT(grids, 1) << "the smoke spreads";
  EXPECT_LT(grids, 20);
}

TEST(Tile, SmoothsAsRepeatedAveragesWould) {
  // A field of one row of blocks' worth around the middle one, smoothed by ¼, ½, ¼ along each axis, three
  // times.
  std::vector<BlockKey> keys;
  for (int k = 0; k < 27; ++k) keys.push_back({0, {k % 3, k / 3 % 3, k / 9}});
  const BlockGrid g(keys, [](const BlockKey&) { return outside_open; });
  Floats field(g.size());
  constexpr int n = 24, passes = 3;
  std::vector<double> plain(n * n * n);
  const auto at = [](int x, int y, int z) { return size_t((z * n + y) * n + x); };
  for (int b = first_block; b < g.size(); ++b)
    for (int c = 0; c < block_cells; ++c) {
      const Vec3i p = g.key(b).at * 8 + Vec3i{c & 7, c >> 3 & 7, c >> 6};
      const float v = float((p.x * 31 + p.y * 17 + p.z * 7) % 23) - 11;
      field.block(b)[c] = v, plain[at(p.x, p.y, p.z)] = v;
    }
  for (int pass = 0; pass < passes; ++pass)
    for (int axis = 0; axis < 3; ++axis) {
      const std::vector<double> from = plain;
      const int step = axis == 0 ? 1 : axis == 1 ? n : n * n;
      for (int z = 1; z < n - 1; ++z)
        for (int y = 1; y < n - 1; ++y)
          for (int x = 1; x < n - 1; ++x) {
            const size_t i = at(x, y, z);
            plain[i] = 0.25 * from[i - size_t(step)] + 0.5 * from[i] + 0.25 * from[i + size_t(step)];
          }
    }
  const int middle = g.find({0, {1, 1, 1}});
  Tile tile;
  tile.fill(field, g.around(middle), passes);
  alignas(32) float out[block_cells];
  tile.smooth(passes, out);
  for (int c = 0; c < block_cells; ++c)
    ASSERT_NEAR(out[c], plain[at(8 + (c & 7), 8 + (c >> 3 & 7), 8 + (c >> 6))], 1e-4) << c;
}

TEST(Region, AMovedGridGivesTheSameFlow) {
  // Blocks come and go while smoke rises, and the divergence stays as small as the solver is asked for.
  GasWorld w;
  w.cell_size = 0.01, w.cells = {63, 95, 63};
  Source source = ball_source({0.3, 0.1, 0.3}, 0.05, 0.05);
  source.heat = 120;
  w.sources = {source};
  w.turbulences = {{.speed = 0.3, .size = 0.08}};
  GasState s;
  GasSolver solver;
  Ledger ledger;
  int grids = 0, blocks = 0;
  for (int i = 0; i < 60; ++i) {
    const GasReport r = solver.step(s, w, 0.015, ledger);
    grids += s.grid.blocks() != blocks, blocks = s.grid.blocks();
    ASSERT_LT(r.max_divergence, 0.05) << "step " << i << ", against about 1 m/s over 1 cm, 100 1/s";
  }
  EXPECT_GT(grids, 5) << "otherwise this tests nothing";
}

TEST(Region, CheckpointsGetTheirGeometryBack) {
  GasWorld w;
  w.cell_size = 0.01, w.cells = {31, 31, 31};
  w.solids.emplace_back(LevelSet(ball_mesh(0.05), 0.01));
  w.sources = {ball_source({0.15, 0.15, 0.15}, 0.05, 0.05)};
  Lab lab(w);
  for (int i = 0; i < 3; ++i) lab.solver.step(lab.s, lab.w, 0.01, lab.ledger);
  GasState bare = lab.s;
  bare.geometry = {};
  GasSolver other;
  other.restore(bare, w);
  const auto same = [](const Bytes& a, const Bytes& b) {
    return a.size() == b.size() && std::equal(a.data() + first_block * block_cells, a.data() + a.count(),
                                              b.data() + first_block * block_cells);
  };
  EXPECT_TRUE(same(bare.geometry.fx, lab.s.geometry.fx));
  EXPECT_TRUE(same(bare.geometry.fy, lab.s.geometry.fy));
  EXPECT_TRUE(same(bare.geometry.fz, lab.s.geometry.fz));
  EXPECT_TRUE(same(bare.geometry.volume, lab.s.geometry.volume));
}

// The open part of a cut cell's faces and volume, against the ball's own volume.
TEST(Region, VolumesOfCutCellsAddUpToTheSpaceAroundABall) {
  GasWorld w = closed_box(31, 31, 31, 0.01);
  Mesh ball = ball_mesh(0.083);
  ball.place({{}, {0.151, 0.157, 0.149}});
  w.solids.emplace_back(LevelSet(ball, 0.01));
  Lab lab(w);
  double volume = 0;
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i&) {
    volume += lab.s.geometry.volume.block(b)[c] / double(full_volume) * 1e-6;
  });
  const double wanted = std::pow(0.31, 3) - 4.0 / 3 * std::numbers::pi * std::pow(0.083, 3);
  EXPECT_NEAR(volume, wanted, 0.003 * wanted);
  // The shadow of the ball on each middle plane is a disc.
  double area = 0;
  for (int y = 0; y < 31; ++y)
    for (int z = 0; z < 31; ++z) area += (1 - value_at(lab.s, lab.s.geometry.fx, {15, y, z}) / 255.0) * 1e-4;
  const double r2 = 0.083 * 0.083 - std::pow(0.15 - 0.151, 2);
  EXPECT_NEAR(area, std::numbers::pi * r2, 0.01 * std::numbers::pi * r2);
}
