// What cells can't carry is taken out, and nothing else is.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "core/gas_world.h"
#include "gas/calm.h"

using namespace pour;

namespace {

struct CalmField : Lab {
  std::vector<GasSolver::Surroundings> surroundings;
  Floats from, lead, to;
  CalmField() : Lab(closed_box(47, 47, 47, 0.01)) {
    surroundings.assign(size_t(s.grid.size()), GasSolver::Surroundings::solid);
    for (Floats* f : {&from, &lead, &to}) f->resize(s.grid.size());
  }
  Calming calming() const { return {s.grid, surroundings, s.geometry.volume, full_volume, 1.f / 16}; }
  template <class F>
  void set(Floats& field, const F& f) {
    each_cell(s, w, [&](int b, int c, const Vec3i& at) { field.block(b)[c] = float(f(at)); });
  }
  double sum(const Floats& field) {
    double all = 0;
    each_cell(s, w, [&](int b, int c, const Vec3i&) { all += double(field.block(b)[c]); });
    return all;
  }
};

/// How much is left of a wave of so many cells along an axis.
double left_of_wave(double cells, int axis) {
  CalmField f;
  const auto wave = [&](const Vec3i& at) { return std::cos(2 * std::numbers::pi * at[axis] / cells); };
  f.set(f.from, wave);
  f.calming().calm(f.from, f.to);
  Vec3i at{20, 20, 20};
  at[axis] = 24;  // a crest of all of them
  return double(value_at(f.s, f.to, at)) / wave(at);
}

/// Power across the flow, of waves of two cells against those of four, of a density in columns of 16 cells.
double power_of_streaks(const GasState& s, const GasWorld& w) {
  constexpr int n = 16;
  double power[2] = {};
  for (int z = 0; z < w.cells.z; ++z)
    for (int y = 8; y < w.cells.y - 8; ++y)
      for (int x = 0; x + n <= w.cells.x; x += 8)
        for (const int cells : {2, 4}) {
          double re = 0, im = 0;
          for (int i = 0; i < n; ++i) {
            const double taper = 0.5 - 0.5 * std::cos(2 * std::numbers::pi * (i + 0.5) / n);
            const double v = taper * double(value_at(s, s.density, {x + i, y, z}));
            re += v * std::cos(2 * std::numbers::pi * i / cells),
                im += v * std::sin(2 * std::numbers::pi * i / cells);
          }
          power[cells == 4] += re * re + im * im;
        }
  return power[0] / power[1];
}

}  // namespace

// The fourth difference of a wave of n cells is 16 sin⁴(π / n) times the wave.
TEST(Calm, TakesWavesThatCellsCantCarry) {
  for (int axis = 0; axis < 3; ++axis) {
    EXPECT_NEAR(left_of_wave(2, axis), 0.75, 1e-5);
    EXPECT_NEAR(left_of_wave(4, axis), 1 - 4.0 / 16 * std::pow(std::sin(std::numbers::pi / 4), 4), 1e-5);
    EXPECT_GT(left_of_wave(12, axis), 0.998);
  }
}

TEST(Calm, LeavesStepsAndRampsAlone) {
  CalmField f;
  f.set(f.from, [](const Vec3i& at) { return (at.x > 20 ? 3 : 0) + at.y; });
  f.calming().calm(f.from, f.to);
  each_cell(f.s, f.w, [&](int b, int c, const Vec3i&) { ASSERT_EQ(f.to.block(b)[c], f.from.block(b)[c]); });
}

TEST(Calm, KeepsTheSumTheRangeAndSharesOfAnything) {
  CalmField f;
  const auto noise = [](const Vec3i& at) { return (at.x * 7 + at.y * 5 + at.z * 3) * 31 % 11; };
  f.set(f.lead, noise);
  f.set(f.from, [&](const Vec3i& at) { return noise(at) * (at.x < 24 ? 0.25 : 0.75); });
  Floats lead(f.s.grid.size());
  f.calming().calm(f.lead, lead);
  f.calming().calm(f.from, f.lead, f.to);
  EXPECT_NEAR(f.sum(lead), f.sum(f.lead), 1e-6 * f.sum(f.lead));
  EXPECT_NEAR(f.sum(f.to), f.sum(f.from), 1e-6 * f.sum(f.from));
  bool changed = false;
  each_cell(f.s, f.w, [&](int b, int c, const Vec3i& at) {
    const float all = lead.block(b)[c], part = f.to.block(b)[c];
    ASSERT_GE(all, 0.f);
    ASSERT_LE(all, 10.f);
    ASSERT_GE(part, 0.25f * all - 1e-5f);
    ASSERT_LE(part, (at.x < 22 ? 0.25f : 0.75f) * all + 1e-5f);
    changed = changed || std::abs(all - f.lead.block(b)[c]) > 0.1f;
  });
  EXPECT_TRUE(changed);
}

// A scalar in turbulence falls by the power of -5/3 of the wave number (Obukhov 1949, Corrsin 1951), so by
// 0.31 from waves of four cells to those of two. What cells don't carry has to fall faster; streaks don't.
TEST(Calm, FreeSmokeHasNoStreaksAlongItsWay) {
  GasWorld w = closed_box(47, 79, 47, 0.008);
  w.gravity = 9.81, w.turbulences = {{.speed = 0.15, .size = 0.15, .rate = 1}};
  Source source = ball_source({0.19, 0.06, 0.19}, 0.04, 0.015);
  source.heat = 25;
  w.sources.push_back(source);
  Lab lab(w);
  while (lab.s.time < 2.5) lab.solver.step(lab.s, w, longest_step(lab.s, w, 2.5, 1 / 24.0), lab.ledger);
  EXPECT_LT(power_of_streaks(lab.s, w), 0.2);
}
