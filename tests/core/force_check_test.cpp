// Checks of forces: each says what is wrong, and its fix mends it.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "check/checks.h"
#include "shot/assign.h"
#include "shot/edit.h"
#include "shot/recipes.h"

namespace pour {
namespace {

/// A draft of smoke with one more force.
template <class Kind>
Shot with(const Kind& kind, const std::vector<std::string>& settings) {
  Shot s = find_recipe("fill-a-word").make();
  const std::string path = add_new_force(s, int(ForceKind(kind).index()), "Push");
  s.forces.back().what = kind;
  for (const std::string& setting : settings) assign(s, path + "." + setting);
  return s;
}

/// The check whose title begins so, if there is one.
const Check* find(const std::vector<Check>& all, const std::string& title) {
  for (const Check& c : all)
    if (c.title.starts_with(title)) return &c;
  return nullptr;
}

}  // namespace

TEST(ForceChecks, SayWhatIsWrongAndMendIt) {
  const std::vector<std::pair<Shot, std::string>> bad{
      {with(Drag(), {"acts_on=nothing"}), "Push acts on no fluid"},
      {with(Drag(), {"always=no", "windows=900s-901s"}), "Push never acts"},
      {with(Wind{.direction = {}}, {}), "Push has no direction"},
      {with(Pull{.to = PullTo::line, .direction = {}}, {}), "Push has no direction"},
      {with(Drag(), {"reach=ball", "reach_position=90 m, 0 m, 0 m"}), "Push does not reach the fluid"},
      {with(Drag(), {"depends_on=age"}), "Push depends on what is not there"},
      {with(Drag(), {"depends_on=distance"}), "Push depends on what is not there"},
      {with(Drag(), {"reach=piece"}), "Push has no piece"},
      {with(Pull{.to = PullTo::surface}, {}), "Push has no piece"},
      {with(Wind{.speed = 1000}, {}), "Push is too strong"},
      {with(Pull{.strength = 10000, .by = PullBy::fades, .distance = 1, .softening = 1e-4}, {}),
       "Push is too strong"},
      {with(Gather(), {}), "Push has no piece"},
      {with(Current{.copies = 2, .direction = {}}, {}), "Push has no direction"},
      {with(Current{.speed = 1000}, {}), "Push is too strong"}};
  for (auto [shot, title] : bad) {
    const std::vector<Check> all = check_shot(shot, ".");
    const Check* found = find(all, title);
    ASSERT_TRUE(found) << title;
    found->fix(shot);
    EXPECT_FALSE(find(check_shot(shot, "."), title)) << title << " is mended";
  }
}

// Liquid that is gathered has to fit its target: in volume, and in cells across its strokes.
TEST(ForceChecks, SayWhatDoesNotFitATarget) {
  const auto gathers = [](std::initializer_list<std::string> settings) {
    Shot s = find_recipe("a-word-into-a-mark").make();
    for (const std::string& setting : settings) assign(s, setting);
    return s;
  };
  const std::vector<std::pair<Shot, std::string>> bad{
      {gathers({"pieces.tea.scale=140 %"}), "Into tea has too little liquid"},
      {gathers({"pieces.tea.scale=80 %"}), "Into tea has too much liquid"},
      {gathers({"pieces.tea.blocks=yes"}), "Into tea gathers into a solid"},
      {gathers({"forces.into_tea.goes_to=by_hand", "forces.into_tea.bodies=1, 4"}),
       "Into tea sends liquid to a part that is not there"},
      {gathers({"forces.into_tea.goes_to=by_hand", "forces.into_tea.bodies=first"}),
       "Into tea sends liquid to a part that is not there"},
      {gathers({"run.cell_size=4 mm"}), "Into tea gathers into thin strokes"}};
  for (auto [shot, title] : bad) {
    const std::vector<Check> all = check_shot(shot, ".");
    const Check* found = find(all, title);
    ASSERT_TRUE(found) << title;
    found->fix(shot);
    EXPECT_FALSE(find(check_shot(shot, "."), title)) << title << " is mended";
  }
  const std::vector<Check> usual = check_shot(gathers({}), ".");
  for (const char* title :
       {"Into tea has too", "Into the lark has too", "Stay has too", "Into tea gathers into a solid"})
    EXPECT_FALSE(find(usual, title)) << title;
}

// Without gravity wind still moves smoke; drag does not.
TEST(ForceChecks, KnowWhatMovesSmoke) {
  for (const bool blows : {false, true}) {
    Shot s = blows ? with(Wind(), {}) : with(Drag(), {});
    remove_item(s, "forces.gravity"), remove_item(s, "forces.turbulence");
    for (Pour& p : s.pours) p.speed = 0, p.tracks.clear();
    EXPECT_EQ(find(check_shot(s, "."), "The smoke will not move") != nullptr, !blows);
  }
}

TEST(ForceChecks, AreQuietOfForcesAsTheyAreAdded) {
  for (int kind = 0; kind < int(force_kinds().size()); ++kind) {
    Shot s = find_recipe("fill-a-word").make();
    add_new_force(s, kind, "Push");
    for (const Check& c : check_shot(s, ".")) EXPECT_FALSE(c.title.starts_with("Push")) << c.title;
  }
}

}  // namespace pour
