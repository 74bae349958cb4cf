// Liquid from the shot to its frames: what the settings say, runs on disk, and what the command line makes of
// it.
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <openvdb/io/File.h>
#include <openvdb/points/PointCount.h>
#include <unistd.h>

#include <map>
#include <random>

#include "base/error.h"
#include "base/parallel.h"
#include "check/checks.h"
#include "core/cli_fixture.h"
#include "core/tank.h"
#include "deliver/skins.h"
#include "frames/liquid_frame.h"
#include "frames/smoke_frame.h"
#include "liquid/liquid.h"
#include "run/arc.h"
#include "run/flow.h"
#include "run/run_folder.h"
#include "run/simulate.h"
#include "run/space.h"
#include "run/staging.h"
#include "run/start.h"
#include "shape/model_file.h"
#include "shot/assign.h"
#include "shot/clock.h"
#include "shot/describe.h"
#include "shot/edit.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"
#include "surface/sheets.h"
#include "surface/skin.h"
#include "surface/skin_file.h"
#include "trace/kept_skins.h"
#include "trace/traced_set.h"

using namespace pour;
using testing::HasSubstr;

namespace {

Shot tea() {
  Shot s = find_recipe("tea-into-a-bowl").make();
  s.run.detail = Detail::custom, s.run.cell_size = 0.007, s.film.frames = 12;
  return s;
}

class LiquidShot : public testing::Test {
 protected:
  fs::path folder = fs::path(testing::TempDir()) / ("liquid" + std::to_string(getpid()));
  void SetUp() override {
    fs::remove_all(folder);
    fs::create_directories(folder);
    save_shot(tea(), folder / "tea.pour");
  }
  void TearDown() override { fs::remove_all(folder); }
  pour::Run make() { return create_run(folder / "tea.pour", tea()); }
};

}  // namespace

// Water at 20 °C: 998.2 kg/m³, 1.002 mPa s, 72.75 mN/m; at 60 °C 0.467 mPa s; glycerine 1.412 Pa s at 20 °C
// (CRC Handbook of Chemistry and Physics, from memory).
TEST(NamedLiquids, AreWhatHandbooksSay) {
  Liquid f;
  EXPECT_NEAR(matter_of(f).density, 998.2, 0.1);
  EXPECT_NEAR(matter_of(f).viscosity, 1.002e-3, 0.02 * 1.002e-3);
  EXPECT_NEAR(named_liquids()[0].matter.tension, 0.0728, 1e-4);
  f.temperature = 60;
  EXPECT_NEAR(matter_of(f).viscosity, 0.467e-3, 0.02 * 0.467e-3);
  f.named = NamedLiquid::glycerine, f.temperature = 20;
  EXPECT_NEAR(matter_of(f).viscosity, 1.412, 0.02);
  EXPECT_EQ(named_liquids().size(), size_t(NamedLiquid::own) + 1);
  for (const LiquidName& l : named_liquids()) EXPECT_NE(std::string(l.source), "") << l.option.key;
}

TEST(NamedLiquids, BringTheirColourAndBecomeOnesOwn) {
  Shot s = tea();
  assign(s, "fluids.tea.liquid=honey");
  EXPECT_EQ(s.fluids[0].color(), named_liquids()[size_t(NamedLiquid::honey)].color);
  for (const Group& g : describe(s))
    if (g.list == "fluids") {
      EXPECT_THAT(g.sentence, HasSubstr("as thick as honey"));
    }
  assign(s, "fluids.tea.liquid=own");
  EXPECT_EQ(s.fluids[0].as<Liquid>()->own.viscosity, 10) << "it begins as what it was before";
  assign(s, "fluids.tea.viscosity=5 Pa·s");
  EXPECT_EQ(matter_of(*s.fluids[0].as<Liquid>()).viscosity, 5);
  EXPECT_EQ(shot_from_json(shot_to_json(s), "a"), s);
}

TEST(NamedLiquids, SettingsThatMatterToSmokeAloneAreGone) {
  const Shot s = tea();
  EXPECT_FALSE(find_setting(s, "pours.tea.warmth").applies);
  EXPECT_TRUE(find_setting(s, "pours.tea.rate").applies);
  EXPECT_FALSE(find_setting(s, "gas.heat_lift").applies);
  EXPECT_FALSE(find_setting(s, "forces.turbulence.speed").applies);
  EXPECT_FALSE(find_setting(find_recipe("fill-a-word").make(), "pours.mint.rate").applies);
}

TEST_F(LiquidShot, RunsToFramesThatAnybodyReads) {
  pour::Run run = make();
  simulate(run, {});
  ASSERT_EQ(run.frames.size(), 12u);
  const FlowRecord& last = run.frames.back().flow("liquid");
  // Rate times time, within 2 % and a particle.
  const double expected = 1e-4 * 11 / 24;
  EXPECT_NEAR(last.ledger.poured, expected, 0.02 * expected);
  EXPECT_NEAR(last.ledger.gap(), 0, 1e-12);
  EXPECT_TRUE(run.frames.back().smoke().name.empty()) << "no smoke is computed where none is poured";
  openvdb::initialize();
  openvdb::io::File in(run.frame_file(12).string());
  in.open();
  const auto grid = openvdb::gridPtrCast<openvdb::points::PointDataGrid>(in.readGrid("liquid"));
  ASSERT_TRUE(grid);
  EXPECT_EQ(double(openvdb::points::pointCount(grid->tree())), last.particles);
  const auto& names = grid->tree().cbeginLeaf()->attributeSet().descriptor().map();
  for (const char* name : {"P", "velocity", "age", "id", "color", "liquid"})
    EXPECT_TRUE(names.count(name)) << name;
  const LiquidPoints points = read_liquid(run.stored_frame(12));
  Box box;
  for (const Vec3f& p : points.place) box.add(to<double>(p));
  EXPECT_GT(box.high.y, 0.18) << "the mouth is at 20 cm";
  EXPECT_LT(box.low.y, 0.1) << "it has fallen";
  EXPECT_TRUE(read_frame(run.stored_frame(12)).empty());
}

TEST_F(LiquidShot, StoppedAndResumedIsTheSameToTheBit) {
  pour::Run whole = make(), again = make();
  simulate(whole, {});
  int frames = 0;
  SimulateOptions stopping;
  stopping.stop = [&] { return frames >= 6; };
  stopping.on_frame = [&](const Progress& p) { frames = p.frame; };
  simulate(again, stopping);
  ASSERT_EQ(again.state, RunState::stopped);
  again = load_run(again.folder);
  simulate(again, {.resume = true});
  for (int f = 1; f <= 12; ++f)
    EXPECT_EQ(read_whole(whole.frame_file(f)), read_whole(again.frame_file(f))) << f;
}

// A ball of points has a skin of about its volume: 4/3 π r³.
TEST_F(LiquidShot, GoesOnFromAFrameOfAnEarlierRun) {
  pour::Run first = make();
  first.last_frame = 8;
  simulate(first, {});
  pour::Run whole = make();
  simulate(whole, {});
  const FlowRecord& of_whole = whole.record(12)->flow("liquid");

  // From the checkpoint that the first one ended with, and an unchanged shot: to the bit.
  pour::Run exact = make();
  exact.start = {"001", 8};
  check_start(exact);
  simulate(exact, {});
  EXPECT_EQ(exact.frames.size(), 12u);
  for (int f = 1; f <= 12; ++f) EXPECT_EQ(exact.record(f)->id, whole.record(f)->id) << f;

  // From a frame's file alone: the slopes of the velocity are found anew, the rest is what it was.
  pour::Run near = make();
  near.start = {"001", 6};
  simulate(near, {});
  const FlowRecord& of_near = near.record(12)->flow("liquid");
  EXPECT_NEAR(of_near.ledger.poured, of_whole.ledger.poured, 1e-3 * of_whole.ledger.poured);
  EXPECT_LT(length(of_near.centroid - of_whole.centroid), 0.5 * 0.007) << "half a cell after six frames";
  EXPECT_EQ(load_run(near.folder).start.frame, 6) << "it is kept for when it is resumed";

  // The same with its pour stopped: nothing more comes.
  Shot stopped = tea();
  stopped.pours[0].windows = windows_at(stopped, {{1, 6}});
  pour::Run still = create_run(folder / "tea.pour", stopped);
  still.start = {"001", 8};
  simulate(still, {});
  EXPECT_DOUBLE_EQ(still.record(12)->flow("liquid").ledger.poured,
                   first.record(8)->flow("liquid").ledger.poured);
}

TEST_F(LiquidShot, AStartThatDoesNotFitIsRefused) {
  pour::Run first = make();
  first.last_frame = 3;
  simulate(first, {});
  const auto refusal = [&](Shot shot, int frame) -> std::string {
    pour::Run run = create_run(folder / "tea.pour", shot);
    run.start = {"001", frame};
    try {
      check_start(run);
    } catch (const Fault& f) {
      return f.what();
    }
    return "nothing";
  };
  EXPECT_EQ(refusal(tea(), 3), "nothing");
  EXPECT_THAT(refusal(tea(), 9), HasSubstr("is not there. Choose a frame that it has; its last one is 3."));
  Shot other = tea();
  other.run.cell_size = 0.008;
  EXPECT_THAT(refusal(other, 3), HasSubstr("has cells of 7 mm, this shot has 8 mm."));
  other = tea(), other.film.frame_rate = 25;
  EXPECT_THAT(refusal(other, 3), HasSubstr("is at another time"));
  other = tea(), other.fluids.insert(other.fluids.begin(), Fluid{.id = "smoke", .name = "Smoke"});
  EXPECT_EQ(refusal(other, 3), "nothing") << "the tea is there still, in another place";
  other = tea(), other.fluids[0].id = other.pours[0].fluid.id = "coffee";
  EXPECT_THAT(refusal(other, 3), HasSubstr("Keep the fluids of that run"));
}

TEST_F(LiquidShot, DrainsAndAgeTakeLiquidAwayByTheBook) {
  Shot s = tea();
  Piece drain;
  drain.id = "drain", drain.name = "Drain", drain.holds = drain.shows = false, drain.drains = true;
  drain.shape = Block{{0.2, 0.02, 0.2}}, drain.position = {0, 0.15, 0};
  s.pieces.push_back(drain);
  pour::Run run = create_run(folder / "tea.pour", s);
  simulate(run, {});
  const Ledger drained = run.record(12)->flow("liquid").ledger;
  EXPECT_GT(drained.drained, 0.3 * drained.poured) << "all that came down to it";
  EXPECT_NEAR(drained.poured, drained.drained + drained.in_shot - drained.numeric, 1e-12);
  EXPECT_LT(std::abs(drained.numeric), 0.02 * drained.poured);

  s = tea(), s.fluids[0].as<Liquid>()->longest_life = 0.125;  // three frames
  run = create_run(folder / "tea.pour", s);
  simulate(run, {});
  const Ledger aged = run.record(12)->flow("liquid").ledger;
  const double each = aged.poured / 12;  // it pours all the time
  EXPECT_NEAR(aged.decayed, 9 * each, 1.1 * each);
}

TEST_F(LiquidShot, TheSkinIsAsLargeAsTheLiquid) {
  LiquidPoints p;
  p.cell_size = 0.004;
  const double r = 0.03, step = p.cell_size / 2;
  for (double z = -r; z < r; z += step)
    for (double y = -r; y < r; y += step)
      for (double x = -r; x < r; x += step)
        if (x * x + y * y + z * z < r * r) p.place.push_back({float(x), float(y), float(z)});
  p.color.assign(p.place.size(), {0.2f, 0.4f, 0.6f}), p.velocity.assign(p.place.size(), {1, 2, 3});
  const double volume = 4.0 / 3 * 3.14159265 * r * r * r;
  SkinSettings more;
  more.smoothing = 3 * p.cell_size;
  EXPECT_NEAR(skin_of(p, p.color, more).mesh.volume(), skin_of(p, p.color).mesh.volume(), 0.01 * volume)
      << "smoothing keeps its volume";
  more = {}, more.grow = 0.002;
  EXPECT_NEAR(std::cbrt(skin_of(p, p.color, more).mesh.volume() / volume), (r + 0.002) / r, 0.03);
  more = {}, more.flat = 0.0002;
  const Skin fewer = skin_of(p, p.color, more);
  EXPECT_LT(fewer.mesh.triangles.size(), skin_of(p, p.color).mesh.triangles.size() / 2);
  EXPECT_NEAR(fewer.mesh.volume(), volume, 0.03 * volume);
  EXPECT_EQ(fewer.colors.size(), fewer.mesh.points.size());
  more = {}, more.smallest = 2.2 * r;
  EXPECT_TRUE(skin_of(p, p.color, more).mesh.triangles.empty());
  const Skin skin = skin_of(p, p.color, {}, true);
  EXPECT_NEAR(skin.mesh.volume(), volume, 0.03 * volume);
  ASSERT_EQ(skin.velocity.size(), skin.mesh.points.size());
  for (const Vec3f& v : skin.velocity) ASSERT_NEAR(v.z, 3, 1e-3f);
  for (size_t i = 0; i < p.place.size(); ++i) {  // known within a cell under the skin
    const float deep = float(r) - length(p.place[i]);
    if (deep > 0.001f && deep < 0.004f) {
      ASSERT_NEAR(skin.depth[i], deep, 0.0015f);
    }
  }
  ASSERT_EQ(skin.colors.size(), skin.mesh.points.size());
  for (const Vec3f& c : skin.colors) ASSERT_NEAR(c.y, 0.4f, 1e-3f);
}

/// Eight points to a cell in a box about the origin, each anywhere in its eighth.
LiquidPoints boxful(double x, double y, double z, double cell) {
  LiquidPoints p;
  p.cell_size = cell;
  const double step = cell / 2;
  uint32_t seed = 7;
  const auto in = [&](double from) {
    seed = seed * 1664525u + 1013904223u;
    return float(from + step * double(seed >> 8) / (1 << 24));
  };
  for (double c = -z / 2; c < z / 2 - step / 2; c += step)
    for (double b = -y / 2; b < y / 2 - step / 2; b += step)
      for (double a = -x / 2; a < x / 2 - step / 2; a += step) p.place.push_back({in(a), in(b), in(c)});
  p.color.assign(p.place.size(), {1, 1, 1}), p.velocity.assign(p.place.size(), {0, 0, 0});
  return p;
}

/// How many sides of a mesh an upright line meets.
int sides_met(const Mesh& mesh, double x, double z) {
  int met = 0;
  for (const auto& t : mesh.triangles) {
    double turn[3];
    for (size_t k = 0; k < 3; ++k) {
      const Vec3f &a = mesh.points[size_t(t[k])], &b = mesh.points[size_t(t[(k + 1) % 3])];
      turn[k] = (double(a.x) - x) * (double(b.z) - z) - (double(a.z) - z) * (double(b.x) - x);
    }
    met += (turn[0] > 0 && turn[1] > 0 && turn[2] > 0) || (turn[0] < 0 && turn[1] < 0 && turn[2] < 0);
  }
  return met;
}

TEST_F(LiquidShot, TheSkinOfASheetHasNoHolesAndThatOfABulkNoCavities) {
  const double h = 0.004;
  // Half a cell thick: a line through it anywhere but near its edge meets two sides.
  const LiquidPoints sheet = boxful(16 * h, h / 2, 16 * h, h);
  const Mesh mesh = skin_of(sheet, sheet.color).mesh;
  EXPECT_NEAR(mesh.area(), 2 * 16 * h * 16 * h, 0.15 * 2 * 16 * h * 16 * h);
  for (int i = 0; i < 100; ++i) {
    const double x = (i % 10 - 4.5) * h, z = (i / 10 - 4.5) * h;
    ASSERT_EQ(sides_met(mesh, x, z), 2) << "at " << x << ", " << z;
  }
  const LiquidPoints bulk = boxful(10 * h, 10 * h, 10 * h, h);
  const Mesh closed = skin_of(bulk, bulk.color).mesh;
  EXPECT_NEAR(closed.volume(), 1000 * h * h * h, 0.03 * 1000 * h * h * h);
  for (const Vec3f& p : closed.points)
    ASSERT_GT(std::max({std::abs(p.x), std::abs(p.y), std::abs(p.z)}), 3.5f * float(h));
}

/// About so many points to a side, each up to a fifth of the way to the next beside its place.
LiquidPoints stretched(const Vec3i& count, double apart, double cell) {
  std::mt19937 random(3);
  std::uniform_real_distribution<double> off(-0.2, 0.2);
  LiquidPoints p;
  p.cell_size = cell;
  for (int z = 0; z < count.z; ++z)
    for (int y = 0; y < count.y; ++y)
      for (int x = 0; x < count.x; ++x) {
        Vec3d at{x - 0.5 * (count.x - 1), y - 0.5 * (count.y - 1), z - 0.5 * (count.z - 1)};
        for (int a = 0; a < 3; ++a) at[a] = (at[a] + (count[a] > 1 ? 1 : 0.3) * off(random)) * apart;
        p.place.push_back(to<float>(at)), p.velocity.push_back({float(x), 0, 0});
      }
  const size_t n = p.place.size();
  p.color.assign(n, {1, 1, 1}), p.age.assign(n, 1), p.liquid.assign(n, 0), p.id.assign(n, 7);
  return p;
}

// Ando & Tsuruno 2011: sheets and threads are kept where particles are too few for them; spray is spray.
TEST_F(LiquidShot, GapsInThinSheetsAndThreadsAreClosedAndSprayStaysAsItIs) {
  const double h = 0.004;
  const LiquidPoints sheet = stretched({14, 1, 14}, 1.5 * h, h);
  LiquidPoints whole = sheet;
  close_sheets(whole, 2.5 * h);
  const Mesh torn = skin_of(sheet, sheet.color).mesh, mesh = skin_of(whole, whole.color).mesh;
  int holes_before = 0, holes = 0;
  for (int i = 0; i < 400; ++i) {
    const double x = (i % 20 - 9.5) * 0.7 * h, z = (i / 20 - 9.5) * 0.7 * h;
    holes_before += sides_met(torn, x, z) == 0, holes += sides_met(mesh, x, z) == 0;
  }
  EXPECT_GT(holes_before, 150);
  EXPECT_LT(holes, 4);
  for (const Vec3f& p : mesh.points) ASSERT_LT(std::abs(p.y), 1.2f * float(h)) << "it stays thin";
  for (size_t i = sheet.place.size(); i < whole.place.size(); ++i) {
    const double column = double(whole.place[i].x) / (1.5 * h) + 6.5;
    ASSERT_NEAR(whole.velocity[i].x, column, 0.6) << "it moves as what is around it";
  }
  LiquidPoints far = stretched({14, 1, 14}, 3.5 * h, h), thread = stretched({20, 1, 1}, 1.8 * h, h),
               spray = stretched({9, 9, 9}, 1.8 * h, h), off = sheet;
  close_sheets(far, 2.5 * h), close_sheets(thread, 2.5 * h), close_sheets(spray, 2.5 * h);
  close_sheets(off, 0.5 * h);
  EXPECT_EQ(far.place.size(), 196u) << "what is torn stays torn";
  EXPECT_GT(thread.place.size(), 50u);
  EXPECT_LT(spray.place.size(), 760u);
  EXPECT_EQ(off.place.size(), 196u);
  const ThreadLimit one(1);
  LiquidPoints single = sheet;
  close_sheets(single, 2.5 * h);
  EXPECT_EQ(single.place, whole.place);
}

TEST_F(LiquidShot, ADropOfOnePointIsABallWhereverItLies) {
  for (int i = 0; i < 20; ++i) {
    LiquidPoints p = boxful(0.001, 0.001, 0.001, 0.004);
    const Vec3f at{0.0001f * float(i), 0.00017f * float(i), 0.00007f * float(i)};
    p.place = {at}, p.color = {{1, 0, 0}}, p.velocity = {{0, 0, 0}};
    const Mesh mesh = skin_of(p, p.color).mesh;
    const double alone = 0.002 * 0.002 * 0.002;  // what one point stands for
    ASSERT_GT(mesh.volume(), 0.7 * alone);
    ASSERT_LT(mesh.volume(), 2 * alone);
    ASSERT_NEAR(mesh.area() / std::pow(mesh.volume(), 2.0 / 3), 4.84, 0.5) << "of a ball: (36 pi)^(1/3)";
  }
}

TEST_F(LiquidShot, TheSkinHasTheSameBitsAtAnyThreadCount) {
  const LiquidPoints p = boxful(0.03, 0.02, 0.04, 0.002);
  const Skin many = skin_of(p, p.color);
  const ThreadLimit one(1);
  const Skin single = skin_of(p, p.color);
  EXPECT_EQ(many.mesh.points, single.mesh.points);
  EXPECT_EQ(many.mesh.triangles, single.mesh.triangles);
}

// Files of skins are PLY (Turk 1994): Assimp, which knows nothing of us, reads the same triangles.
TEST_F(LiquidShot, SkinsAreKeptAndTakenWhileTheyAreCurrent) {
  Shot s = tea();
  s.film.frames = 3;
  pour::Run run = create_run(folder / "tea.pour", s);
  simulate(run, {});
  const StoredFrame stored = run.stored_frame(3);
  const auto picture = [&](const Shot& shot) {
    PathTracer tracer(traced_frame(stored, shot, 3, SmokeWalls(run.shot, run.cell_size)), 48, 27);
    tracer.add(2);
    return tracer.picture(false).rgb;
  };
  const auto before = picture(s);
  int told = 0;
  const SkinsMade part = make_skins(run, s, {1, 3}, [&](int, int of) { return ++told, of == 3 && told < 1; });
  EXPECT_FALSE(part.whole);
  EXPECT_EQ(part.made, 1) << "it was stopped, and what is done stays";
  const SkinsMade made = make_skins(run, s, {1, 3});
  EXPECT_EQ(made.made, 2);
  EXPECT_EQ(made.current, 1);
  ASSERT_TRUE(has_skins(stored, s, 3));
  EXPECT_EQ(picture(s), before) << "to the bit";
  const auto skins = kept_skins(stored, s, 3);
  ASSERT_TRUE(skins && skins->size() == 1);
  const auto read = unpack_model(read_model(skins_file(stored)), "ply");
  ASSERT_EQ(read.size(), 1u);
  EXPECT_EQ(read[0].mesh.triangles.size(), (*skins)[0].skin.mesh.triangles.size());
  EXPECT_NEAR(read[0].mesh.volume(), (*skins)[0].skin.mesh.volume(), 1e-9);
  // What has nothing to do with them leaves them; the rest does not.
  Shot other = s;
  other.look.lights.clear(), other.film.samples = 7, other.camera.azimuth = 1;
  EXPECT_TRUE(has_skins(stored, other, 3));
  other.surface.smoothing = 0.004;
  EXPECT_FALSE(has_skins(stored, other, 3));
  EXPECT_NE(picture(other), before);
  other = s, other.fluids[0].as<Liquid>()->color_by = ColorBy::speed;
  EXPECT_FALSE(has_skins(stored, other, 3));
  // A torn file is none.
  std::string text = read_whole(skins_file(stored));
  text[text.size() / 2] ^= 1;
  write_whole(skins_file(stored), text);
  EXPECT_FALSE(kept_skins(stored, s, 3));
  EXPECT_EQ(picture(s), before);
  fs::remove(run.frame_file(2));
  look_for_frames(run);
  EXPECT_THROW((void)make_skins(run, s, {1, 3}), Fault);
}

TEST_F(LiquidShot, SkinsWithBubblesKeepTheDepthOfTheirPoints) {
  LiquidPoints drop;
  drop.cell_size = 0.002;
  for (int i = 0; i < 4096; ++i) {
    const Vec3f at = Vec3f{float(i & 15), float(i >> 4 & 15), float(i >> 8)} * 0.001f;
    drop.place.push_back(at), drop.velocity.push_back({at.y, 0, 1}), drop.color.push_back({0.5f, at.x, 1});
    drop.age.push_back(0), drop.liquid.push_back(1), drop.id.push_back(uint32_t(i));
  }
  Shot s = tea();
  s.fluids = {s.fluids[0], s.fluids[0]};
  s.fluids[1].as<Liquid>()->bubbles = 0.05, s.fluids[1].as<Liquid>()->clarity = Clarity::clear;
  const auto skins = skins_of(s, drop, {});
  ASSERT_EQ(skins.size(), 1u);
  EXPECT_EQ(skins[0].skin.depth.size(), drop.place.size());
  write_skins(skins, "these", folder / "drop.ply");
  EXPECT_EQ(skins_made_from(folder / "drop.ply"), "these");
  EXPECT_FALSE(read_skins(folder / "drop.ply", "others"));
  const auto again = read_skins(folder / "drop.ply", "these");
  ASSERT_TRUE(again && again->size() == 1);
  const Skin &a = skins[0].skin, &b = (*again)[0].skin;
  EXPECT_TRUE((*again)[0].fluid == 1 && a.mesh.points == b.mesh.points &&
              a.mesh.triangles == b.mesh.triangles);
  EXPECT_TRUE(a.colors == b.colors && a.velocity == b.velocity && a.depth == b.depth);
}

TEST_F(LiquidShot, ChecksMendWhatTheyName) {
  const auto titles = [&](const Shot& s) {
    std::string all;
    for (const Check& c : check_shot(s, folder)) all += c.title + ";";
    return all;
  };
  Shot s = tea();
  s.run.cell_size = 0.004;
  EXPECT_EQ(titles(s), "");
  s.run.open_bottom = true, s.pours[0].rate = 0, s.pours[0].speed = 0;
  s.fluids[0].as<Liquid>()->named = NamedLiquid::own, s.fluids[0].as<Liquid>()->own.viscosity = 0;
  EXPECT_THAT(titles(s), HasSubstr("falls through the floor"));
  EXPECT_THAT(titles(s), HasSubstr("does not flow"));
  EXPECT_THAT(titles(s), HasSubstr("has no viscosity"));
  for (const Check& c : check_shot(s, folder))
    if (c.fix) c.fix(s);
  EXPECT_EQ(titles(s), "");
}

// The way that the stage draws is the one that liquid takes: the middle of what was poured so long ago is
// within a cell of it (free fall, Galilei).
TEST_F(LiquidShot, FliesAlongItsArc) {
  for (const double capture : {0.0, 60.0}) {
    Shot s = tea();
    s.run.cell_size = 0.005, s.film.frames = 6, s.film.capture = capture;
    s.pours[0].direction = Direction::own, s.pours[0].aim = {1, 0.4, 0.2};
    pour::Run run = create_run(folder / "tea.pour", s);
    simulate(run, {});
    const std::vector<Vec3d> arc = arc_of(s, s.pours[0], 1).at;
    const Particles p = read_particles(run.stored_frame(6));
    const Clock clock(s);
    for (int k = 2; k <= 4; ++k) {
      const double age = clock.time(1 + k), frame = age / k;
      Vec3d sum;
      int count = 0;
      for (size_t n = 0; n < p.size(); ++n)
        if (std::abs(double(p.age[n]) - age) < 0.15 * frame)
          sum += Vec3d{p.place[0][n], p.place[1][n], p.place[2][n]} * 0.005, ++count;
      ASSERT_GT(count, 10);
      EXPECT_LT(length(sum / count - arc[size_t(k)]), 0.005) << k << " frames old, at " << capture;
    }
  }
  Shot s = tea();
  const std::vector<Vec3d> arc = arc_of(s, s.pours[0], 1).at;
  EXPECT_NEAR(arc.back().y, 0, 1e-9) << "it ends on the floor";
  s.pours[0].speed = 0;
  EXPECT_TRUE(arc_of(s, s.pours[0], 1).at.empty());
}

// What is thrown comes by what it is aimed at (Galilei's fall), or as near as it can: 45° is farthest.
TEST_F(LiquidShot, AnArcIsAimedAtAPoint) {
  for (const double gravity : {9.81, 0.0, -3.0})
    for (const Vec3d target : {Vec3d{0.3, -0.1, 0.05}, Vec3d{-0.2, 0.05, 0.1}, Vec3d{0, -0.3, 0}}) {
      const Vec3d besides{0.1, 0, -0.05};
      const Vec3d v = way_to({}, target, 3, besides, gravity) * 3 + besides;
      double nearest = 1;
      for (double t = 0; t < 1; t += 1e-4)
        nearest = std::min(nearest, length(v * t - Vec3d{0, gravity * t * t / 2, 0} - target));
      EXPECT_LT(nearest, 5e-4) << gravity << ": " << target.x << ", " << target.y;
    }
  const Vec3d far = way_to({}, {10, 0, 0}, 1, {}, 9.81);
  EXPECT_NEAR(length(far), 1, 1e-12);
  EXPECT_GT(far.x, 0);

  Shot s = tea();
  const Vec3d target{0.02, 0.03, 0};
  aim_pour(s, "tea", target, 1);
  EXPECT_EQ(s.pours[0].direction, Direction::own);
  double nearest = 1;
  for (const Vec3d& p : arc_of(s, s.pours[0], 1, 200).at) nearest = std::min(nearest, length(p - target));
  EXPECT_LT(nearest, 0.002);
  s.pours[0].speed = 0;
  EXPECT_THROW(aim_pour(s, "tea", target, 1), Fault);
}

TEST_F(LiquidShot, ChecksSayWhatIsInTheWay) {
  const auto only = [&](const Shot& s, const char* title) -> Check {
    for (Check& c : check_shot(s, folder))
      if (c.title.find(title) != std::string::npos) return c;
    return {};
  };
  const auto mended = [&](Shot s, const char* title) {
    const Check c = only(s, title);
    EXPECT_TRUE(c.fix) << title;
    if (c.fix) c.fix(s);
    return only(s, title).title.empty();
  };
  Shot s = tea();
  s.run.cell_size = 0.004;
  for (const char* title : {"overflow", "buried", "its own source", "meet"})
    EXPECT_EQ(only(s, title).title, "");

  s.piece("mouth")->blocks = true;
  EXPECT_TRUE(mended(s, "its own source"));
  s.pours[0].fill_at.time = 0.2;
  EXPECT_TRUE(mended(s, "its own source")) << "it turns into the tea";
  s.pours[0].replaces_source = true;
  EXPECT_EQ(only(s, "its own source").title, "");
  s.piece("mouth")->holds = true;
  EXPECT_TRUE(mended(s, "can't turn"));
  s.piece("mouth")->holds = s.pours[0].replaces_source = false, s.pours[0].fill_at = {};
  s.piece("mouth")->blocks = false;

  Piece lump;
  lump.id = "lump", lump.name = "Lump", lump.shape = Block{{0.06, 0.06, 0.06}};
  lump.holds = false, lump.blocks = true, lump.position = s.piece("mouth")->position;
  s.pieces.push_back(lump);
  EXPECT_THAT(only(s, "buried").text, HasSubstr("inside Lump"));
  EXPECT_TRUE(mended(s, "buried"));
  s.pieces.back().position.x += 0.03;  // half of the mouth looks out
  EXPECT_EQ(only(s, "buried").title, "");
  // A wall that is far thinner than wide, too.
  s.pieces.back().position.x -= 0.03, s.pieces.back().shape = Block{{0.3, 0.002, 0.3}};
  s.piece("mouth")->shape = Block{{0.05, 0.001, 0.05}}, s.piece("mouth")->turn = {};
  EXPECT_TRUE(mended(s, "buried"));
  s.piece("mouth")->position.y += 0.001;  // a quarter looks out
  EXPECT_EQ(only(s, "buried").title, "");
  s.pieces.pop_back();

  s.piece("mouth")->position.x = -0.3;
  s.film.frames = 400, s.pours[0].windows = windows_at(s, {{1, 400}}), s.pours[0].rate = 1e-4;
  EXPECT_EQ(only(s, "overflow").title, "") << "its mouth is not above it: " << only(s, "overflow").text;
  s.piece("mouth")->position.x = 0;
  EXPECT_THAT(only(s, "overflow").text, HasSubstr("pours 1.7 l"));
  EXPECT_TRUE(mended(s, "overflow"));

  s.fluids.push_back({.id = "smoke", .name = "Smoke"});
  Piece ball = s.pieces[1];
  ball.id = "ball", ball.shape = Ball{0.02}, ball.position.y = 0.3;
  s.pieces.push_back(ball);
  s.pours.push_back({.id = "smoke", .name = "Smoke", .fluid = {"smoke"}, .from = SourceKind::piece});
  s.pours.back().source.id = "ball";
  EXPECT_THAT(only(s, "meet").text, HasSubstr("don't affect each other"));
}

// Half a litre of particles a tenth of a millimetre apart are more than any memory: that is said before, with
// what would fit.
TEST_F(LiquidShot, ARunThatIsTooLargeSaysWhatWouldFit) {
  Shot s = tea();
  s.film.frames = 2000, s.pours[0].windows = windows_at(s, {{1, 2000}});
  s.run.cell_size = 0.0004;
  try {
    check_can_run(s);
    FAIL();
  } catch (const Fault& f) {
    EXPECT_EQ(f.blame, Blame::machine);
    EXPECT_THAT(f.what(), HasSubstr("would fit"));
  }
}

// What is far too fast is told of, by the setting or by the run: nothing hangs, nothing flies off in silence.
TEST_F(LiquidShot, AThousandMetresASecondAreRefused) {
  Shot s = tea();
  try {
    assign(s, "pours.tea.speed=1000 m/s");
    FAIL();
  } catch (const Fault& f) {
    EXPECT_THAT(f.what(), HasSubstr("100 m/s"));
  }
  const auto refusal = [&](const Shot& shot) -> std::string {
    pour::Run run = create_run(folder / "tea.pour", shot);
    try {
      simulate(run, {});
    } catch (const Fault& f) {
      return f.what();
    }
    return "nothing";
  };
  // A bowl that goes at 1000 m/s for a frame.
  s = tea(), s.film.frames = 4, s.run.fit_bounds = false;
  s.piece("bowl")->tracks["position"].keys = {{0, Vec3d{}, Ease::linear, {}},
                                              {1 / 24.0, Vec3d{1000.0 / 24, 0, 0}, Ease::linear, {}}};
  EXPECT_THAT(refusal(s), HasSubstr("a piece that blocks is too fast"));
}

TEST_F(Cli, TeaIsPouredFromTheCommandLine) {
  Result r =
      cli("new tea-into-a-bowl --out t.pour --set run.detail=custom --set run.cell_size=5mm --set "
          "film.frames=10");
  ASSERT_EQ(r.code, 0) << r.out;
  r = cli("add t.pour liquid --name Milk liquid=milk");
  ASSERT_EQ(r.code, 0) << r.out;
  EXPECT_THAT(cli("show t.pour").out, HasSubstr("fluids.milk.liquid"));
  cli("remove t.pour fluids.milk");
  r = cli("run t.pour");
  ASSERT_EQ(r.code, 0) << r.out;
  EXPECT_THAT(r.out, HasSubstr(" ml of liquid"));
  EXPECT_THAT(cli("measure t.pour").out, HasSubstr("particles,drops,poured"));
  r = cli("picture t.pour --frames 10 --size 160x90 --out pics");
  ASSERT_EQ(r.code, 0) << r.out;
  r = cli("picture t.pour --frames 10 --size 160x90 --show speed --out fast");
  EXPECT_EQ(r.code, 0) << r.out;
  EXPECT_EQ(cli("picture t.pour --frames 10 --size 160x90 --show age --out old").code, 0);
  EXPECT_TRUE(read_whole(folder / "fast/t.000010.png") != read_whole(folder / "old/t.000010.png"));
  EXPECT_EQ(r.code, 0) << r.out;
  EXPECT_THAT(cli("surface t.pour --frames 1-3").out, HasSubstr("Skins of 3 frames were made"));
  EXPECT_THAT(cli("surface t.pour").out, HasSubstr("of 3 they were current"));
  EXPECT_EQ(cli("surface t.pour --frames 8-99").code, 2);
  cli("set t.pour film.frames=12 pours.tea.windows=1-4");
  r = cli("run t.pour --from 1:10");
  ASSERT_EQ(r.code, 0) << r.out;
  EXPECT_THAT(r.out, HasSubstr("frame 11 of 12"));
  EXPECT_THAT(r.out, testing::Not(HasSubstr("frame 10 of")));
  EXPECT_EQ(bytes("t.runs/002", 10), bytes("t.runs/001", 10));
  EXPECT_EQ(cli("run t.pour --from 1:99").code, 1);
  EXPECT_EQ(cli("run t.pour --from first").code, 2);
}

namespace {

/// Two letters that fill with tea, and rock at once.
Shot letters() {
  Shot s = find_recipe("tea-fills-a-word").make("OK");
  s.run.cell_size = 0.006, s.film.frames = 16;
  s.pours[0].rate = 2e-4;
  s.pieces[0].tracks["turn"].keys = {{0, Vec3d{}, Ease::smooth, {}},
                                     {9 / 24.0, Vec3d{0, 0, 0.2}, Ease::smooth, {}},
                                     {15 / 24.0, Vec3d{0, 0.3, -0.2}, Ease::smooth, {}}};
  return s;
}

/// The letters of its first piece as a run's cells have them, in the space of the piece.
std::vector<LevelSet> letters_of(const Shot& s) {
  std::vector<LevelSet> out;
  for (const Body& b : *bodies_of(s.pieces[0].shape, {})) out.emplace_back(b.mesh, s.run.cell_size);
  return out;
}

}  // namespace

TEST_F(LiquidShot, LettersFillAndNothingLeaksAsTheyRock) {
  save_shot(letters(), folder / "word.pour");
  pour::Run run = create_run(folder / "word.pour", letters());
  simulate(run, {});
  const Ledger& books = run.frames.back().flow("liquid").ledger;
  const double expected = 2e-4 * 15 / 24;
  EXPECT_NEAR(books.poured, expected, 0.02 * expected) << "of both letters together";
  EXPECT_EQ(books.left, 0);
  const std::vector<LevelSet> walls = letters_of(letters());
  ASSERT_EQ(walls.size(), 2u);
  for (const int frame : {8, 16}) {
    const Shot now = shot_at(letters(), frame);
    const Pose back = pose_of(now, now.pieces[0]).inverse();
    const LiquidPoints points = read_liquid(run.stored_frame(frame));
    std::vector<double> in(walls.size(), 0);
    for (const Vec3f& p : points.place)
      for (size_t i = 0; i < walls.size(); ++i)
        in[i] += walls[i].distance(back * to<double>(p)) < 0.1 * now.run.cell_size;
    EXPECT_EQ(in[0] + in[1], double(points.place.size())) << "in frame " << frame;
    EXPECT_GT(std::min(in[0], in[1]), 0.3 * double(points.place.size())) << "each has its share";
  }
}

TEST_F(LiquidShot, ALetterThatIsFullTakesNoMore) {
  Shot s = letters();
  s.pieces[0].tracks.clear();
  s.run.cell_size = 0.004, s.pours[0].rate = 2e-3;
  double volume = 0;
  for (const Body& b : placed_bodies(s, s.pieces[0], {})) volume += b.mesh.volume();
  save_shot(s, folder / "full.pour");
  pour::Run run = create_run(folder / "full.pour", s);
  simulate(run, {});
  const Ledger& books = run.frames.back().flow("liquid").ledger;
  EXPECT_NEAR(books.poured, 0.985 * volume, 0.01 * volume);
  EXPECT_NEAR(books.in_shot, books.poured, 0.05 * books.poured) << "cells that walls cut are not exact";
}

// What is shared by all letters is guessed once.
TEST_F(LiquidShot, AGuessCountsWhatLettersShareOnce) {
  const Shot s = letters();
  const double expected = s.pours[0].rate * 16 / 24 / std::pow(s.run.cell_size, 3);
  EXPECT_NEAR(Staging(s).estimate().cells, expected, 0.01 * expected);
}

// Out of a disc that looks up, a speed to the right and one outwards add up, in the arc and in the source.
TEST_F(LiquidShot, DirectionAndOutwardSpeedAddUp) {
  Shot s = tea();
  Pour& p = s.pours[0];
  s.piece(p.source.id)->turn = {};
  p.direction = Direction::right, p.speed = 0.5, p.outward = 0.25;
  const Vec3d expected{0.5, 0.25, 0}, arc = arc_of(s, p, 1).velocity,
                                      source = Staging(s).liquid_world(0, 0, 0).sources.at(0).velocity;
  EXPECT_LT(length(arc - expected), 1e-9);
  EXPECT_LT(length(source - expected), 1e-9);
  p.flipped = true;
  EXPECT_LT(length(arc_of(s, p, 1).velocity - Vec3d{0.5, -0.25, 0}), 1e-9);
  EXPECT_LT(length(Staging(s).liquid_world(0, 0, 0).sources.at(0).velocity - Vec3d{0.5, -0.25, 0}), 1e-9);
}

// A sheet that faces upwards is a wall to what flows, but what pours along its normals goes upwards on both
// sides of it; flipped, downwards. Without gravity what was poured is on that side.
TEST_F(LiquidShot, OutOfASheetItPoursToWhereThatFaces) {
  const fs::path file = folder / "sheet.obj";
  write_whole(file, "o Sheet\nv -1 0.1 1\nv 1 0 1\nv 1 0 -1\nv -1 0 -1\nf 1 2 3\nf 1 3 4\n");
  for (const bool flipped : {false, true}) {
    Shot s = tea();
    Piece& source = *s.piece(s.pours[0].source.id);
    Model sheet;
    sheet.file = model_from(file.string()), sheet.height = 0.002, sheet.wall = 0.01;
    source.shape = sheet, source.turn = {}, source.parent = {}, source.tracks.clear();
    source.position = {0, 0.3, 0}, source.blocks = source.shows = false;
    std::erase_if(s.pieces, [&](const Piece& p) { return p.id != source.id; });
    first_of<Gravity>(s.forces).strength = 0, s.film.frames = 6;
    Pour& p = s.pours[0];
    p.direction = Direction::outwards, p.speed = 0.5, p.flipped = flipped, p.rate = 5e-5;
    const Source poured = Staging(s).liquid_world(0, 0, 0).sources.at(0);
    for (const double above : {0.003, -0.003}) {
      const Vec3d at = Vec3d{0, 0.3 + above, 0};
      EXPECT_GT(poured.velocity_at(at, 0.007, 0).y * (flipped ? -1 : 1), 0.49);
    }
    pour::Run run = create_run(folder / "tea.pour", s);
    simulate(run, {});
    const Particles after = read_particles(run.stored_frame(6));
    ASSERT_GT(after.size(), 50u);
    double mean = 0;
    for (const float y : after.place[1]) mean += double(y) * 0.007 / double(after.size());
    EXPECT_GT((mean - 0.3) * (flipped ? -1 : 1), 0.02);
  }
}

// Steps under tension go with √(ρ h³ / σ): small cells take far longer than the speed alone would have it.
TEST_F(LiquidShot, AGuessKnowsTheShortStepsOfTension) {
  Shot s = tea();
  s.fluids[0].as<Liquid>()->named = NamedLiquid::own, s.run.cell_size = 0.001;
  first_of<Gravity>(s.forces).strength = 0, s.pours[0].speed = 0.05;
  const double with = Staging(s, Space(s), Staging::For::looking).estimate().seconds;
  s.fluids[0].as<Liquid>()->own.tension = 0;
  EXPECT_GT(with, 1.5 * Staging(s, Space(s), Staging::For::looking).estimate().seconds);
}

TEST_F(LiquidShot, LettersStoppedAndResumedAreTheSameToTheBit) {
  save_shot(letters(), folder / "word.pour");
  pour::Run whole = create_run(folder / "word.pour", letters()),
            again = create_run(folder / "word.pour", letters());
  simulate(whole, {});
  int frames = 0;
  SimulateOptions stopping;
  stopping.stop = [&] { return frames >= 7; };
  stopping.on_frame = [&](const Progress& p) { frames = p.frame; };
  simulate(again, stopping);
  ASSERT_EQ(again.state, RunState::stopped);
  again = load_run(again.folder);
  const ThreadLimit limit(1);
  simulate(again, {.resume = true});
  for (int f = 1; f <= 16; ++f)
    EXPECT_TRUE(read_whole(whole.frame_file(f)) == read_whole(again.frame_file(f))) << f;
}

TEST_F(LiquidShot, LettersGoOnFromAFrame) {
  const Shot s = letters();
  save_shot(s, folder / "word.pour");
  pour::Run first = create_run(folder / "word.pour", s);
  simulate(first, {});
  pour::Run second = create_run(folder / "word.pour", s);
  second.start = {"001", 8};
  simulate(second, {});
  const FlowRecord &was = first.record(16)->flow("liquid"), &is = second.record(16)->flow("liquid");
  EXPECT_NEAR(is.ledger.poured, was.ledger.poured, 0.01 * was.ledger.poured);
  EXPECT_NEAR(length(is.centroid - was.centroid), 0, s.run.cell_size / 2);
  EXPECT_NEAR(is.ledger.gap(), 0, 1e-12);
}

// What goes on from an earlier run is what it was there, by its id, wherever it stands in the list now.
TEST_F(LiquidShot, GoingOnLiquidsKeepWhatTheyAre) {
  const auto run_to = [&](const Shot& shot, int last, const RunStart& start, std::string* said = nullptr) {
    save_shot(shot, folder / "tea.pour");
    pour::Run run = create_run(folder / "tea.pour", shot);
    run.last_frame = last, run.start = start;
    if (!start.run.empty()) check_start(run);
    simulate(run, {.on_notice = [&](const std::string& text) {
               if (said) *said += text;
             }});
    return run;
  };
  Shot s = tea();
  (void)add_new_fluid<Liquid>(s, "Milk");
  s.fluids.back().as<Liquid>()->named = NamedLiquid::milk;
  s.pours.back().source = s.pours.front().source, s.pours.back().from = SourceKind::piece;
  const pour::Run first = run_to(s, 6, {});
  const auto counts = [&](const pour::Run& run, int frame) {
    std::map<std::string, size_t> out;
    for (const uint8_t n : read_particles(run.stored_frame(frame)).liquid) ++out[run.shot.fluids.at(n).id];
    return out;
  };
  const auto before = counts(first, 6);
  ASSERT_EQ(before.size(), 2u);
  for (Pour& p : s.pours) p.windows.list.clear();
  std::swap(s.fluids[0], s.fluids[1]);
  for (const bool whole : {true, false}) {
    if (!whole) fs::resize_file(first.folder / "checkpoint", 1000);  // then it goes on from the frame's file
    std::string said;
    const pour::Run more = run_to(s, 8, {"001", 6}, &said);
    EXPECT_EQ(counts(more, 8), before) << whole;
    EXPECT_EQ(said.empty(), whole) << said;
    if (!whole) {
      EXPECT_THAT(said, HasSubstr("checkpoint is torn"));
    }
  }
  // Another liquid in the place of one that was taken out is not taken for it.
  remove_item(s, "fluids.milk");
  (void)add_new_fluid<Liquid>(s, "Oil");
  EXPECT_THROW(run_to(s, 8, {"001", 6}), Fault);
}

TEST_F(LiquidShot, GoingOnVesselsThatMovedDoNotTakeTheirLiquidAlong) {
  Shot s = letters();
  s.pieces[0].tracks.clear(), s.run.cell_size = 0.009;
  save_shot(s, folder / "word.pour");
  pour::Run first = create_run(folder / "word.pour", s);
  first.last_frame = 6;
  simulate(first, {});
  const size_t many = read_particles(first.stored_frame(6)).size();
  s.pieces[0].position.x += 0.3, s.pours[0].windows.list.clear();
  save_shot(s, folder / "word.pour");
  pour::Run more = create_run(folder / "word.pour", s);
  more.last_frame = 7, more.start = {"001", 6};
  std::string said;
  simulate(more, {.on_notice = [&](const std::string& text) { said += text; }});
  EXPECT_THAT(said, HasSubstr("vessels"));
  // Where it was there is no vessel any more: it lies in the open, and none is in the letters.
  const Vec3d middle = more.record(7)->flow("liquid").centroid;
  EXPECT_LT(std::abs(middle.x - first.record(6)->flow("liquid").centroid.x), 0.12);
  EXPECT_LE(read_particles(more.stored_frame(7)).size(), many);
}

// The surface of a liquid holds what was poured, at the cells of its details and at odd ones between.
TEST_F(LiquidShot, TheBooksOfARecipeAreWithinAHundredth) {
  NEEDS_LONG;
  for (const Recipe& r : recipes()) {
    Shot s = r.make();
    if (!s.brings(FlowKind::liquid)) continue;
    const double draft = Space(s).cell_size;
    std::vector<double> cells{draft, 1.17 * draft, 1.6 * draft};
    for (const Detail d : {Detail::medium}) {
      Shot finer = s;
      finer.run.detail = d;
      cells.push_back(Space(finer).cell_size);
    }
    for (const double cell : cells) {
      s.run.detail = Detail::custom, s.run.cell_size = cell;
      const Staging staging(s);
      const auto flow = liquid_flow(staging);
      flow->begin();
      const int last = std::min(s.film.frames, 60);
      double poured = 0, worst = 0, sum = 0;
      for (int f = 2; f <= last; ++f) {
        flow->advance(f, staging.clock().time(f), {});
        const Ledger books = flow->measure().ledger;
        poured = books.poured,
        sum = 0.8 * sum + 0.2 * books.numeric;  // over some frames: one alone has its chance
        worst = std::max(worst, std::abs(sum));
      }
      EXPECT_LE(worst, 0.01 * poured) << r.key << " at " << cell << ": " << 100 * worst / poured << " %";
    }
  }
}

// Common practice, no source: a wall thinner than two cells leaks.
TEST_F(LiquidShot, ThinWallsAreToldAndTightWhereTheyMayBeThickened) {
  Shot s = tea();
  std::get<Turned>(s.piece("bowl")->shape).wall = 0.0018;
  s.film.frames = 20;
  const auto said = [&](const Shot& shot) {
    std::vector<Check> out;
    for (Check& c : check_shot(shot, folder))
      if (c.title.find("thinner than two cells") != std::string::npos) out.push_back(std::move(c));
    return out;
  };
  const auto lost = [&](const Shot& shot) {
    pour::Run run = create_run(folder / "tea.pour", shot);
    simulate(run, {});
    // What lies below the bowl's rim outside of it came through: everything that is not within its radius.
    double out = 0;
    const LiquidPoints points = read_liquid(run.stored_frame(s.film.frames));
    const Box bowl = piece_mesh(shot, *shot.piece("bowl")).bounds();
    for (const Vec3f& p : points.place)
      out += double(p.y) < bowl.low.y - 0.001 || std::hypot(p.x, p.z) > bowl.high.x;
    return out / double(points.place.size());
  };
  auto checks = said(s);
  ASSERT_EQ(checks.size(), 1u);
  EXPECT_THAT(checks[0].text, testing::AllOf(HasSubstr("thinnest part is 1."), HasSubstr("detail")));
  const double thin = lost(s);
  checks[0].fix(s);
  EXPECT_TRUE(s.piece("bowl")->thickens);
  EXPECT_TRUE(said(s).empty()) << "mended";
  const double thick = lost(s);
  EXPECT_LT(thick, 0.02) << "where " << thin << " went through the wall as it is";
  EXPECT_GT(thin, 2 * thick);
  Piece drain;
  drain.id = "drain", drain.name = "Drain", drain.holds = drain.shows = false, drain.drains = true;
  drain.shape = Block{{0.2, 0.002, 0.2}}, drain.position = {0, 0.15, 0};
  s.pieces.push_back(drain);
  ASSERT_EQ(said(s).size(), 1u);
  EXPECT_THAT(said(s)[0].text, HasSubstr("drain nothing"));
  s.pieces.back().thickens = true, s.film.frames = 12;
  pour::Run run = create_run(folder / "tea.pour", s);
  simulate(run, {});
  const Ledger books = run.record(12)->flow("liquid").ledger;
  EXPECT_GT(books.drained, 0.2 * books.poured);
}

TEST_F(LiquidShot, ASetThatIsMovedByWholeCellsPoursTheSame) {
  const auto books = [](double moved) {
    Shot s = tea();
    for (Piece& p : s.pieces)
      if (p.parent.id.empty()) p.position.x += moved;
    const Staging staging(s);
    const auto flow = liquid_flow(staging);
    flow->begin();
    for (int f = 2; f <= 10; ++f) flow->advance(f, staging.clock().time(f), {});
    return flow->measure().ledger;
  };
  const Ledger here = books(0), there = books(100 * 0.007);
  EXPECT_GT(here.poured, 1e-5);
  for (const auto part : {&Ledger::poured, &Ledger::left, &Ledger::in_shot, &Ledger::numeric})
    EXPECT_NEAR(here.*part, there.*part, 1e-4 * here.poured);
}
