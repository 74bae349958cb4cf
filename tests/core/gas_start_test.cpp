// Smoke that goes on from frames of earlier runs.
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <unistd.h>

#include "base/error.h"
#include "run/run_folder.h"
#include "run/simulate.h"
#include "run/start.h"
#include "shot/clock.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"

using namespace pour;
using testing::HasSubstr;
namespace fs = std::filesystem;

namespace {

class GasStart : public testing::Test {
 protected:
  fs::path folder = fs::path(testing::TempDir()) / ("gas_start" + std::to_string(getpid()));
  void SetUp() override { fs::create_directories(folder); }
  void TearDown() override { fs::remove_all(folder); }

  pour::Run run_to(const Shot& shot, int last, const RunStart& start = {}) {
    save_shot(shot, folder / "shot.pour");
    pour::Run run = create_run(folder / "shot.pour", shot);
    run.last_frame = last, run.start = start;
    if (!start.run.empty()) check_start(run);
    simulate(run, {});
    return run;
  }
};

Shot word(const char* text) {
  Shot s = find_recipe("fill-a-word").make();
  std::get<Lettering>(s.pieces[0].shape).text = text;
  s.run.detail = Detail::custom, s.run.cell_size = 0.005;
  return s;
}

}  // namespace

TEST_F(GasStart, IsTheSameToTheBitWhereARunEnded) {
  Shot s = word("O");
  s.film.frames = 6;
  run_to(s, 3);
  const pour::Run whole = run_to(s, 6), more = run_to(s, 6, {"001", 3});
  for (int f = 1; f <= 6; ++f) EXPECT_EQ(more.record(f)->id, whole.record(f)->id) << f;
  std::get<Lettering>(s.pieces[0].shape).text = "OI";
  try {
    run_to(s, 6, {"001", 3});
    FAIL();
  } catch (const Fault& f) {
    EXPECT_THAT(f.what(), HasSubstr("other bounds or letters"));
  }
}

// A frame holds smoke to half floats (a 2048th) and the air where there is smoke; what is lost shows little.
TEST_F(GasStart, IsNearlyTheSameFromAnyFrame) {
  for (const char* recipe : {"rising-smoke", "fill-a-word", "letters-fly-in"}) {
    SCOPED_TRACE(recipe);
    Shot s = find_recipe(recipe).make();
    if (std::string(recipe) == "fill-a-word") s = word("O");
    s.run.detail = Detail::custom, s.run.cell_size = 0.007, s.film.frames = 24;
    const pour::Run first = run_to(s, 24);
    const pour::Run more = run_to(s, 24, {first.name(), 12});
    const FlowRecord &a = first.record(24)->flow("smoke"), &b = more.record(24)->flow("smoke");
    EXPECT_NE(first.record(24)->id, more.record(24)->id) << "there was no checkpoint to go on from";
    ASSERT_GT(a.ledger.in_shot, 0);
    EXPECT_NEAR(b.ledger.in_shot, a.ledger.in_shot, 0.005 * a.ledger.in_shot);
    EXPECT_NEAR(b.ledger.poured, a.ledger.poured, 1e-3 * a.ledger.poured);
    EXPECT_LT(length(a.centroid - b.centroid), 0.25 * s.run.cell_size);
    EXPECT_NEAR(b.kinetic_energy, a.kinetic_energy, 0.05 * a.kinetic_energy);
    const Ledger& l = b.ledger;
    EXPECT_NEAR(l.in_shot, l.poured - l.left - l.drained - l.decayed + l.numeric, 1e-3 * l.in_shot);
  }
}

TEST_F(GasStart, LettersThatMovedCannotStandFromThereOn) {
  Shot s = find_recipe("letters-fly-in").make();
  s.run.detail = Detail::custom, s.run.cell_size = 0.007, s.film.frames = 6;
  const pour::Run first = run_to(s, 6);
  for (Piece& p : s.pieces) p.tracks.clear(), p.path.id.clear();
  try {
    run_to(s, 6, {first.name(), 3});
    FAIL();
  } catch (const Fault& f) {
    EXPECT_EQ(f.blame, Blame::shot) << f.what();
  }
}

TEST_F(GasStart, PoursCanBeStoppedAndMoved) {
  Shot s = word("O");
  s.film.frames = 12;
  const pour::Run first = run_to(s, 12);
  s.pours[0].windows = windows_at(s, {{1, 4}});
  const pour::Run still = run_to(s, 12, {"001", 6});
  EXPECT_NEAR(still.record(12)->flow("smoke").ledger.poured, first.record(6)->flow("smoke").ledger.poured,
              1e-9);
}
