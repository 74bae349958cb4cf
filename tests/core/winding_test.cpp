// Inside and outside of meshes with holes, against CGAL's side of the same mesh without them; bodies as
// solvers see them.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <random>

#include "core/cgal_mesh.h"
#include "shape/near_surface.h"
#include "shape/shape.h"
#include "shape/shell.h"
#include "shape/solver_view.h"
#include "shape/winding.h"

namespace pour {
namespace {

using std::numbers::pi;

struct Sample {
  std::vector<Vec3d> points;
  std::vector<char> inside;  // as CGAL has it
};

/// Points in and around a closed mesh, none within `near` of it.
Sample sample(const Mesh& mesh, double near) {
  const CgalMesh reference(mesh);
  const NearSurface close(mesh);
  const Box box = mesh.bounds();
  std::mt19937 random(7);
  Sample out;
  while (out.points.size() < 4000) {
    Vec3d p;
    for (int a = 0; a < 3; ++a)
      p[a] = std::uniform_real_distribution(box.low[a] - 0.2 * box.size()[a],
                                            box.high[a] + 0.2 * box.size()[a])(random);
    if (close.nearest(to<float>(p), float(near))) continue;
    out.points.push_back(p);
    out.inside.push_back(reference.is_inside(p));
  }
  return out;
}

/// The share of points that are on the side where CGAL has them.
double agreement(const Mesh& mesh, const Sample& s) {
  const WindingNumber w(mesh);
  size_t same = 0;
  for (size_t i = 0; i < s.points.size(); ++i) same += (w.at(s.points[i]) > 0.5) == bool(s.inside[i]);
  return double(same) / double(s.points.size());
}

/// Without the triangles whose middle lies in a ball.
Mesh with_hole(Mesh m, const Vec3f& at, float radius) {
  std::erase_if(m.triangles, [&](const auto& t) {
    const Vec3f middle = (m.points[size_t(t[0])] + m.points[size_t(t[1])] + m.points[size_t(t[2])]) / 3;
    return length(middle - at) < radius;
  });
  return m;
}

Mesh mesh_of(const Shape& s) { return bodies_of(s)->front().mesh; }

}  // namespace

TEST(Winding, IsThatOfCgalOnClosedMeshes) {
  Tube tube;
  tube.radius = 0.02;
  for (const Mesh& m : {mesh_of(Ball{0.05}), mesh_of(Ring{0.08, 0.03}), mesh_of(tube), mesh_of(Turned())})
    EXPECT_EQ(agreement(m, sample(m, 1e-5)), 1);
}

// The formula is exact for what a triangle covers of the sphere around a point: 4π inside, 0 outside.
TEST(Winding, IsOneInsideAndZeroOutside) {
  const Mesh ball = ball_mesh(0.05, 6);  // 32,768 triangles: most of them count by their moments
  const WindingNumber w(ball);
  for (const double r : {0.0, 0.02, 0.045, 0.049}) EXPECT_NEAR(w.at({r * 0.6, r * 0.8, 0}), 1, 0.04) << r;
  for (const double r : {0.051, 0.06, 0.1, 1.0}) EXPECT_NEAR(w.at({0, r * 0.6, r * 0.8}), 0, 0.04) << r;
}

TEST(Winding, HolesCountAsClosed) {
  const Mesh ball = ball_mesh(0.05), ring = mesh_of(Ring{0.08, 0.03}), bowl = mesh_of(Turned());
  EXPECT_GE(agreement(with_hole(ball, {0, 0.05f, 0}, 0.015f), sample(ball, 1e-3)), 0.98);
  EXPECT_GE(agreement(with_hole(ring, {0.095f, 0, 0}, 0.012f), sample(ring, 1e-3)), 0.98);
  EXPECT_GE(agreement(with_hole(bowl, {0.07f, 0.05f, 0}, 0.006f), sample(bowl, 1e-3)), 0.98);
}

TEST(Winding, WhatHasHolesIsFilled) {
  const double r = 0.05;
  const Mesh open = with_hole(ball_mesh(r, 5), {0, float(r), 0}, 0.014f);
  EXPECT_FALSE(is_closed(open));
  const Mesh solid = filled(open);
  EXPECT_TRUE(is_closed(solid));
  EXPECT_TRUE(CgalMesh(solid).is_closed());
  EXPECT_NEAR(solid.volume() / (4.0 / 3 * pi * r * r * r), 1, 0.01);
  // Where it is not open its surface is that of the ball, between the voxels too.
  double worst = 0;
  for (const Vec3f& p : solid.points)
    if (p.y < 0.03f) worst = std::max(worst, std::abs(double(length(p)) - r));
  EXPECT_LT(worst, 0.25 * 2 * r / 128);
  Mesh sheet;
  sheet.points = {{0, 0, 0}, {0.1f, 0, 0}, {0, 0.1f, 0}};
  sheet.triangles = {{0, 1, 2}};
  EXPECT_TRUE(filled(sheet).triangles.empty());
}

// A round hole: its rim is 2 π ρ long; a square has four edges.
TEST(Winding, OpennessIsTheRimAgainstTheArea) {
  Mesh square;
  square.points = {{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}};
  square.triangles = {{0, 1, 2}, {0, 2, 3}};
  EXPECT_NEAR(openness(square), 4, 1e-6);
  EXPECT_EQ(openness(ball_mesh(0.05)), 0);
  EXPECT_FALSE(is_closed(square));
  EXPECT_TRUE(is_closed(ball_mesh(0.05)));
}

TEST(SolverView, ABallIsItselfOnFineCells) {
  const double h = 0.002;
  const SolverView v = solver_view(ball_mesh(0.03, 5), h);
  ASSERT_FALSE(v.surface.triangles.empty());
  ASSERT_EQ(v.off.size(), v.surface.points.size());
  EXPECT_LT(v.furthest, 0.15 * h);
  EXPECT_NEAR(v.thinnest, 0.06, 0.002);
}

TEST(SolverView, AThinWallIsLostAndSaysWhichCellsKeepIt) {
  const Mesh plate = box_mesh({0.05, 0.001, 0.05});
  const SolverView coarse = solver_view(plate, 0.006), fine = solver_view(plate, 0.0005);
  EXPECT_NEAR(coarse.thinnest, 0.001, 1e-5);
  EXPECT_NEAR(coarse.keeping_cell(), 0.0005, 1e-5);
  EXPECT_GT(coarse.furthest, 0.0005);
  EXPECT_LT(fine.furthest, 0.75 * 0.0005) << "at its corners";
  EXPECT_NEAR(fine.surface.volume() / plate.volume(), 1, 0.05);
}

}  // namespace pour
