// What pieces are made of: a list that they name.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>

#include "base/error.h"
#include "check/checks.h"
#include "core/cli_fixture.h"
#include "picture/quick_picture.h"
#include "shot/assign.h"
#include "shot/compare.h"
#include "shot/describe.h"
#include "shot/edit.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"
#include "trace/traced_set.h"

using namespace pour;
using testing::HasSubstr;

namespace {

/// A bowl alone, with its material, and tea.
Shot bowl() {
  Shot s = find_recipe("tea-into-a-bowl").make();
  std::erase_if(s.pieces, [](const Piece& p) { return p.id == "bottle"; });
  std::erase_if(s.materials, [](const Material& m) { return m.id == "glaze"; });
  return s;
}

LiquidPoints drop_of_points() {
  LiquidPoints p;
  p.cell_size = 0.004;
  for (int i = 0; i < 1000; ++i) {
    p.place.push_back(Vec3f{float(i % 10), float(i / 10 % 10) + 50, float(i / 100)} * 0.002f);
    p.velocity.emplace_back(), p.age.push_back(0), p.color.push_back({0.4f, 0.2f, 0.1f});
    p.liquid.push_back(0), p.id.push_back(uint32_t(i));
  }
  return p;
}

/// The bowl as a traced picture has it.
TracedBody traced_bowl(const Shot& s) { return traced_set(s, 1, {}, {}).bodies.at(0); }

}  // namespace

TEST(Materials, OfAKindBeginWithItsUsualFigures) {
  EXPECT_EQ(Material(), new_material(Material().kind)) << "so does one that says nothing";
  Shot s = bowl();
  assign(s, "pieces.bowl.material=chrome");
  ASSERT_EQ(s.materials.size(), 2u);
  const Material& m = s.materials[1];
  EXPECT_EQ(m.name, "Chrome");
  EXPECT_EQ(s.piece("bowl")->material.id, m.id);
  EXPECT_EQ(m.color, named_materials()[size_t(NamedMaterial::chrome)].color);
  EXPECT_EQ(traced_bowl(s).substance, Substance::metal);
  assign(s, "materials.chrome.kind=porcelain");
  EXPECT_EQ(s.materials[1].roughness, named_materials()[size_t(NamedMaterial::porcelain)].roughness);
  EXPECT_EQ(traced_bowl(s).substance, Substance::coated);
}

TEST(Materials, AreSharedByAllThatNameThem) {
  Shot s = bowl();
  s.pieces.push_back(s.pieces[0]);
  s.pieces.back().id = "other";
  assign(s, "pieces.other.material=stoneware");
  assign(s, "materials.stoneware.color=#ff0000");
  assign(s, "materials.stoneware.bump_height=1 mm");
  const auto bodies = traced_set(s, 1, {}, {}).bodies;
  for (const size_t i : {0u, 1u}) {
    EXPECT_EQ(bodies.at(i).color, (Vec3f{1, 0, 0})) << i;
    EXPECT_FLOAT_EQ(bodies.at(i).relief, 0.001f) << i;
  }
  EXPECT_EQ(color_of(s, s.pieces[0]), (Vec3f{1, 0, 0})) << "quick pictures have it too";
  remove_item(s, "materials.stoneware");
  for (const Piece& p : s.pieces) EXPECT_TRUE(p.material.id.empty()) << p.id << " is as the look says";
  EXPECT_EQ(color_of(s, s.pieces[0]), std::nullopt);
}

// A liquid may look like any material; what it is made of stays, so none of it wants a new run.
TEST(Materials, ALiquidLooksLikeOneThatItNames) {
  const Shot before = bowl();
  Shot s = before;
  LiquidPoints drop = drop_of_points();
  const auto seen = [&] { return traced_set(s, 1, drop, {}).bodies.back(); };
  EXPECT_EQ(seen().substance, Substance::glass) << "tea is clear";
  assign(s, "fluids.tea.material=chrome");
  EXPECT_TRUE(same_simulation(before, s));
  const Color chrome = named_materials()[size_t(NamedMaterial::chrome)].color;
  const Vec3f color{float(chrome.r), float(chrome.g), float(chrome.b)};
  const TracedBody metal = seen();
  EXPECT_EQ(metal.substance, Substance::metal);
  EXPECT_FLOAT_EQ(metal.roughness, 0.08f);
  for (const Vec3f& c : metal.surface->colors) EXPECT_EQ(c, color);
  color_by_materials(colors_of_materials(s), drop);
  EXPECT_EQ(drop.color[0], color) << "quick pictures have it too";
  EXPECT_FALSE(is_see_through(s, *s.fluids[0].as<Liquid>())) << "no bubbles are seen in metal";

  assign(s, "fluids.tea.color_by=speed");
  assign(s, "fluids.tea.second_color=#00ff00");
  for (Vec3f& v : drop.velocity) v = {10, 0, 0};
  const TracedBody fast = seen();
  for (const Vec3f& c : fast.surface->colors) EXPECT_NEAR(length(c - Vec3f{0, 1, 0}), 0, 1e-4);

  assign(s, "fluids.tea.color_by=itself");
  assign(s, "fluids.tea.material=glass");
  assign(s, "materials.glass.index=2.4");
  assign(s, "materials.glass.color=#bcbcbc");
  const TracedBody glass = seen();
  EXPECT_FLOAT_EQ(glass.index, 2.4f);
  // Half of it is left behind 5 cm (Beer and Lambert); #bc is 0.5026 of IEC 61966-2-1.
  EXPECT_NEAR(glass.absorption.x, -std::log(0.5026) / 0.05, 0.1);
  EXPECT_TRUE(is_see_through(s, *s.fluids[0].as<Liquid>()));
  remove_item(s, "materials.glass");
  EXPECT_TRUE(s.fluids[0].as<Liquid>()->material.id.empty());
  EXPECT_FLOAT_EQ(seen().index, 1.334f);
}

TEST(Materials, AnotherOfAKindIsAskedForByName) {
  Shot s = bowl();
  assign(s, "pieces.bowl.material=new stoneware");
  ASSERT_EQ(s.materials.size(), 2u);
  EXPECT_EQ(s.materials[1].name, "Stoneware 2");
  EXPECT_EQ(s.piece("bowl")->material.id, s.materials[1].id);
  try {
    assign(s, "pieces.bowl.material=porcelan");
    FAIL();
  } catch (const Fault& f) {
    EXPECT_THAT(f.what(), HasSubstr("Did you mean “porcelain”?"));
  }
}

// Materials are of the look: a run is seen in those that the shot has now, and none of them wants a new run.
TEST(Materials, OfARunAreThoseOfTheShotNow) {
  const Shot run = bowl();
  Shot now = run;
  assign(now, "pieces.bowl.material=chrome");
  assign(now, "materials.chrome.roughness=20%");
  EXPECT_TRUE(same_simulation(run, now));
  const Shot seen = seen_as(run, now);
  EXPECT_EQ(seen.materials, now.materials);
  EXPECT_EQ(traced_bowl(seen).substance, Substance::metal);
  EXPECT_FLOAT_EQ(traced_bowl(seen).roughness, 0.2f);
}

TEST(Materials, OneThatIsGoneIsToldOfAndMended) {
  Shot s = bowl();
  s.pieces[0].material.id = s.fluids[0].as<Liquid>()->material.id = "gold";
  int told = 0;
  for (const Check& c : check_shot(s, testing::TempDir()))
    if (c.title.find("has a missing material") != std::string::npos) c.fix(s), ++told;
  EXPECT_EQ(told, 2);
  EXPECT_TRUE(s.pieces[0].material.id.empty());
  EXPECT_TRUE(s.fluids[0].as<Liquid>()->material.id.empty());
}

TEST(Materials, FilesOfVersion5NameThemFromNowOn) {
  const std::string old = R"({"easy_pour": 5, "look": {"solid": [0.1, 0.2, 0.3]}, "pieces": [
    {"id": "a", "name": "Cup", "kind": "ball", "holds": false, "material": "porcelain",
     "color": [0.9, 0.8, 0.7], "roughness": 0.2},
    {"id": "b", "name": "Saucer", "kind": "ball", "holds": false, "material": "porcelain",
     "color": [0.9, 0.8, 0.7], "roughness": 0.2},
    {"id": "c", "name": "Spoon", "kind": "ball", "holds": false, "material": "chrome",
     "color": [0.5, 0.5, 0.5], "roughness": 0.1,
     "tracks": {"roughness": {"keys": [{"frame": 1, "value": 0.1}, {"frame": 24, "value": 0.4}]}}},
    {"id": "d", "name": "Cloth", "kind": "ball", "holds": false, "material": "as_look",
     "color": [1, 1, 1], "roughness": 0.45},
    {"id": "e", "name": "Tray", "kind": "ball", "holds": false, "material": "as_look",
     "color": [1, 1, 1], "roughness": 0.1}],
    "fluids": [{"id": "smoke", "name": "Smoke", "kind": "smoke"}],
    "pours": [{"id": "pour", "name": "Pour", "fluid": "smoke", "inherit": 1.0}]})";
  const Shot s = shot_from_json(old, "old.pour");
  ASSERT_EQ(s.materials.size(), 3u);
  EXPECT_EQ(s.piece("a")->material, s.piece("b")->material) << "alike, so they share it";
  const Material *cup = s.material(s.piece("a")->material.id), *spoon = s.material(s.piece("c")->material.id),
                 *tray = s.material(s.piece("e")->material.id);
  ASSERT_TRUE(cup && spoon && tray);
  EXPECT_EQ(cup->name, "Cup");
  EXPECT_EQ(cup->kind, NamedMaterial::porcelain);
  EXPECT_EQ(cup->color, (Color{0.9, 0.8, 0.7}));
  EXPECT_DOUBLE_EQ(cup->roughness, 0.2);
  EXPECT_TRUE(spoon->tracks.contains("roughness"));
  EXPECT_TRUE(s.piece("c")->tracks.empty());
  EXPECT_TRUE(s.piece("d")->material.id.empty());
  EXPECT_EQ(tray->color, (Color{0.1, 0.2, 0.3})) << "it was in the look's colour, but smoother";
  EXPECT_DOUBLE_EQ(tray->roughness, 0.1);
  EXPECT_EQ(s.pour("pour")->inherit, 0) << "smoke took nothing along before";
  EXPECT_EQ(shot_from_json(shot_to_json(s), "new.pour"), s);
}

// The mean height of what is lit from the side does not change, but it is no longer even.
TEST(Materials, ReliefTurnsNormalsAndKeepsTheOutline) {
  Shot s = bowl();
  s.pieces.resize(1);
  s.pieces[0].shape = Block{{0.2, 0.2, 0.02}}, s.pieces[0].position = {0, 0.1, 0};
  s.look.floor = false, s.camera = {}, s.camera.target = {0, 0.1, 0}, s.camera.distance = 1;
  const auto normals = [&] {
    PathTracer tracer(traced_set(s, 1, {}, {}), 64, 64);
    return tracer.data();
  };
  const DataPasses even = normals();
  assign(s, "materials.stoneware.bump_height=0.5 mm");
  assign(s, "materials.stoneware.bump_size=4 mm");
  const DataPasses rough = normals();
  EXPECT_EQ(even.depth, rough.depth);
  double tilt = 0, count = 0;
  Vec3f mean;
  for (size_t i = 0; i < even.normal.size(); ++i)
    if (even.depth[i] > 0) {
      EXPECT_NEAR(length(rough.normal[i]), 1, 1e-3);
      tilt += std::acos(std::min(1.0, double(dot(even.normal[i], rough.normal[i])))), ++count;
      mean += rough.normal[i];
    }
  ASSERT_GT(count, 200);
  EXPECT_GT(tilt / count, 0.03);
  EXPECT_LT(tilt / count, 0.4);
  EXPECT_GT(mean.z / float(count), 0.9);
  EXPECT_NEAR(mean.x / float(count), 0, 0.05);
}

TEST_F(Cli, MaterialsAreAddedNamedAndAimedFromTheCommandLine) {
  ASSERT_EQ(cli("new tea-into-a-bowl --out t.pour").code, 0);
  Result r = cli("add t.pour chrome --name Mirror roughness=20%");
  EXPECT_THAT(r.out, HasSubstr("Added materials.mirror"));
  r = cli("set t.pour pieces.bowl.material=mirror materials.mirror.bump_height=0.2mm");
  ASSERT_EQ(r.code, 0) << r.out;
  EXPECT_THAT(cli("show t.pour").out, HasSubstr("pieces.bowl.material = mirror"));
  EXPECT_THAT(cli("kinds").out, HasSubstr("Material: frosted glass"));
  r = cli("aim t.pour tea '2 cm, 3 cm, 0 cm'");
  ASSERT_EQ(r.code, 0) << r.out;
  EXPECT_EQ(load_shot(folder / "t.pour").pours[0].direction, Direction::own);
  EXPECT_EQ(cli("aim t.pour nothing '2 cm, 3 cm, 0 cm'").code, 1);
  ASSERT_EQ(cli("remove t.pour materials.mirror").code, 0);
  EXPECT_TRUE(load_shot(folder / "t.pour").piece("bowl")->material.id.empty());
}
