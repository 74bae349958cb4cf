// The kinds of pieces: closed, of the volume and area that handbooks give (Bronstein & Semendjajew, Handbook
// of Mathematics, the solids; from memory), as CGAL measures them.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "base/error.h"
#include "core/cgal_mesh.h"
#include "shape/level_set.h"
#include "shape/outline.h"
#include "shape/shape.h"

namespace pour {
namespace {

using std::numbers::pi;

Mesh mesh_of(const Shape& shape) {
  const auto bodies = bodies_of(shape);
  EXPECT_EQ(bodies->size(), 1u);
  return bodies->front().mesh;
}

void is_measured(const Shape& shape, double volume, double area, double tolerance) {
  const Mesh m = mesh_of(shape);
  EXPECT_NEAR(m.volume() / volume, 1, tolerance);
  EXPECT_NEAR(m.area() / area, 1, 2 * tolerance);
  const CgalMesh c(m);
  EXPECT_TRUE(c.is_closed());
  EXPECT_NEAR(c.volume() / volume, 1, tolerance);
}

}  // namespace

TEST(Kinds, AreMeasuredAsTheirFormulasSay) {
  is_measured(Ball{0.05}, 4.0 / 3 * pi * std::pow(0.05, 3), 4 * pi * 0.05 * 0.05, 2e-3);
  is_measured(Block{{0.2, 0.1, 0.05}}, 0.001, 2 * (0.02 + 0.005 + 0.01), 1e-5);
  is_measured(Plane{0.4, 0.3, 0.004}, 0.4 * 0.3 * 0.004, 2 * (0.12 + 0.0016 + 0.0012), 1e-5);
  is_measured(Disc{0.05, 0.004}, pi * 0.0025 * 0.004, 2 * pi * 0.05 * (0.05 + 0.004), 1e-3);
  is_measured(Cylinder{0.04, 0.12}, pi * 0.0016 * 0.12, 2 * pi * 0.04 * (0.04 + 0.12), 1e-3);
  is_measured(Ring{0.08, 0.02}, 2 * pi * pi * 0.08 * 0.0001, 4 * pi * pi * 0.08 * 0.01, 2e-3);
  // A box whose edges are rounded by r: Steiner's formula of the box that is smaller by r on all sides.
  const double a = 0.2 - 0.02, b = 0.1 - 0.02, c = 0.05 - 0.02, r = 0.01;
  is_measured(
      Block{{0.2, 0.1, 0.05}, r},
      a * b * c + 2 * r * (a * b + b * c + c * a) + pi * r * r * (a + b + c) + 4.0 / 3 * pi * r * r * r,
      2 * (a * b + b * c + c * a) + 2 * pi * r * (a + b + c) + 4 * pi * r * r, 2e-3);
  Tube straight;
  straight.points = {{{0, 0, 0}, {0.1, 0, 0}, {0.3, 0, 0}}}, straight.radius = 0.01;
  is_measured(straight, pi * 1e-4 * 0.3 + 4.0 / 3 * pi * 1e-6, 2 * pi * 0.01 * 0.3 + 4 * pi * 1e-4, 1e-2);
}

// A solid of revolution: V = π ∫ r² dx, here with r from 1 to 2 cm and even at both ends, and half a ball on
// either end.
TEST(Kinds, ATubeIsAsThickAsItsPointsSay) {
  Tube tube;
  tube.points = {{{0, 0, 0}, {0.3, 0, 0}}, {1, 2}}, tube.radius = 0.01;
  double volume = 0;
  for (int i = 0; i < 1000; ++i) {
    const double t = (i + 0.5) / 1000, r = 0.01 * (1 + t * t * (3 - 2 * t));
    volume += pi * r * r * 0.3 / 1000;
  }
  volume += 2.0 / 3 * pi * (1e-6 + 8e-6);
  const Mesh m = mesh_of(tube);
  EXPECT_NEAR(m.volume() / volume, 1, 0.01);
  EXPECT_TRUE(CgalMesh(m).is_closed());
  EXPECT_NEAR(tube.curve().size(0), 1, 1e-12);
  EXPECT_NEAR(tube.curve().size(0.5), 1.5, 1e-9);
  EXPECT_NEAR(tube.curve().size(1), 2, 1e-12);
  EXPECT_NEAR(Curve({{0, 0, 0}, {1, 0, 0}}, false).size(0.3), 1, 1e-12) << "without sizes";
}

TEST(Kinds, AClosedTubeIsARing) {
  Tube tube;
  tube.closed = true, tube.radius = 0.01;
  tube.points.list.clear();
  for (int i = 0; i < 24; ++i)
    tube.points.list.push_back({0.08 * std::cos(pi * i / 12), 0, 0.08 * std::sin(pi * i / 12)});
  is_measured(tube, 2 * pi * pi * 0.08 * 1e-4, 4 * pi * pi * 0.08 * 0.01, 1e-2);
}

// Pappus's second theorem: the volume of a thin wall turned about an axis is its section's area times the way
// of the section's middle.
TEST(Kinds, ATurnedVesselHasAWallAndAnInside) {
  Turned cup;
  cup.profile = {{{0, 0, 0}, {0.04, 0, 0}, {0.0401, 0.0001, 0}, {0.04, 0.08, 0}}}, cup.wall = 0.004;
  const Mesh m = mesh_of(cup);
  EXPECT_TRUE(CgalMesh(m).is_closed());
  const double bottom = pi * 0.04 * 0.04 * 0.004, side = 2 * pi * 0.04 * 0.004 * 0.08;
  EXPECT_NEAR(m.volume() / (bottom + side), 1, 0.03);
  const LevelSet set(m, 0.001);
  EXPECT_GT(set.distance({0, 0.04, 0}), 0) << "its inside is air";
  EXPECT_LT(set.distance({0, 0, 0}), 0) << "its bottom is whole";
  EXPECT_LT(set.distance({0.04, 0.04, 0}), 0) << "its wall is solid";
  EXPECT_GT(set.distance({0, 0.1, 0}), 0) << "it is open on top";
}

TEST(Kinds, CurvesRunThroughTheirPoints) {
  const std::vector<Vec3d> points{{0, 0, 0}, {0.1, 0.2, 0}, {0.3, 0.1, 0.1}, {0.3, 0.1, 0.1}, {0.5, 0, 0}};
  const Curve c(points, false);
  for (const Vec3d& p : points) {
    double nearest = 1;
    for (int i = 0; i <= 4000; ++i) nearest = std::min(nearest, length(c.at(i / 4000.0) - p));
    EXPECT_LT(nearest, 1e-3);
  }
  double longest = 0;
  for (int i = 0; i < 100; ++i) longest = std::max(longest, length(c.at((i + 1) / 100.0) - c.at(i / 100.0)));
  EXPECT_LT(longest, 1.02 * c.length() / 100) << "evenly along its length";
  EXPECT_EQ(c.at(-1), c.at(0));
  EXPECT_EQ(c.at(2), c.at(1));
  EXPECT_LT(length(Curve(points, true).at(1.25) - Curve(points, true).at(0.25)), 1e-12) << "it goes round";
}

TEST(Kinds, AllHaveWhatTheyNeed) {
  for (size_t k = 0; k < kinds().size(); ++k) {
    const Shape s = new_shape(int(k));
    EXPECT_EQ(s.index(), k);
    EXPECT_FALSE(std::string(sentence_of(s)).empty());
    for (const Body& b : *bodies_of(s)) {
      EXPECT_GT(b.mesh.volume(), 0) << kinds()[k].key;
      EXPECT_GT(b.stroke, 0);
      const LevelSet set(b.mesh, std::max(b.stroke / 8, 1e-3));
      for (const auto& seeds : b.seeds)
        for (const Body::Seed& seed : seeds)
          EXPECT_LT(set.distance(seed.place), 0.2 * b.stroke) << kinds()[k].key << ": a seed outside";
    }
    EXPECT_EQ(bodies_of(s), bodies_of(s)) << "made once";
  }
}

// What is seen of a surface ends where it turns away from the eye: a box shows its twelve edges, a ball a
// circle, which seen from d away has the radius r √(1 - r²/d²) (the tangent cone's; Euclid).
TEST(Outline, IsWhereASurfaceTurnsAway) {
  const auto box = outline_of(box_mesh({0.1, 0.2, 0.3}));
  EXPECT_EQ(box.size(), 12u) << "the diagonals of its sides are no edges";
  for (const OutlineEdge& e : box) EXPECT_TRUE(e.shows({0, 0, 5}));
  const double r = 0.1, d = 0.3;
  double length_seen = 0;
  for (const OutlineEdge& e : outline_of(ball_mesh(r)))
    if (e.shows({0, 0, float(d)})) {
      length_seen += double(length(e.to - e.from));
      EXPECT_NEAR(std::hypot(e.from.x, e.from.y), r * std::sqrt(1 - r * r / d / d), 0.1 * r);
      EXPECT_NEAR(e.from.z, r * r / d, 0.15 * r);
    }
  EXPECT_GT(length_seen, 2 * std::numbers::pi * r * std::sqrt(1 - r * r / d / d) * 0.95);
}

}  // namespace pour
