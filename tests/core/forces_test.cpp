// Each force and source by itself, against its formula.
#include <gtest/gtest.h>

#include <numbers>

#include "core/gas_world.h"
#include "shape/mesh.h"

using namespace pour;

namespace {

double rms_speed(const Lab& lab) {
  double sum = 0, n = 0;
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i&) {
    for (const Floats* f : {&lab.s.u, &lab.s.v, &lab.s.w}) sum += std::pow(f->block(b)[c], 2);
    ++n;
  });
  return std::sqrt(sum / n);
}

}  // namespace

// Boussinesq: a = g (ΔT / T - ρ / ρ_air), with T = air::temperature K and ρ_air = 1.2 kg/m³ (air at 20 °C and
// 1 bar; VDI-Wärmeatlas, from memory).
TEST(Forces, BuoyancyIsBoussinesqs) {
  for (const double heat_lift : {1.0, -2.0})
    for (const double density_lift : {-1.0, 3.0}) {
      Lab lab(closed_box(15, 15, 15, 0.01));
      lab.w.gravity = 9.81, lab.w.heat_lift = heat_lift, lab.w.density_lift = density_lift;
      each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i&) {
        lab.s.heat.block(b)[c] = 0.1f * float(air::temperature), lab.s.density.block(b)[c] = 0.012f;
      });
      lab.solver.apply_forces(lab.s, lab.w, 0.02);
      const double wanted = 0.02 * 9.81 * (0.1 * heat_lift + 0.01 * density_lift);
      EXPECT_NEAR(value_at(lab.s, lab.s.v, {7, 7, 7}), wanted, 1e-6);
      EXPECT_EQ(value_at(lab.s, lab.s.v, {7, 0, 7}), 0.f) << "not through the floor";
      EXPECT_EQ(value_at(lab.s, lab.s.u, {7, 7, 7}), 0.f);
    }
}

TEST(Forces, WithoutGravityNothingRises) {
  Lab lab(closed_box(15, 15, 15, 0.01));
  lab.w.gravity = 0;
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i&) { lab.s.heat.block(b)[c] = 500; });
  lab.solver.apply_forces(lab.s, lab.w, 0.1);
  EXPECT_EQ(rms_speed(lab), 0);
}

TEST(Forces, TurbulenceBringsGasToItsSpeedInOneTurnover) {
  // speed² / size for the time size / speed; half an eddy's size in cells does not matter.
  for (const double h : {0.005, 0.01}) {
    Lab lab(closed_box(63, 63, 31, h));
    lab.w.turbulences = {{.speed = 0.2, .size = 0.1}};
    lab.fill();
    lab.solver.apply_forces(lab.s, lab.w, 0.1 / 0.2);
    EXPECT_NEAR(rms_speed(lab), 0.2, 0.04) << h;
  }
}

TEST(Forces, TurbulenceStirsWithoutSqueezing) {
  Lab lab(closed_box(63, 63, 31, 0.005));
  lab.w.turbulences = {{.speed = 0.2, .size = 0.16}};
  lab.fill();
  lab.solver.apply_forces(lab.s, lab.w, 0.5);
  // Divergence against the size of single slopes, well inside: curl noise has none but for interpolation.
  double divergence = 0, slope = 0;
  for (int z = 4; z < 27; ++z)
    for (int y = 4; y < 58; ++y)
      for (int x = 4; x < 58; ++x) {
        const auto d = [&](const Floats& f, const Vec3i& step) {
          return double(value_at(lab.s, f, Vec3i{x, y, z} + step)) - value_at(lab.s, f, {x, y, z});
        };
        const double du = d(lab.s.u, {1, 0, 0}), dv = d(lab.s.v, {0, 1, 0}), dw = d(lab.s.w, {0, 0, 1});
        divergence += std::pow(du + dv + dw, 2), slope += du * du + dv * dv + dw * dw;
      }
  EXPECT_LT(std::sqrt(divergence / slope), 0.35);
}

TEST(Forces, TurbulenceTurnsInItsOwnTime) {
  const auto push = [](double time) {
    Lab lab(closed_box(15, 15, 15, 0.01));
    lab.w.turbulences = {{.speed = 0.2, .size = 0.05, .rate = 2}};
    lab.fill();
    lab.s.time = time;
    lab.solver.apply_forces(lab.s, lab.w, 0.1);
    return value_at(lab.s, lab.s.u, {7, 7, 7});
  };
  EXPECT_EQ(push(0.1), push(0.1));
  EXPECT_NE(push(0.1), push(0.2));
  EXPECT_NEAR(push(0), push(1e-4), 1e-3) << "and smoothly";
}

// Fedkiw, Stam & Jensen 2001: the force points across the gradient of |ω|, along N × ω: in a vortex that is
// strongest in its middle it drives the gas round in the vortex's own sense.
TEST(Forces, ConfinementDrivesAVortexInItsOwnSense) {
  for (const double sense : {1.0, -1.0}) {
    Lab lab(closed_box(47, 47, 15, 0.01));
    lab.w.confinements = {{.speed = 0.1, .size = 0.02}};
    lab.fill();
    const double middle = 0.235, core = 0.08;
    const auto swirl = [&](double x, double y) {
      return sense * 2 * std::exp(-(x * x + y * y) / (core * core));
    };
    each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
      const double xf = at.x * 0.01 - middle, yf = at.y * 0.01 - middle, xc = xf + 0.005, yc = yf + 0.005;
      if (at.x) lab.s.u.block(b)[c] = float(-yc * swirl(xf, yc));
      if (at.y) lab.s.v.block(b)[c] = float(xc * swirl(xc, yf));
    });
    const auto circulation = [&] {
      double sum = 0;
      each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
        const double x = (at.x + 0.5) * 0.01 - middle, y = (at.y + 0.5) * 0.01 - middle;
        if (std::hypot(x, y) < core) sum += x * lab.s.v.block(b)[c] - y * lab.s.u.block(b)[c];
      });
      return sum;
    };
    const double before = circulation();
    lab.solver.apply_forces(lab.s, lab.w, 0.02);
    EXPECT_GT((circulation() - before) * sense, 0);
    EXPECT_LT(std::abs(circulation() - before), 0.2 * std::abs(before));
  }
}

TEST(Forces, ConfinementLeavesNoiseBetweenCellsAlone) {
  // The same swirl strength in a wave of eight cells and in one of two: only the first is fed.
  const auto gain = [](int wave) {
    Lab lab(closed_box(47, 47, 15, 0.01));
    lab.w.confinements = {{.speed = 0.1, .size = 0.02}};
    lab.fill();
    each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
      if (at.y)
        lab.s.v.block(b)[c] =
            float(0.1 * std::cos(2 * std::numbers::pi * at.x / wave) * (1 + 0.3 * std::sin(0.4 * at.z)));
    });
    const double before = rms_speed(lab);
    lab.solver.apply_forces(lab.s, lab.w, 0.02);
    return std::abs(rms_speed(lab) - before);
  };
  EXPECT_LT(gain(2), 0.1 * gain(8));
}

TEST(Forces, CleanAirIsMovedBySmokeAlone) {
  Lab lab(closed_box(47, 15, 15, 0.01));
  lab.w.turbulences = {{.speed = 0.2, .size = 0.1}};
  lab.w.confinements = {{.speed = 0.1, .size = 0.02}}, lab.w.density_lift = 0;
  each_cell(lab.s, lab.w,
            [&](int b, int c, const Vec3i& at) { lab.s.density.block(b)[c] = at.x < 16 ? 0.001f : 0; });
  lab.solver.apply_forces(lab.s, lab.w, 0.02);
  EXPECT_NE(value_at(lab.s, lab.s.v, {7, 7, 7}), 0.f);
  EXPECT_EQ(value_at(lab.s, lab.s.v, {30, 7, 7}), 0.f);
}

TEST(Forces, AFlowWithoutVorticityIsNotConfined) {
  Lab lab(closed_box(31, 31, 15, 0.01));
  lab.w.confinements = {{.speed = 0.1, .size = 0.02}};
  lab.fill();
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
    if (at.x) lab.s.u.block(b)[c] = 0.3f;
  });
  lab.solver.apply_forces(lab.s, lab.w, 0.02);
  EXPECT_FLOAT_EQ(value_at(lab.s, lab.s.u, {15, 15, 7}), 0.3f);
  EXPECT_FLOAT_EQ(value_at(lab.s, lab.s.v, {15, 15, 7}), 0.f);
}

TEST(Forces, ViscositySmoothsAShearAsDiffusionDoes) {
  // u = sin(k y) decays as exp(-ν k² t); the discrete rate has 4 sin²(k h / 2) / h² for k².
  constexpr int n = 63;
  const double h = 0.01, viscosity = 0.002, k = 2 * std::numbers::pi / (16 * h), dt = 0.005;
  Lab lab(closed_box(n, n, 15, h));
  lab.w.viscosity = viscosity;
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
    if (at.x) lab.s.u.block(b)[c] = float(std::sin(k * (at.y + 0.5) * h));
  });
  const float before = value_at(lab.s, lab.s.u, {31, 35, 7});
  lab.solver.apply_viscosity(lab.s, lab.w, dt);
  const double rate = viscosity * 4 * std::pow(std::sin(k * h / 2), 2) / (h * h);
  EXPECT_NEAR(value_at(lab.s, lab.s.u, {31, 35, 7}) / before, 1 - rate * dt, 1e-4);
}

TEST(Sources, AddAtTheirRate) {
  Lab lab(closed_box(31, 31, 31, 0.01));
  const double volume = 4.0 / 3 * std::numbers::pi * std::pow(0.08, 3);
  Source s = ball_source({0.155, 0.155, 0.155}, 0.08, 0.05);
  s.palette.colors[0] = {0.2, 0.5, 1};
  lab.w.sources.push_back(s);
  lab.solver.apply_sources(lab.s, lab.w, 0.1, lab.ledger);
  EXPECT_NEAR(lab.ledger.poured, 0.05 * 0.1 * volume, 0.01 * 0.05 * 0.1 * volume);
  EXPECT_NEAR(smoke_mass(lab.s, 0.01), lab.ledger.poured, 1e-6 * lab.ledger.poured);
  EXPECT_NEAR(value_at(lab.s, lab.s.density, {15, 15, 15}), 0.005, 1e-7);
  EXPECT_NEAR(value_at(lab.s, lab.s.red, {15, 15, 15}), 0.001, 1e-7) << "colour goes with the density";
  EXPECT_NEAR(value_at(lab.s, lab.s.blue, {15, 15, 15}), 0.005, 1e-7);
  EXPECT_EQ(value_at(lab.s, lab.s.density, {1, 1, 1}), 0.f);
}

TEST(Sources, SetWhatTheySet) {
  Lab lab(closed_box(31, 31, 31, 0.01));
  Source s = ball_source({0.155, 0.155, 0.155}, 0.08, 0.02);
  s.sets = true;
  lab.w.sources.push_back(s);
  for (int i = 0; i < 4; ++i) lab.solver.apply_sources(lab.s, lab.w, 0.1, lab.ledger);
  EXPECT_NEAR(value_at(lab.s, lab.s.density, {15, 15, 15}), 0.02, 1e-8) << "not more with time";
  lab.w.sources.back().density = 0.005;
  lab.solver.apply_sources(lab.s, lab.w, 0.1, lab.ledger);
  EXPECT_NEAR(value_at(lab.s, lab.s.density, {15, 15, 15}), 0.005, 1e-8) << "and it may take away";
  EXPECT_NEAR(lab.ledger.poured, smoke_mass(lab.s, 0.01), 1e-9) << "which the books know";
  EXPECT_NEAR(value_at(lab.s, lab.s.green, {15, 15, 15}), 0.005, 1e-8);
}

TEST(Sources, TwoSmokesMixTheirColours) {
  Lab lab(closed_box(15, 15, 15, 0.01));
  Source red = ball_source({0.075, 0.075, 0.075}, 0.05, 0.03), blue = red;
  red.palette.colors[0] = {1, 0, 0}, blue.palette.colors[0] = {0, 0, 1}, blue.density = 0.01;
  lab.w.sources = {red, blue};
  lab.solver.apply_sources(lab.s, lab.w, 0.1, lab.ledger);
  const Vec3i middle{7, 7, 7};
  EXPECT_NEAR(value_at(lab.s, lab.s.red, middle) / value_at(lab.s, lab.s.density, middle), 0.75, 1e-5);
  EXPECT_NEAR(value_at(lab.s, lab.s.blue, middle) / value_at(lab.s, lab.s.density, middle), 0.25, 1e-5);
}

TEST(Sources, WarmWhatIsInThemWithinASecond) {
  Lab lab(closed_box(15, 15, 15, 0.01));
  Source s = ball_source({0.075, 0.075, 0.075}, 0.05, 0);
  s.heat = 60;
  lab.w.sources = {s};
  for (int i = 0; i < 20; ++i) lab.solver.apply_sources(lab.s, lab.w, 0.05, lab.ledger);
  EXPECT_NEAR(value_at(lab.s, lab.s.heat, {7, 7, 7}), 60, 0.1);
  lab.w.sources[0].heat = -20;
  for (int i = 0; i < 20; ++i) lab.solver.apply_sources(lab.s, lab.w, 0.05, lab.ledger);
  EXPECT_NEAR(value_at(lab.s, lab.s.heat, {7, 7, 7}), -20, 0.1) << "cold smoke too";
}

TEST(Sources, BlowAtTheirSpeed) {
  Lab lab(closed_box(15, 15, 15, 0.01));
  Source s = ball_source({0.075, 0.075, 0.075}, 0.05, 0);
  s.blows = true, s.velocity = {0.3, -0.2, 0.1};
  lab.w.sources = {s};
  lab.solver.apply_sources(lab.s, lab.w, 0.01, lab.ledger);
  EXPECT_NEAR(value_at(lab.s, lab.s.u, {7, 7, 7}), 0.3, 1e-6);
  EXPECT_NEAR(value_at(lab.s, lab.s.v, {7, 7, 7}), -0.2, 1e-6);
  EXPECT_NEAR(value_at(lab.s, lab.s.w, {7, 7, 7}), 0.1, 1e-6);
  EXPECT_EQ(value_at(lab.s, lab.s.u, {1, 1, 1}), 0.f);
}

// The divergence theorem: what a source pushes out is what flows through any closed surface around it.
TEST(Sources, WhatTheyPushOutFlowsAway) {
  GasWorld w = closed_box(31, 31, 31, 0.01);
  for (bool& o : w.open) o = true;
  Source s = ball_source({0.155, 0.155, 0.155}, 0.04, 0.01);
  s.divergence = 6;
  w.sources.push_back(s);
  w.tolerance = 1e-7;
  Lab lab(w);
  lab.solver.apply_sources(lab.s, lab.w, 0.01, lab.ledger);
  lab.solver.project(lab.s, lab.w);
  double flow = 0;  // m³/s through the cube of cells 7 to 23
  for (int j = 7; j < 24; ++j)
    for (int i = 7; i < 24; ++i)
      flow += double(value_at(lab.s, lab.s.u, {24, i, j})) - value_at(lab.s, lab.s.u, {7, i, j}) +
              value_at(lab.s, lab.s.v, {i, 24, j}) - value_at(lab.s, lab.s.v, {i, 7, j}) +
              value_at(lab.s, lab.s.w, {i, j, 24}) - value_at(lab.s, lab.s.w, {i, j, 7});
  const double wanted = 6 * 4.0 / 3 * std::numbers::pi * std::pow(0.04, 3);
  EXPECT_NEAR(flow * 1e-4, wanted, 0.02 * wanted);
}

TEST(Sources, ClosedSpacesAbsorbWhatIsPushedIn) {
  GasWorld w = closed_box(23, 23, 23, 0.01);
  Source s = ball_source({0.115, 0.115, 0.115}, 0.04, 0.01);
  s.divergence = 6;
  w.sources.push_back(s);
  Lab lab(w);
  lab.solver.apply_sources(lab.s, lab.w, 0.01, lab.ledger);
  const GasReport r = lab.solver.project(lab.s, lab.w);
  EXPECT_LT(r.max_divergence, 1e-2) << "the system has an answer";
  EXPECT_GT(rms_speed(lab), 1e-3) << "and the source still pushes";
  for (int i = 0; i < 23; ++i)
    EXPECT_EQ(value_at(lab.s, lab.s.u, {0, i, 5}), 0.f) << "nothing goes through walls";
}

TEST(Steps, AreAsLongAsTheFastestGasAllows) {
  Lab lab(closed_box(15, 15, 15, 0.01));
  EXPECT_DOUBLE_EQ(longest_step(lab.s, lab.w, 2, 0.04), 0.04) << "at rest";
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
    if (at.x == 7) lab.s.u.block(b)[c] = -2;
  });
  EXPECT_DOUBLE_EQ(longest_step(lab.s, lab.w, 2, 0.04), 2 * 0.01 / 2);
  lab.w.viscosity = 0.01;
  EXPECT_NEAR(longest_step(lab.s, lab.w, 2, 0.04), 1e-4 / 0.06, 1e-9) << "explicit diffusion's own limit";
}

TEST(Steps, HeatHasAHalfLifeOfItsOwn) {
  Lab lab(closed_box(15, 15, 15, 0.01));
  lab.w.heat_half_life = 0.2;
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i&) {
    lab.s.heat.block(b)[c] = 80, lab.s.density.block(b)[c] = 0.01f;
  });
  for (int i = 0; i < 20; ++i) lab.solver.step(lab.s, lab.w, 0.02, lab.ledger);
  EXPECT_NEAR(value_at(lab.s, lab.s.heat, {7, 7, 7}), 20, 0.05) << "two half-lives";
  EXPECT_NEAR(value_at(lab.s, lab.s.density, {7, 7, 7}), 0.01, 1e-6);
  EXPECT_EQ(lab.ledger.decayed, 0);
}

TEST(Measure, EnergySpeedAndMiddleAreThoseOfTheFields) {
  Lab lab(closed_box(15, 15, 15, 0.02));
  each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i& at) {
    lab.s.u.block(b)[c] = 3, lab.s.v.block(b)[c] = 4;
    lab.s.density.block(b)[c] = at.x == 2 && at.y == 3 && at.z == 4   ? 1.f
                                : at.x == 2 && at.y == 3 && at.z == 8 ? 3.f
                                                                      : 0.f;
  });
  const GasMeasure m = measure(lab.s, 0.02);
  EXPECT_DOUBLE_EQ(m.cells, 15 * 15 * 15);
  EXPECT_NEAR(m.max_speed, 5, 1e-6);
  EXPECT_NEAR(m.kinetic_energy, 0.5 * 1.2 * 25 * std::pow(0.3, 3), 1e-6);
  EXPECT_NEAR(m.centroid.x, 0.05, 1e-9);
  EXPECT_NEAR(m.centroid.y, 0.07, 1e-9);
  EXPECT_NEAR(m.centroid.z, (4.5 + 3 * 8.5) / 4 * 0.02, 1e-9);
  EXPECT_NEAR(smoke_mass(lab.s, 0.02), 4 * 8e-6, 1e-12);
}
