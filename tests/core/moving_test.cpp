// Solids that move through gas and rooms that move with it, against closed formulas.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "core/gas_world.h"
#include "gas/gas.h"
#include "shape/shape.h"
#include "shape/turned_mesh.h"

namespace pour {
namespace {

Solid moving(const Mesh& mesh, double h, const Pose& from, const Pose& to) {
  return Solid(LevelSet(mesh, h), from, to);
}

/// Gas through the plane at a lattice index along x, m³/s.
double flux(const GasState& s, const GasWorld& w, int index) {
  double sum = 0;
  each_cell(s, w, [&](int b, int c, const Vec3i& at) {
    if (at.x == index) sum += double(s.u.block(b)[c]) * s.geometry.fx.block(b)[c] / 255;
  });
  return sum * w.cell_size * w.cell_size;
}

}  // namespace

// A piston in a channel that is open at both ends: what goes out in front and what comes in behind is area
// times speed (continuity of an incompressible fluid).
TEST(Moving, APistonMovesItsVolume) {
  const double h = 0.01, speed = 0.3, dt = 0.01;
  GasWorld w = closed_box(63, 15, 15, h);
  w.open[side_left] = w.open[side_right] = true;
  const Mesh piston = box_mesh({0.1, 0.4, 0.4});
  GasState s;
  GasSolver solver;
  Ledger ledger;
  double x = 0.2;
  for (int i = 0; i < 12; ++i, x += speed * dt) {
    w.solids = {moving(piston, h, {{}, {x, 0.07, 0.07}}, {{}, {x + speed * dt, 0.07, 0.07}})};
    const GasReport r = solver.step(s, w, dt, ledger);
    EXPECT_LT(r.squeezed, 1e-9) << "both sides are open";
  }
  const double area = 0.15 * 0.15;
  EXPECT_NEAR(flux(s, w, 50) / (area * speed), 1, 0.01) << "out in front";
  EXPECT_NEAR(flux(s, w, 5) / (area * speed), 1, 0.01) << "in behind";
}

TEST(Moving, APistonThatClosesAPocketIsToldOf) {
  const double h = 0.01, speed = 0.2, dt = 0.01;
  GasWorld w = closed_box(63, 15, 15, h);
  w.open[side_left] = true;
  const Mesh piston = box_mesh({0.1, 0.4, 0.4});
  w.solids = {moving(piston, h, {{}, {0.3, 0.07, 0.07}}, {{}, {0.3 + speed * dt, 0.07, 0.07}})};
  GasState s;
  GasSolver solver;
  Ledger ledger;
  const GasReport r = solver.step(s, w, dt, ledger);
  EXPECT_NEAR(r.squeezed / (0.15 * 0.15 * speed), 1, 0.02);
}

// A solid of revolution that turns about its axis moves nothing (it has no normal velocity): ω × r lies in
// its surface. An elliptic one does.
TEST(Moving, ARoundCylinderTurnsWithoutMovingTheGas) {
  const double h = 0.01, dt = 0.01, omega = 4;
  const auto turn = [&](const Vec3d& size, bool round) {
    GasWorld w = closed_box(47, 47, 15, h);
    Mesh m;
    if (round) {
      m = cylinder_mesh(0.1, 0.4);
      m.place({Rotation::euler({std::numbers::pi / 2, 0, 0}), {}});
    } else {
      m = box_mesh(size);
    }
    const Pose from{{}, {0.235, 0.235, 0.07}}, to{Rotation::euler({0, 0, omega * dt}), {0.235, 0.235, 0.07}};
    w.solids = {moving(m, h, from, to)};
    GasState s;
    GasSolver solver;
    Ledger ledger;
    solver.step(s, w, dt, ledger);
    double most = 0;
    each_cell(s, w, [&](int b, int c, const Vec3i&) {
      if (s.geometry.fx.block(b)[c] > 128) most = std::max(most, std::abs(double(s.u.block(b)[c])));
    });
    return most;
  };
  const double round = turn({}, true), square = turn({0.16, 0.16, 0.4}, false);
  EXPECT_LT(round, 0.08 * omega * 0.1) << "what is left of the cells that it is cut into";
  EXPECT_GT(square, 0.2 * omega * 0.08);
}

// An elliptic cylinder with half axes a and b that turns at ω about its axis presses ω (a² - b²) / 2 a depth
// through a quarter of its surface: the integral of (ω × r) · n, which is -ω d(r²) / 2 along the outline.
TEST(Moving, AnEllipticCylinderPressesWhatItsOutlineSays) {
  const double h = 0.01, dt = 0.005, omega = 2, a = 0.2, b = 0.1, middle = 0.32;
  GasWorld w = closed_box(63, 63, 15, h);
  Mesh m = cylinder_mesh(1, 1);
  m.place({Rotation::euler({std::numbers::pi / 2, 0, 0}), {}});
  for (Vec3f& p : m.points) p = {p.x * float(a), p.y * float(b), p.z * 0.4f};
  const Pose from{{}, {middle, middle, 0.07}},
      to{Rotation::euler({0, 0, omega * dt}), {middle, middle, 0.07}};
  w.solids = {moving(m, h, from, to)};
  GasState s;
  GasSolver solver;
  Ledger ledger;
  solver.step(s, w, dt, ledger);
  // What the quarter right and above presses out leaves to the left and downwards, past the solid.
  double out = 0;
  each_cell(s, w, [&](int block, int c, const Vec3i& at) {
    if (at.x == 32 && at.y >= 32) out -= double(s.u.block(block)[c]) * s.geometry.fx.block(block)[c] / 255;
    if (at.y == 32 && at.x >= 32) out -= double(s.v.block(block)[c]) * s.geometry.fy.block(block)[c] / 255;
  });
  EXPECT_NEAR(std::abs(out) * h * h / (omega * (a * a - b * b) / 2 * 0.15), 1, 0.05);
}

// Spin, closed formula: the chord velocity of a solid is ω × r up to the square of the turn of a step.
TEST(Moving, SolidsKnowTheirVelocity) {
  const Pose from{{}, {0.1, 0.2, 0}}, to{Rotation::euler({0, 0, 0.002}), {0.1, 0.2 + 0.003, 0}};
  const Solid s = moving(ball_mesh(0.05), 0.01, from, to);
  const double dt = 0.001;  // ω = 2 rad/s about z, 3 m/s upwards
  const Vec3d r{0.03, 0.01, 0.02};
  const Vec3d v = s.velocity(to * r, dt);
  EXPECT_NEAR(v.x, -2 * r.y, 1e-3 * 2 * 0.05);
  EXPECT_NEAR(v.y, 3 + 2 * r.x, 1e-3 * 3);
  EXPECT_NEAR(v.z, 0, 1e-12);
}

// Smoke that fills a room evenly stays as much as it is while something is moved through it.
TEST(Moving, SmokeIsKeptWhereASolidSweepsThroughIt) {
  const double h = 0.01, dt = 0.01, speed = 0.6;
  GasWorld w = closed_box(47, 63, 31, h);
  w.density_lift = w.heat_lift = 0;
  GasState s;
  GasSolver solver;
  Ledger ledger;
  Source all;
  all.shape = SourceShape::ball({0.23, 0.2, 0.15}, 0.14);
  all.density = 0.01;
  solver.fill(s, w, {all}, ledger);
  const double poured = ledger.poured;
  ASSERT_GT(poured, 0);
  const double start = measure(s, h).centroid.y;
  double y = 0.06;
  for (int i = 0; i < 60; ++i, y += speed * dt) {
    w.solids = {
        moving(box_mesh({0.12, 0.05, 0.1}), h, {{}, {0.23, y, 0.15}}, {{}, {0.23, y + speed * dt, 0.15}})};
    solver.step(s, w, dt, ledger);
  }
  EXPECT_NEAR(ledger.gap(), 0, 1e-6 * poured);
  EXPECT_LT(std::abs(ledger.numeric), 0.02 * poured);
  EXPECT_NEAR(ledger.in_shot, poured, 0.02 * poured);
  EXPECT_GT(measure(s, h).centroid.y, start + 0.01) << "it was carried up";
}

// A letter leaves slivers of cells all around. Potential flow past a blunt body is at most a few times as
// fast as the body (twice at a cylinder's side, Batchelor 1967, § 6.6), and more only at sharp edges.
TEST(Moving, NothingIsFlungOutOfSliversBesideWhatMoves) {
  const double h = 0.005, speed = 0.25, dt = 0.01;
  GasWorld w;
  w.cell_size = h, w.low = {-16, 0, -16}, w.cells = {31, 63, 31};
  Source all;
  all.shape = SourceShape::ball({0, 0.16, 0}, 1), all.density = 0.001;
  Lettering letter;
  letter.text = "D";
  const LevelSet set((*bodies_of(letter))[0].mesh, h);
  GasState s;
  GasSolver solver;
  Ledger ledger;
  solver.fill(s, w, {all}, ledger);
  for (int i = 0; i < 16; ++i) {
    const double y = 0.12 + i * speed * dt;
    w.solids = {Solid(set, {{}, {0, y, 0}}, {{}, {0, y + speed * dt, 0}})};
    solver.step(s, w, dt, ledger);
    ASSERT_LT(most_speed(s), 6 * speed) << "step " << i;
  }
}

// Effective gravity: in a vessel that is accelerated evenly the surfaces of equal density lie across g - a.
TEST(Moving, SmokeInAnAcceleratedVesselLeans) {
  const double h = 0.005, dt = 0.01, a = 9.81;
  GasWorld w;
  w.cell_size = h, w.cells = {63, 63, 63};
  w.heat_lift = 0, w.density_lift = -1;
  Room room{LevelSet(box_mesh({0.2, 0.2, 0.1}), h)};
  room.moves = true, room.acceleration = {a, 0, 0};
  w.rooms = {room};
  Source heavy;
  heavy.room = 1, heavy.shape = SourceShape::ball({0, 0, 0}, 0.03), heavy.density = 0.2;
  GasState s;
  GasSolver solver;
  Ledger ledger;
  solver.fill(s, w, {heavy}, ledger);
  const Vec3d before = measure(s, h).centroid;
  for (int i = 0; i < 12; ++i) solver.step(s, w, dt, ledger);
  const Vec3d moved = measure(s, h).centroid - before;
  EXPECT_LT(moved.x, -0.002) << "against the acceleration";
  EXPECT_NEAR(moved.x / moved.y, 1, 0.05) << "along (-a, -g)";
}

}  // namespace pour
