// Meshes, turns and level sets against formulas, Eigen and CGAL.
#include "shape/mesh.h"

#include <gtest/gtest.h>

#include <Eigen/Geometry>
#include <numbers>

#include "core/cgal_mesh.h"
#include "shape/lettering.h"
#include "shape/level_set.h"
#include "shape/normals.h"
#include "shape/placed.h"
#include "shot/recipes.h"

using namespace pour;

TEST(Mesh, BallsAndBoxesHaveTheirVolume) {
  for (const double r : {0.01, 0.3}) {
    const double ideal = 4.0 / 3 * std::numbers::pi * r * r * r;
    EXPECT_NEAR(ball_mesh(r).volume(), ideal, 1e-5 * ideal);
    EXPECT_TRUE(CgalMesh(ball_mesh(r)).is_closed());
  }
  const Mesh box = box_mesh({0.2, 0.05, 0.1});
  EXPECT_NEAR(box.volume(), 0.2 * 0.05 * 0.1, 1e-9);
  EXPECT_NEAR(box.bounds().size().x, 0.2, 1e-6);
  EXPECT_NEAR(box.bounds().center().y, 0, 1e-6);
  EXPECT_TRUE(CgalMesh(box).is_closed());
}

TEST(Mesh, NormalsAreSpreadEvenlyAndPointOutwards) {
  Body ball;
  ball.mesh = ball_mesh(0.5);
  const auto all = normals_of({ball}, 400);
  EXPECT_NEAR(double(all.size()), 400, 10);
  Vec3d sum;
  for (const NormalAt& n : all) {
    EXPECT_GT(dot(n.out, normalized(n.at)), 0.99f);
    EXPECT_NEAR(length(n.at), 0.5f, 0.01f);
    sum += to<double>(n.at);
  }
  EXPECT_LT(length(sum / double(all.size())), 0.03) << "as many on each side";
  Body disc = bodies_of(Shape(Disc()))->front();
  for (const NormalAt& n : normals_of({disc}, 100))
    EXPECT_LT(length(to<double>(n.out) - disc.mouth->normal()), 1e-6);
}

TEST(Mesh, PointsOfABallLieOnOneSphere) {
  const Mesh ball = ball_mesh(0.1);
  double low = 1, high = 0;
  for (const Vec3f& p : ball.points)
    low = std::min(low, double(length(p))), high = std::max(high, double(length(p)));
  EXPECT_LT(high - low, 1e-5);
  EXPECT_NEAR(high, 0.1, 0.001) << "a little outside, so that the volume is right";
}

TEST(Mesh, TurnsAboutXThenYThenZLikeEigen) {
  const Vec3d angles{0.4, -1.1, 2.3};
  const Rotation ours = Rotation::euler(angles);
  const Eigen::Matrix3d reference = (Eigen::AngleAxisd(angles.z, Eigen::Vector3d::UnitZ()) *
                                     Eigen::AngleAxisd(angles.y, Eigen::Vector3d::UnitY()) *
                                     Eigen::AngleAxisd(angles.x, Eigen::Vector3d::UnitX()))
                                        .toRotationMatrix();
  for (int i = 0; i < 3; ++i)
    for (int j = 0; j < 3; ++j) EXPECT_NEAR(ours.row[i][j], reference(i, j), 1e-12);
  const Vec3d p{0.3, -0.2, 0.9}, back = ours.inverse(ours * p);
  EXPECT_NEAR(length(back - p), 0, 1e-12);
}

TEST(Mesh, PlacingKeepsTheVolumeAndMovesTheMiddle) {
  Mesh m = box_mesh({0.1, 0.2, 0.3});
  const double before = m.volume();
  m.place({Rotation::euler({0.7, 0.2, -0.4}), {1, 2, 3}});
  EXPECT_NEAR(m.volume(), before, 1e-5 * before);
  const Vec3d middle = m.bounds().center();
  EXPECT_NEAR(length(middle - Vec3d{1, 2, 3}), 0, 1e-6);
  Mesh two = m;
  two.append(box_mesh({0.1, 0.1, 0.1}));
  EXPECT_EQ(two.points.size(), m.points.size() + 8);
  EXPECT_NEAR(two.volume(), before + 0.001, 1e-5);
  Mesh inside_out = m;
  for (auto& t : inside_out.triangles) std::swap(t[0], t[1]);
  EXPECT_NEAR(inside_out.volume(), -before, 1e-5 * before);
}

// The distances that the solver's walls come from, against CGAL's exact nearest triangle.
TEST(LevelSet, DistancesOfALetterAreThoseOfCgal) {
  const Outline outline = outline_text("R", {.font = "League Spartan Bold", .letter_size = 0.1});
  const Mesh letter = extrude(outline, 0.04, 0.006).front();
  const double cell = 0.003;
  const LevelSet set(letter, cell);
  const CgalMesh reference(letter);
  const Vec3i low = set.first(), n = set.count();
  int near = 0, far = 0, off = 0, inexact = 0;
  for (int z = 0; z < n.z; ++z)
    for (int y = 0; y < n.y; ++y)
      for (int x = 0; x < n.x; ++x) {
        const Vec3d p = to<double>(low + Vec3i{x, y, z}) * cell;
        const double d = reference.distance(p), ours = set.distance(p);
        if (std::abs(d) < 2.5 * cell) {
          ++near;
          inexact += std::abs(ours - d) > 1e-5;
          off += std::abs(ours - d) > 0.1 * cell;
        } else {
          ++far;
          EXPECT_EQ(ours < 0, d < 0);
        }
      }
  EXPECT_GT(near, 10000);
  EXPECT_GT(far, 1000);
  EXPECT_LT(inexact, 0.02 * near);
  EXPECT_LT(off, 0.004 * near) << "beside slender triangles";
}

// A box is far larger than the groups that its values are kept in: beside its sides the distance is the way
// to them, deep inside and far outside just the sign counts.
TEST(LevelSet, ALargeBoxIsRightAllThrough) {
  const double h = 0.005;
  const LevelSet set(box_mesh({1.5, 1.7, 1.3}), h);
  for (const double x : {-0.75, 0.75})
    for (double y = -0.8; y < 0.81; y += 0.1)
      for (const double away : {-0.01, -0.004, 0.0, 0.006, 0.012})
        ASSERT_NEAR(set.distance({x + (x > 0 ? away : -away), y, 0.1}), away, 1e-5) << x << " " << y;
  for (double p = -0.6; p < 0.61; p += 0.0371) {
    ASSERT_LT(set.distance({p, -p, p}), -2.9 * h);
    ASSERT_GT(set.distance({0.8 + std::abs(p), p, p}), 2.9 * h);
  }
}

TEST(LevelSet, BlocksAreReadLikePoints) {
  const double cell = 0.004;
  const LevelSet set(ball_mesh(0.03), cell);
  std::vector<float> block(9 * 9 * 9);
  const Vec3i first{-3, 1, -9};
  set.read(first, 9, block.data());
  for (int z = 0; z < 9; ++z)
    for (int y = 0; y < 9; ++y)
      for (int x = 0; x < 9; ++x)
        EXPECT_NEAR(block[size_t((z * 9 + y) * 9 + x)],
                    set.distance(to<double>(first + Vec3i{x, y, z}) * cell), 1e-6);
  const Vec3i low = set.first(), count = set.count();
  EXPECT_LE(low.x * cell, -0.03);
  EXPECT_GE((low.x + count.x - 1) * cell, 0.03);
  EXPECT_TRUE(LevelSet().empty());
  EXPECT_FALSE(set.empty());
}

TEST(PieceShape, PiecesStandWhereTheyWerePut) {
  Piece ball;
  ball.shape = Ball{0.05}, ball.position = {0.1, 0.2, 0.3};
  auto parts = placed_bodies({}, ball);
  ASSERT_EQ(parts.size(), 1u);
  EXPECT_NEAR(parts[0].stroke, 0.1, 1e-6) << "the largest ball inside is the ball itself";
  EXPECT_NEAR(length(parts[0].mesh.bounds().center() - ball.position), 0, 1e-6);
  for (int i = 0; i < seed_places; ++i) {
    ASSERT_EQ(parts[0].seeds[i].size(), 1u);
    const Body::Seed& seed = parts[0].seeds[i].front();
    EXPECT_LT(length(seed.place - ball.position) + seed.room, 0.0501) << "the seed stays inside";
    EXPECT_GT(seed.room, 0.005);
  }
  Piece box;
  box.shape = Block{{0.4, 0.02, 0.1}}, box.turn = {0, 0, std::numbers::pi / 2};
  const Box b = piece_mesh({}, box).bounds();
  EXPECT_NEAR(b.size().x, 0.02, 1e-6) << "stood on its end";
  EXPECT_NEAR(b.size().y, 0.4, 1e-6);
}

TEST(PieceShape, EveryLetterIsAPartOfItsOwn) {
  Piece word = recipes().front().make().pieces[0];
  std::get<Lettering>(word.shape).text = "Öi";
  const auto parts = placed_bodies({}, word);
  EXPECT_EQ(parts.size(), 5u) << "O, its two dots, the stem and its dot";
  double volume = 0;
  for (const Body& p : parts) {
    EXPECT_GT(p.mesh.volume(), 0);
    EXPECT_GT(p.stroke, 0);
    volume += p.mesh.volume();
  }
  EXPECT_NEAR(volume, piece_mesh({}, word).volume(), 1e-5 * volume);
}
