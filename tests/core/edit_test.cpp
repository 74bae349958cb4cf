// Changes of the set as a whole: copies, order, placing.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "base/error.h"
#include "core/cli_fixture.h"
#include "shape/placed.h"
#include "shape/pose.h"
#include "shot/animate.h"
#include "shot/describe.h"
#include "shot/edit.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"

using namespace pour;
using testing::ElementsAre;
using testing::HasSubstr;

namespace {

std::vector<std::string> names(const Shot& s) {
  std::vector<std::string> out;
  for (const Piece& p : s.pieces) out.push_back(p.name);
  return out;
}

Shot three() {
  Shot s;
  for (const char* name : {"Bowl", "Cup", "Plate"}) {
    Piece p;
    p.id = p.name = name, p.shape = Ball{0.05};
    s.pieces.push_back(p);
  }
  return s;
}

void is_same(const Pose& a, const Pose& b) {
  EXPECT_LT(length(a.position - b.position), 1e-9);
  EXPECT_NEAR(a.scale, b.scale, 1e-9);
  for (int k = 0; k < 3; ++k) EXPECT_LT(length(a.turn.row[k] - b.turn.row[k]), 1e-9);
}

}  // namespace

TEST(Edit, ACopyStandsAfterItsOriginalUnderANameOfItsOwn) {
  Shot s = three();
  s.pieces[0].position = {1, 2, 3};
  const std::string path = duplicate_item(s, "pieces.Bowl");
  EXPECT_THAT(names(s), ElementsAre("Bowl", "Bowl 2", "Cup", "Plate"));
  EXPECT_EQ(path, "pieces." + s.pieces[1].id);
  EXPECT_NE(s.pieces[0].id, s.pieces[1].id);
  EXPECT_EQ(s.pieces[1].position, (Vec3d{1, 2, 3}));
  (void)duplicate_item(s, "pieces.Bowl");
  (void)duplicate_item(s, path);
  EXPECT_THAT(names(s), ElementsAre("Bowl", "Bowl 3", "Bowl 2", "Bowl 4", "Cup", "Plate"));
  EXPECT_THROW((void)duplicate_item(s, "pieces.spoon"), Fault);
}

TEST(Edit, AFluidIsCopiedWithItsPours) {
  Shot s = find_recipe("tea-into-a-bowl").make();
  ASSERT_EQ(s.pours.size(), 1u);
  const std::string path = duplicate_item(s, "fluids." + s.fluids[0].id);
  ASSERT_EQ(s.pours.size(), 2u);
  EXPECT_EQ("fluids." + s.pours[1].fluid.id, path);
  EXPECT_EQ(s.pours[0].fluid.id, s.fluids[0].id);
  EXPECT_NE(s.pours[0].id, s.pours[1].id);
}

TEST(Edit, TheOrderIsChangedAsFarAsThereIsRoom) {
  Shot s = three();
  shift_item(s, "pieces.Bowl", 1);
  EXPECT_THAT(names(s), ElementsAre("Cup", "Bowl", "Plate"));
  shift_item(s, "pieces.Plate", -2);
  EXPECT_THAT(names(s), ElementsAre("Plate", "Cup", "Bowl"));
  shift_item(s, "pieces.Bowl", 5);
  EXPECT_THAT(names(s), ElementsAre("Plate", "Cup", "Bowl"));
}

// The turn about x, y and z is one of the twelve Euler conventions; each turn has two triples in it
// (Shoemake, Graphics Gems IV, 1994; from memory).
TEST(Edit, AnglesGiveTheSameTurnAndAreNearTheOldOnes) {
  for (const Vec3d& a :
       {Vec3d{0.3, 0.2, -0.4}, {2.8, 1.2, 3}, {-3, -2.2, 0.1}, {0.4, degree * 90, 0}, {7, 8, 9}}) {
    const Rotation r = Rotation::euler(a);
    for (const Vec3d& near : {Vec3d{}, a, a + Vec3d{0.01, -0.01, 0.01}}) {
      const Rotation again = Rotation::euler(angles_of(r, near));
      for (int k = 0; k < 3; ++k) EXPECT_LT(length(r.row[k] - again.row[k]), 1e-7);
    }
    if (std::abs(std::cos(a.y)) > 1e-6) {
      EXPECT_LT(length(angles_of(r, a) - a), 1e-7);
    }
  }
}

TEST(Edit, APieceStandsWhereItIsPut) {
  const Pose wanted{Rotation::euler({0.3, -1.1, 0.6}), {0.1, 0.4, -0.2}, 1.7};
  Shot s = three();
  place_piece(s, "Bowl", wanted, 1);
  is_same(pose_of(s, s.pieces[0]), wanted);

  // What belongs to another one that is turned and sized, and what turns by itself.
  s.pieces[1].parent = {"Bowl"};
  s.pieces[1].spin = {0, 0, 2};
  place_piece(s, "Cup", wanted, 13);
  const Shot then = shot_at(s, 13);
  is_same(pose_of(then, then.pieces[1]), wanted);
  EXPECT_EQ(s.pieces[1].spin, (Vec3d{0, 0, 2}));

  // What is animated gets keys.
  start_animating(s, "pieces.Plate.position", 1);
  place_piece(s, "Plate", wanted, 25);
  const Shot later = shot_at(s, 25), first = shot_at(s, 1);
  EXPECT_LT(length(later.pieces[2].position - wanted.position), 1e-9);
  EXPECT_EQ(first.pieces[2].position, three().pieces[2].position);
  EXPECT_THROW(place_piece(s, "Spoon", wanted, 1), Fault);
}

TEST(Edit, PointsHaveSizes) {
  Shot s = three();
  s.pieces[0].shape = Tube();
  set_text(s, "pieces.Bowl.points", "0, 0, 0; 10 cm, 0, 0, 50%; 20 cm, 0, 0", "p");
  const auto& points = std::get<Tube>(s.pieces[0].shape).points;
  EXPECT_THAT(points.sizes, ElementsAre(1, 0.5, 1));
  EXPECT_EQ(points.list[1], (Vec3d{0.1, 0, 0}));
  const Shot again = shot_from_json(shot_to_json(s), "again");
  EXPECT_TRUE(again == s);
  const std::string text = find_setting(s, "pieces.Bowl.points").text();
  Shot other = three();
  other.pieces[0].shape = Tube();
  set_text(other, "pieces.Bowl.points", text, "p");
  EXPECT_EQ(std::get<Tube>(other.pieces[0].shape).points, points);
  EXPECT_THROW(set_text(s, "pieces.Bowl.points", "0, 0, 0; 1, 0, 0, 0%", "p"), Fault);
  s.pieces[0].shape = Turned();
  EXPECT_THROW(set_text(s, "pieces.Bowl.profile", "0, 0; 1, 0, 50%", "p"), Fault) << "of two numbers each";
}

// What version 3 said of a pour's colours and of the patches of liquids.
TEST(Edit, FilesOfVersion3KeepTheirMeaning) {
  const Shot s = shot_from_json(
      std::string(R"({"easy_pour": 3, "fluids": [{"id": "smoke"}, {"id": "tea", "kind": "liquid"}],
    "pours": [{"id": "a", "fluid": "smoke", "piece_colors": true},
              {"id": "b", "fluid": "tea", "patchiness": 0.5}]})"),
      "old");
  ASSERT_EQ(s.pours.size(), 2u);
  EXPECT_EQ(s.pours[0].colors, PourColors::piece);
  EXPECT_EQ(s.pours[0].patchiness, 0.5);
  EXPECT_EQ(s.pours[1].colors, PourColors::fluid);
  EXPECT_EQ(s.pours[1].patchiness, 0) << "liquid took no notice of it";
}

class Edits : public Cli {};

TEST_F(Edits, FromTheCommandLine) {
  ASSERT_EQ(cli("new tea-into-a-bowl --out a").code, 0);
  EXPECT_THAT(cli("duplicate a.pour pieces.bowl").out, HasSubstr("Added pieces."));
  EXPECT_THAT(cli("show a.pour").out, HasSubstr("bowl_2"));
  EXPECT_THAT(cli("duplicate a.pour pieces.spoon").out, HasSubstr("pieces."));
}

// A box of 2 x 1 x 4 cm whose middle is at (3, 5, 7) cm.
TEST(Edit, APieceIsSetDownMovedToTheMiddleAndTurnedUp) {
  Shot s;
  Piece p;
  p.id = "box", p.name = "Box", p.shape = Block{{0.02, 0.01, 0.04}, 0}, p.position = {0.03, 0.05, 0.07};
  s.pieces = {p};
  settle_piece(s, "box", Settle::floor);
  EXPECT_NEAR(s.pieces[0].position.y, 0.005, 1e-6);
  settle_piece(s, "box", Settle::centre);
  EXPECT_LT(length(s.pieces[0].position - Vec3d{0, 0.005, 0}), 1e-6);
  settle_piece(s, "box", Settle::upright);
  settle_piece(s, "box", Settle::floor);
  const Box box = piece_mesh(s, s.pieces[0]).bounds();
  EXPECT_NEAR(box.high.y, 0.04, 1e-6) << "what was long is high";
  EXPECT_NEAR(box.low.y, 0, 1e-6);
  EXPECT_THROW(settle_piece(s, "cup", Settle::floor), Fault);
}

TEST(Edit, APieceTurnsIntoAFluidOnce) {
  Shot s = find_recipe("a-mark-of-paint").make();
  s.piece("bird")->holds = true;
  const std::string path = turn_into(s, "bird", "paint", 20);
  const Pour& p = *s.pour(path.substr(path.find('.') + 1));
  EXPECT_TRUE(p.replaces_source);
  EXPECT_EQ(p.fill_at.time, Clock(s).time(20));
  EXPECT_EQ(p.colors, PourColors::piece);
  EXPECT_TRUE(s.piece("bird")->blocks && s.piece("bird")->shows && !s.piece("bird")->holds);
  const size_t pours = s.pours.size();
  EXPECT_EQ(turn_into(s, "bird", "paint", 30), path) << "later, not once more";
  EXPECT_EQ(s.pours.size(), pours);
  EXPECT_EQ(s.pours.back().fill_at.time, Clock(s).time(30));
  EXPECT_THROW(turn_into(s, "nobody", "paint", 1), Fault);
  EXPECT_THROW(turn_into(s, "bird", "nothing", 1), Fault);
}

TEST(Edit, CurvesComeFromThePathOfAnSvg) {
  Shot s = three();
  s.pieces[0].shape = Tube();
  set_text(s, "pieces.Bowl.points", "M 10 20 H 110 V 70", "p");
  const auto& curve = std::get<Tube>(s.pieces[0].shape).points.list;
  EXPECT_LT(length(curve.front() - Vec3d{-0.05, 0.025, 0}), 1e-9) << "about the middle, y upwards";
  EXPECT_LT(length(curve.back() - Vec3d{0.05, -0.025, 0}), 1e-9);
  s.pieces[1].shape = Turned();
  set_text(s, "pieces.Cup.profile", "m 0 60 C 40 60 40 0 40 0", "p");
  const auto& profile = std::get<Turned>(s.pieces[1].shape).profile.list;
  EXPECT_LT(length(profile.front() - Vec3d{0, 0, 0}), 1e-9) << "its foot is on the axis";
  EXPECT_LT(length(profile.back() - Vec3d{0.04, 0.06, 0}), 1e-9);
  EXPECT_THROW(set_text(s, "pieces.Cup.profile", "Madeira", "p"), Fault);
  const fs::path file = fs::path(testing::TempDir()) / "path.svg";
  write_whole(file,
              "<svg viewBox='0 0 9 9'><path d='M0 0h3'/><g transform='translate(5 0) scale(10)'>"
              "<path d='M1 2 H11 V7' fill='none'/></g></svg>");
  set_text(s, "pieces.Bowl.points", file.string(), "p");
  EXPECT_LT(length(std::get<Tube>(s.pieces[0].shape).points.list.back() - Vec3d{0.05, -0.025, 0}), 1e-9)
      << "the longest line of a file, where it stands there";
  write_whole(file, "<svg viewBox='0 0 9 9'><text>a</text></svg>");
  EXPECT_THROW(set_text(s, "pieces.Bowl.points", file.string(), "p"), Fault);
  fs::remove(file);
}
