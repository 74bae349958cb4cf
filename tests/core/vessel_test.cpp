// Vessels that overlap: joined where a piece says so.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "base/error.h"
#include "check/checks.h"
#include "core/tank.h"
#include "gas/gas.h"
#include "picture/quick_picture.h"
#include "run/staging.h"
#include "shape/vessels.h"
#include "solve/cells.h"

namespace pour {
namespace {

/// Two boxes that hold, a bar from one into the other, and smoke in the left one.
Shot bridged(bool joins) {
  Shot s;
  Fluid smoke;
  smoke.id = smoke.name = "smoke", smoke.what = Smoke();
  s.fluids = {smoke};
  const auto add = [&](const char* id, const Shape& shape, const Vec3d& at) -> Piece& {
    Piece p;
    p.id = p.name = id, p.shape = shape, p.position = at;
    s.pieces.push_back(p);
    return s.pieces.back();
  };
  add("left", Block{.size = {0.06, 0.06, 0.06}}, {-0.05, 0.1, 0});
  add("right", Block{.size = {0.06, 0.06, 0.06}}, {0.05, 0.1, 0});
  add("bridge", Block{.size = {0.08, 0.024, 0.024}}, {0, 0.1, 0}).joins = joins;
  Piece& source = add("source", Ball{.radius = 0.01}, {-0.03, 0.1, 0});
  source.holds = source.shows = false;
  Pour pour;
  pour.id = pour.name = "pour", pour.from = SourceKind::piece, pour.source.id = "source";
  pour.fluid.id = "smoke";
  pour.speed = 0.5, pour.heat = 0;
  s.pours.push_back(pour);
  s.run.detail = Detail::custom, s.run.cell_size = 0.004;
  return s;
}

std::vector<std::vector<Body>> bodies_in(const Shot& s) {
  std::vector<std::vector<Body>> out;
  for (const Piece& p : s.pieces) out.push_back(placed_bodies(s, p));
  return out;
}

/// How much smoke is beyond the end of the bridge after half a second, sum of densities.
double smoke_on_the_right(const Shot& s) {
  const Staging staging(s);
  GasState state;
  GasSolver solver;
  Ledger ledger;
  for (double t = 0; t < 0.5; t += 0.01) solver.step(state, staging.gas_world(t, t + 0.01), 0.01, ledger);
  double sum = 0;
  for (int b = first_block; b < state.grid.size(); ++b)
    for (int c = 0; c < block_cells; ++c)
      if (cell_middle(state.grid, b, c, 0.004).x > 0.045) sum += double(state.density.block(b)[c]);
  return sum;
}

size_t faults_about(const Shot& s, const std::string& words) {
  size_t out = 0;
  for (const Check& c : check_shot(s, ".")) out += c.title.find(words) != std::string::npos;
  return out;
}

}  // namespace

TEST(Vessels, AreJoinedByAPieceThatJoins) {
  const Shot apart = bridged(false), joined = bridged(true);
  EXPECT_EQ(vessels_of(apart, bodies_in(apart)).size(), 3u);
  const std::vector<Vessel> one = vessels_of(joined, bodies_in(joined));
  ASSERT_EQ(one.size(), 1u);
  EXPECT_EQ(one[0].parts.size(), 3u);
  EXPECT_EQ(one[0].piece(), 0u);
  EXPECT_EQ(Staging(joined).gas_world(0).rooms.size(), 1u);
  Shot away = joined;
  away.pieces[2].position.y = 0.3;
  EXPECT_EQ(vessels_of(away, bodies_in(away)).size(), 3u) << "it reaches none";
}

TEST(Vessels, SmokeCrossesABridge) {
  EXPECT_EQ(smoke_on_the_right(bridged(false)), 0);
  EXPECT_GT(smoke_on_the_right(bridged(true)), 1e-3);
}

TEST(Vessels, ThatAreJoinedMoveAsOne) {
  Shot s = bridged(true);
  s.pieces[1].tracks["position"].keys = {{0, Vec3d{0.05, 0.1, 0}, Ease::linear, {}},
                                         {0.5, Vec3d{0.09, 0.1, 0}, Ease::linear, {}}};
  try {
    (void)Staging(s);
    FAIL() << "they part";
  } catch (const Fault& f) {
    EXPECT_NE(f.problem.find("moves differently"), std::string::npos) << f.problem;
  }
}

// Two boxes of 6 cm whose bar lies 1 cm in each: what is seen is 2 · 6 · 6² − 2 · 2.4² of the boxes and
// 4 · 2.4 · 4 of the bar, cm².
TEST(Vessels, HaveNoWallsBetweenThem) {
  Shot s = bridged(true);
  double seen = 0;
  for (const PicturePiece& p : picture_pieces(s)) seen += p.surface->mesh.area();
  EXPECT_NEAR(seen * 1e4, 2 * 6 * 36 - 2 * 2.4 * 2.4 + 4 * 2.4 * 4, 1.5);
}

TEST(Vessels, ChecksSayWhenTheyOnlySeemJoined) {
  Shot s = bridged(false);
  std::vector<Check> all = check_shot(s, ".");
  const auto separate = std::find_if(all.begin(), all.end(), [](const Check& c) {
    return c.title.find("are separate") != std::string::npos;
  });
  ASSERT_NE(separate, all.end());
  separate->fix(s);
  EXPECT_EQ(faults_about(s, "are separate"), 0u) << "a bridge joins on both sides";
  s = bridged(true);
  EXPECT_EQ(faults_about(s, "are separate") + faults_about(s, "hardly") + faults_about(s, "joins nothing"),
            0u);
  s.pieces[2].position.y = 0.3;
  EXPECT_EQ(faults_about(s, "joins nothing"), 1u);
  s = bridged(true);
  std::get<Block>(s.pieces[2].shape).size.x = 0.043;  // 1.5 mm in each
  EXPECT_EQ(faults_about(s, "hardly meet"), 2u);
}

// The smaller one of two joins: what pours fill by themselves stays as it was.
TEST(Vessels, TheBridgeJoinsAndNotWhatIsFilled) {
  Shot s = bridged(false);
  std::swap(s.pieces[0], s.pieces[2]);
  for (const Check& c : check_shot(s, "."))
    if (c.title.find("are separate") != std::string::npos) c.fix(s);
  EXPECT_TRUE(s.piece("bridge")->joins);
  EXPECT_FALSE(s.piece("left")->joins || s.piece("right")->joins);
}

TEST(Vessels, ThatAThirdJoinsAreNotSeparate) {
  Shot s = bridged(true);
  s.pieces[1].position.x = 0.005;  // it reaches into the left one
  EXPECT_EQ(faults_about(s, "are separate"), 0u);
  s.pieces[2].joins = false;
  EXPECT_EQ(faults_about(s, "are separate"), 3u);
}

TEST(Vessels, ThatHardlyMeetOnOneSideAreSaid) {
  Shot s = bridged(true);
  s.pieces[2].shape = Block{.size = {0.0615, 0.024, 0.024}};
  s.pieces[2].position.x = -0.0095;  // 1.5 mm in the right one, 2 cm in the left
  EXPECT_EQ(faults_about(s, "hardly meet"), 1u);
}

}  // namespace pour
