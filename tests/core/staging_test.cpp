// From a shot to the solver's world: cells, bounds, vessels, sources and their times.
#include "run/staging.h"
#include "liquid/liquid.h"
#include "run/arc.h"
#include "run/flow.h"
#include "run/simulate.h"

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <cstdlib>
#include <numeric>

#include <numbers>

#include "base/error.h"
#include "check/checks.h"
#include "core/tank.h"
#include "picture/camera.h"
#include "run/space.h"
#include "shape/fonts.h"
#include "shape/placed.h"
#include "shot/assign.h"
#include "shot/describe.h"
#include "shot/edit.h"
#include "shot/pouring.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"

using namespace pour;
using testing::HasSubstr;

namespace {

Shot word(const std::string& text = "OI") {
  Shot s = find_recipe("fill-a-word").make();
  std::get<Lettering>(s.pieces[0].shape).text = text;
  return s;
}

std::string fault_of(const Shot& shot) {
  try {
    const Staging scene(shot);
  } catch (const Fault& f) {
    EXPECT_EQ(f.blame, Blame::shot);
    return f.what();
  }
  return "";
}

}  // namespace

TEST(Staging, MoreDetailMeansSmallerCells) {
  Shot s = word("ODDLARK");
  double before = 1;
  for (const Detail d : {Detail::draft, Detail::medium, Detail::final}) {
    s.run.detail = d;
    const double cell = Staging(s).cell_size();
    EXPECT_LT(cell, before);
    before = cell;
  }
  s.run.detail = Detail::custom, s.run.cell_size = 0.00321;
  EXPECT_DOUBLE_EQ(Staging(s).cell_size(), 0.00321);
}

TEST(Space, CellsGoWithTheStrokesOfAShortWord) {
  // A short word is as thick as a long one: cells that went with its length alone would be needlessly fine.
  const double long_word = Space(word("ODDLARK")).cell_size, short_word = Space(word("OD")).cell_size;
  EXPECT_GT(short_word, 0.5 * long_word);
  // But thin strokes still get the cells they need.
  Shot thin = word("OD");
  std::get<Lettering>(thin.pieces[0].shape).font.name = "League Spartan Medium";
  EXPECT_LT(Space(thin).cell_size, short_word);
  for (const Body& part : placed_bodies(thin, thin.pieces[0]))
    EXPECT_GT(part.stroke, 2 * Space(thin).cell_size);
}

TEST(Space, TheFramedCameraHoldsTheSetAndNotMuchMore) {
  for (const char* text : {"I", "ODDLARK", "A MUCH LONGER LINE"})
    for (const double azimuth : {0.0, 0.8}) {
      Shot s = word(text);
      s.camera.azimuth = azimuth;
      const Space space(s);
      s.camera = framed(s, space);
      EXPECT_FALSE(out_of_picture(s, s.pieces[0])) << text;
      EXPECT_DOUBLE_EQ(s.camera.azimuth, azimuth) << "it is seen from the same side";
      const View view(s.camera, 16.0 / 9);
      double wide = 0, high = 0;
      for (const Vec3f& p : piece_mesh(s, s.pieces[0]).points) {
        const Vec3f q = view.project(p);
        wide = std::max(wide, double(std::abs(q.x))), high = std::max(high, double(std::abs(q.y)));
      }
      EXPECT_TRUE(wide > 0.6 || high > 0.45) << text << " fills " << wide << " by " << high;
    }
}

TEST(Space, TheFramedCameraLeavesRoomForSmokeThatRises) {
  Shot s = find_recipe("around-a-word").make();
  const Space space(s);
  EXPECT_TRUE(space.flows_freely);
  s.camera = framed(s, space);
  const Vec3f top = View(s.camera, 16.0 / 9).project(to<float>(Vec3d{0, space.bounds.high.y, 0}));
  EXPECT_LT(top.y, 1);
}

// A bottle that reaches out of the picture, while a disc in its mouth pours: it costs no cells.
TEST(Space, WhatIsOnlySeenTakesNoRoom) {
  Shot s = find_recipe("tea-into-a-bowl").make();
  const Space with(s);
  ASSERT_TRUE(is_prop(s, *s.piece("bottle")));
  EXPECT_TRUE(out_of_picture(s, *s.piece("bottle")));
  for (const Check& c : check_shot(s, testing::TempDir()))
    EXPECT_THAT(c.title, testing::Not(HasSubstr("Bottle")));
  s.piece("bottle")->blocks = true;
  EXPECT_FALSE(is_prop(s, *s.piece("bottle")));
  const Space blocked(s);
  EXPECT_GT(blocked.cell_size, 1.2 * with.cell_size);
  EXPECT_GT(blocked.bounds.size().x, 1.2 * with.bounds.size().x);
  std::erase_if(s.pieces, [](const Piece& p) { return p.id == "bottle"; });
  const Space without(s);
  EXPECT_EQ(without.cell_size, with.cell_size);
  EXPECT_EQ(without.bounds.size(), with.bounds.size());
}

TEST(Space, SmokeFromAPieceInsideALetterStaysThere) {
  Shot s = word("L");
  Piece ball;
  ball.id = "b", ball.shape = Ball{0.01}, ball.holds = ball.shows = false;
  ball.position = s.pieces[0].position;
  s.pieces.push_back(ball);
  s.pours[0].from = SourceKind::piece, s.pours[0].source.id = "b";
  EXPECT_FALSE(Space(s).flows_freely);
  s.pieces[1].position.x = 2;
  EXPECT_TRUE(Space(s).flows_freely);
}

TEST(Space, WhatReachesBelowTheFloorIsLiftedOntoIt) {
  Shot s = word("gy");  // descenders
  EXPECT_LT(Space(s).pieces.low.y, 0);
  stand_on_floor(s);
  EXPECT_GT(Space(s).pieces.low.y, 0);
  EXPECT_LT(Space(s).pieces.low.y, 0.01);
  const double there = s.pieces[0].position.y;
  stand_on_floor(s);
  EXPECT_EQ(s.pieces[0].position.y, there) << "and then left alone";
}

TEST(Fonts, AMissingOneIsAnsweredWithItsFamily) {
  try {
    find_font("Inter Ultra");
    FAIL();
  } catch (const Fault& f) {
    EXPECT_THAT(f.what(), HasSubstr("“Inter "));
  }
  try {
    find_font("kaushan");
    FAIL();
  } catch (const Fault& f) {
    EXPECT_THAT(f.what(), HasSubstr("Kaushan Script Regular"));
  }
}

TEST(Staging, FreeSmokeGetsLargerCellsThanHeldSmoke) {
  const Shot held = word("ODDLARK");
  Shot around = held;
  around.pieces[0].holds = false, around.pieces[0].blocks = true;
  EXPECT_GT(Staging(around).cell_size(), Staging(held).cell_size());
  const GasWorld w = Staging(around).gas_world(0);
  EXPECT_LT(double(w.cells.x) * w.cells.y * w.cells.z, 8e5) << "a draft comes in a minute or so";
}

TEST(Staging, EveryLetterThatHoldsIsAVesselOfItsOwn) {
  const Staging scene(word("Öi"));
  const GasWorld w = scene.gas_world(0);
  EXPECT_EQ(w.rooms.size(), 5u);
  ASSERT_EQ(w.sources.size(), 5u) << "with a seed in each";
  for (size_t i = 0; i < 5; ++i) EXPECT_EQ(w.sources[i].room, int(i) + 1);
  EXPECT_TRUE(w.solids.empty());
}

TEST(Staging, SeedsLieInTheirVessel) {
  for (const SeedPlace place : {SeedPlace::low, SeedPlace::centre, SeedPlace::left, SeedPlace::right,
                                SeedPlace::top, SeedPlace::back}) {
    Shot s = word("ODDLARK");
    s.pours[0].seed_place = Choices::of(int(place));
    const Staging scene(s);
    const GasWorld w = scene.gas_world(0);
    for (const Source& source : w.sources) {
      const Vec3d middle = source.shape.bounds.center();
      EXPECT_LT(w.rooms[size_t(source.room) - 1].inside.distance(middle), 0);
      EXPECT_LT(source.shape.distance(middle), 0);
      EXPECT_GT(source.shape.distance(middle + Vec3d{1, 0, 0}), 0.9);
    }
    ASSERT_EQ(scene.seeds().size(), w.sources.size()) << "as they are shown";
    for (size_t i = 0; i < w.sources.size(); ++i)
      EXPECT_LT(length(scene.seeds()[i].center - w.sources[i].shape.bounds.center()), 1e-9);
  }
}

// The start page tells how long a first draft takes, on two cores.
TEST(Staging, RecipesSayHowLongTheirDraftTakes) {
  if (!std::getenv("EASY_POUR_LONG")) GTEST_SKIP() << "./test long passes it";
  for (const Recipe& r : recipes()) {
    Shot s = r.make();
    s.run.detail = Detail::draft;
    const double seconds = Staging(s, Space(s), Staging::For::looking).estimate({}).seconds;
    EXPECT_LT(seconds, 2 * r.draft) << r.key;
    EXPECT_GT(seconds, 0.5 * r.draft) << r.key;
  }
}

TEST(Staging, APourMayHaveSeedsAtSeveralPlaces) {
  Shot s = word("II");
  assign(s, "pours." + s.pours[0].id + ".seed_place=left, right");
  EXPECT_EQ(find_setting(s, "pours." + s.pours[0].id + ".seed_place").text(), "left, right");
  EXPECT_EQ(shot_from_json(shot_to_json(s), "a.pour"), s);
  assign(s, "pours." + s.pours[0].id + ".seed_place=low, top");
  EXPECT_EQ(Staging(s).seeds().size(), 4u) << "two in each letter";
  assign(s, "pours." + s.pours[0].id + ".seed_place=low");
  EXPECT_EQ(Staging(s).seeds().size(), 2u);
  EXPECT_THROW(assign(s, "pours." + s.pours[0].id + ".seed_place=low, nowhere"), Fault);
  EXPECT_THROW(assign(s, "pours." + s.pours[0].id + ".seed_place="), Fault);
}

TEST(Staging, APieceThatBlocksIsAnObstacleAndOneThatShowsIsNothing) {
  Shot s = word();
  s.pieces[0].holds = false, s.pieces[0].blocks = true;
  EXPECT_EQ(Staging(s).gas_world(0).solids.size(), 2u) << "a part each";
  EXPECT_TRUE(Staging(s).gas_world(0).rooms.empty());
  s.pieces[0].holds = s.pieces[0].blocks = false;
  EXPECT_TRUE(Staging(s).gas_world(0).solids.empty());
  EXPECT_TRUE(Staging(s).gas_world(0).rooms.empty());
}

TEST(Staging, APieceMayBeTheSourceInsideTheLetterItStandsIn) {
  Shot s = word("I");
  Piece ball;
  ball.id = "ball", ball.name = "Ball", ball.shape = Ball(), ball.holds = ball.shows = false,
  std::get<Ball>(ball.shape).radius = 0.008;
  ball.position = s.pieces[0].position;
  s.pieces.push_back(ball);
  s.pours[0].from = SourceKind::piece, s.pours[0].source.id = "ball";
  const GasWorld w = Staging(s).gas_world(0);
  ASSERT_EQ(w.sources.size(), 1u);
  EXPECT_EQ(w.sources[0].room, 1);
  s.pieces[1].position.y += 1;
  EXPECT_EQ(Staging(s).gas_world(0).sources[0].room, 0) << "outside it pours into the open";
}

TEST(Staging, PourWindowsOpenAndCloseOnTheirFrames) {
  Shot s = word("I");
  s.film.frame_rate = 25, s.pours[0].windows = windows_at(s, {{3, 7}});
  const Staging scene(s);
  const auto pours = [&](double frame) { return !scene.gas_world((frame - 1) / 25).sources.empty(); };
  EXPECT_FALSE(pours(2));
  EXPECT_FALSE(pours(2.98));
  EXPECT_TRUE(pours(3));
  EXPECT_TRUE(pours(7.5)) << "up to the next frame";
  EXPECT_FALSE(pours(8));
  EXPECT_DOUBLE_EQ(Clock(s).time(26), 1);
}

TEST(Staging, SettingsReachTheSolverInItsUnits) {
  Shot s = word("I");
  first_of<Gravity>(s.forces) = {1.62};
  first_of<Turbulence>(s.forces) = {.speed = 0.3, .size = 0.07, .rate = 0.9};
  first_of<Confinement>(s.forces) = {.speed = 0.04, .size = 0.05};
  s.gas = {.heat_lift = -0.5, .density_lift = 2, .density_half_life = 3, .heat_half_life = 4};
  s.run.open_left = false, s.run.open_top = false;
  s.pours[0].heat = 33, s.pours[0].density_rate = 0.017, s.fluids[0].color() = {0.1, 0.2, 0.3};
  s.pours[0].direction = Direction::left, s.pours[0].speed = 0.4;
  const GasWorld w = Staging(s).gas_world(0);
  EXPECT_EQ(w.gravity, 1.62);
  ASSERT_EQ(w.turbulences.size(), 1u);
  EXPECT_EQ(w.turbulences[0].speed, 0.3);
  EXPECT_EQ(w.turbulences[0].size, 0.07);
  EXPECT_EQ(w.turbulences[0].rate, 0.9);
  ASSERT_EQ(w.confinements.size(), 1u);
  EXPECT_EQ(w.confinements[0].speed, 0.04);
  EXPECT_EQ(w.confinements[0].size, 0.05);
  EXPECT_EQ(w.heat_lift, -0.5);
  EXPECT_EQ(w.density_lift, 2);
  EXPECT_EQ(w.density_half_life, 3);
  EXPECT_EQ(w.heat_half_life, 4);
  EXPECT_FALSE(w.open[side_left]);
  EXPECT_TRUE(w.open[side_right]);
  EXPECT_FALSE(w.open[side_top]);
  EXPECT_TRUE(w.open[side_bottom]);
  const Source& source = w.sources.at(0);
  EXPECT_EQ(source.heat, 33);
  EXPECT_EQ(source.density, 0.017);
  EXPECT_EQ(source.palette.colors[0], (Vec3d{0.1, 0.2, 0.3}));
  EXPECT_TRUE(source.blows);
  EXPECT_NEAR(source.velocity.x, -0.4, 1e-12);
  s.pours[0].mode = PourMode::sets, s.pours[0].density = 0.006;
  s.pours[0].direction = Direction::outwards;
  const Source other = Staging(s).gas_world(0).sources.at(0);
  EXPECT_TRUE(other.sets);
  EXPECT_EQ(other.density, 0.006);
  EXPECT_FALSE(other.blows);
  EXPECT_GT(other.divergence, 0);
}

// A force acts on its fluids, in its windows, and through glass only where it is told to.
TEST(Staging, ForcesActWhereWhenAndOnWhatTheySay) {
  Shot s = find_recipe("tea-into-a-bowl").make();
  s.film.frames = 48;
  const std::string tea = s.fluids[0].id;
  add_new_fluid<Smoke>(s, "Mist");
  const std::string wind = add_new_force(s, int(ForceKind(Wind()).index()), "").substr(7);
  s.force(wind)->acts_on.ids = {tea};
  assign(s, "forces.wind.always=no"), assign(s, "forces.wind.windows=13-24");
  const Staging staging(s);
  EXPECT_TRUE(staging.liquid_world(0, 0.02, 0).fields.empty()) << "before its window";
  const LiquidWorld w = staging.liquid_world(0.6, 0.62, 0);
  ASSERT_EQ(w.fields.size(), 1u);
  EXPECT_EQ(w.gravity, 9.81) << "gravity of all that flows stays a number";
  EXPECT_EQ(w.fields[0].liquids, (std::vector<uint8_t>{1, 0}));
  EXPECT_FALSE(w.fields[0].inside);
  EXPECT_NEAR(w.fields[0].since, 0.1, 1e-9);
  EXPECT_NEAR(staging.liquid_world(0.99, 1.01, 0).fields.at(0).share, 0.5, 1e-6) << "half of the step";
  EXPECT_TRUE(staging.gas_world(0.6, 0.62).fields.empty()) << "not on the mist";
  s.force("gravity")->acts_on.ids = {tea};
  EXPECT_EQ(Staging(s).gas_world(0).gravity, 0);
  assign(s, "forces.wind.reach=piece");
  EXPECT_THROW(Staging{s}, Fault) << "which piece?";
}

TEST(Staging, BoundsHoldThePiecesInWholeBlocks) {
  for (const char* recipe : {"fill-a-word", "around-a-word", "rising-smoke"}) {
    const Shot shot = find_recipe(recipe).make();
    const Staging scene(shot);
    const GasWorld w = scene.gas_world(0);
    for (int a = 0; a < 3; ++a) {
      EXPECT_EQ(w.low[a] & 7, 0) << recipe;
      EXPECT_EQ((w.cells[a] + 1) % 8, 0) << recipe;
      EXPECT_LE(w.low[a] * w.cell_size, scene.bounds().low[a] + 1e-9);
      EXPECT_GE((w.low[a] + w.cells[a]) * w.cell_size, scene.bounds().high[a] - 1e-9);
    }
    const Box pieces = Space(shot).pieces;
    EXPECT_LE(scene.bounds().low.y, pieces.low.y + 1e-9);
    EXPECT_GE(scene.bounds().high.y, pieces.high.y - 1e-9);
  }
}

TEST(Staging, GuessesGrowWithTheWork) {
  Shot s = word("OI");
  const Estimate draft = Staging(s).estimate();
  s.run.detail = Detail::final;
  const Estimate final = Staging(s).estimate();
  EXPECT_GT(final.cells, 5 * draft.cells);
  EXPECT_GT(final.seconds, 5 * draft.seconds);
  EXPECT_GT(final.memory, draft.memory);
  EXPECT_GT(final.disk, draft.disk);
  EXPECT_GT(Staging(s).estimate({1e-5, 0.5}).seconds, 3 * Staging(s).estimate({1e-6, 0.5}).seconds)
      << "a slow machine was measured";
  EXPECT_GT(Staging(s).estimate({1e-6, 2}).seconds, 2 * Staging(s).estimate({1e-6, 0.5}).seconds)
      << "fast smoke takes more steps";
}

TEST(Staging, WhatCannotRunSaysWhy) {
  Shot s = word("I");
  s.pours.clear();
  EXPECT_THAT(fault_of(s), HasSubstr("Fluid"));
  s = word("I");
  s.pours[0].from = SourceKind::piece, s.pours[0].source.id = "gone";
  EXPECT_THAT(fault_of(s), testing::AllOf(HasSubstr("gone"), HasSubstr("Mint smoke")));
  s = word("");
  EXPECT_THAT(fault_of(s), HasSubstr("no text"));
  s = word("I");
  s.run.fit_bounds = false, s.run.bounds_center = {9, 9, 9};
  EXPECT_THAT(fault_of(s), HasSubstr("bounds"));
  s = word(std::string(300, 'M'));
  std::get<Lettering>(s.pieces[0].shape).letter_size = 30, s.run.detail = Detail::custom,
  s.run.cell_size = 0.005;
  EXPECT_THAT(fault_of(s), HasSubstr("Use cells of"));
}

// Common practice, no source: a pour window is as long as what is filmed takes, whatever the film shows of
// it.
TEST(Staging, APourPoursAsLongAsWhatIsFilmedTakes) {
  Shot s = find_recipe("tea-into-a-bowl").make();
  s.film.frames = 48, s.film.frame_rate = 24;
  Pour& p = s.pours.front();
  p.windows = windows_at(s, {{1, 24}});
  EXPECT_NEAR(seconds_of(s, Clock(s), p), 1, 1e-9);
  p.windows = windows_at(s, {{1, 12}, {37, 96}});  // beyond its end the film shows nothing
  EXPECT_NEAR(seconds_of(s, Clock(s), p), 1, 1e-9);
  p.windows = windows_at(s, {{1, 24}});
  s.film.capture = 240;  // ten times as slow: all of the film is a fifth of a second
  EXPECT_NEAR(seconds_of(s, Clock(s), p), 0.2, 1e-9);
  p.pulse_period = 4 / 24.0, p.pulse_share = 0.25;
  EXPECT_NEAR(seconds_of(s, Clock(s), p), 1.8 / 24, 1e-9) << "one whole pulse, and 0.8 frames of the second";
}

// The one estimate: what is expected of each frame, corrected by what the run shows.
TEST(Staging, TheTimeLeftIsSteadyAndRightWithinTwo) {
  Shot s = find_recipe("tea-into-a-bowl").make();
  s.run.detail = Detail::draft;
  const Estimate e = Staging(s).estimate();
  ASSERT_EQ(e.frames.size(), size_t(s.film.frames));
  EXPECT_NEAR(std::accumulate(e.frames.begin(), e.frames.end(), 0.0), e.seconds, 1e-9 * e.seconds);
  EXPECT_GT(e.frames.back(), 10 * e.frames.front()) << "the more was poured, the longer a frame takes";
  // A machine that takes nearly twice as long for every frame, and is uneven at that.
  const auto takes = [&](size_t f) { return e.frames[f] * (f % 2 ? 2.2 : 1.4); };
  double whole = 0, took = 0, expected = 0;
  for (size_t f = 0; f < e.frames.size(); ++f) whole += takes(f);
  double before = 0;
  for (size_t f = 0; f + 1 < e.frames.size(); ++f) {
    took += takes(f), expected += e.frames[f];
    const double left = seconds_left(took, expected, e.seconds - expected);
    EXPECT_GT(left, 0.5 * (whole - took)) << f;
    EXPECT_LT(left, 2 * (whole - took)) << f;
    if (f) {
      EXPECT_NEAR(left, before, 0.05 * whole) << f;
    }
    before = left;
  }
  // From the first run on, its own pace counts.
  Pace measured;
  measured.seconds_per_particle = 1e-6, measured.liquid_speed = 1.3;
  const double once = Staging(s).estimate(measured).seconds;
  measured.seconds_per_particle = 3e-6;
  EXPECT_NEAR(Staging(s).estimate(measured).seconds, 3 * once, 1e-6 * once);
}

// What a pour brings is its rate times the time in which it pours, whatever the steps are.

// Liquid that one gather hands to the next: at every frame all of it is there, and none faster than either
// allows.
TEST(Gathers, HandOverAllTheyHold) {
  NEEDS_LONG;
  Shot s = find_recipe("a-word-into-a-mark").make();
  s.run.cell_size = 0.0035;
  double fastest = 0;
  for (const Force& f : s.forces)
    if (const auto* g = f.as<Gather>()) fastest = std::max(fastest, g->fastest);
  const Staging staging(s);
  const auto flow = liquid_flow(staging);
  flow->begin();
  const double particles = flow->measure().particles;
  EXPECT_GT(particles, 1000);
  for (int f = 2; f <= s.film.frames; ++f) {
    flow->advance(f, staging.clock().time(f), {});
    const FlowRecord now = flow->measure();
    EXPECT_EQ(now.particles, particles) << f;
    EXPECT_LE(now.max_speed, fastest * 1.0001) << f;
  }
}

// A block is solid and in the picture until it turns into liquid or smoke of its own volume.
TEST(Pours, APieceTurnsIntoAFluid) {
  for (const FluidKind& what : {FluidKind(Liquid()), FluidKind(Smoke())}) {
    const bool smoke = std::holds_alternative<Smoke>(what);
    Shot s;
    s.pieces.clear(), s.fluids.clear(), s.pours.clear();
    s.film.frames = 12;
    Piece block;
    block.id = "block", block.name = "Block", block.shape = Block{{0.08, 0.08, 0.08}, 0};
    block.holds = false, block.blocks = true, block.position = {0.0013, 0.1, 0};
    s.pieces = {block};
    (void)add_new_fluid(s, int(what.index()), "Caramel");
    Pour& p = s.pours.back();
    p.from = SourceKind::piece, p.source.id = "block", p.windows = {}, p.rate = 0, p.speed = 0;
    p.patchiness = 0, p.density = 0.01, p.fill_at.time = 5 / 24.0, p.replaces_source = true;
    s.run.detail = Detail::custom, s.run.cell_size = 0.005;
    EXPECT_TRUE(shot_at(s, 5).pieces[0].shows);
    EXPECT_FALSE(shot_at(s, 6).pieces[0].shows);
    EXPECT_FALSE(shot_at(s, 6).pieces[0].blocks);
    const Staging staging(s);
    const auto flow = std::move(flows_of(staging).front());
    flow->begin();
    for (int f = 2; f <= 5; ++f) flow->advance(f, staging.clock().time(f), {});
    EXPECT_EQ(flow->measure().ledger.poured, 0) << "solid";
    const auto solids = [&](double time) { return staging.gas_world(time).solids.size(); };
    EXPECT_EQ(solids(4.5 / 24), 1u);
    flow->advance(6, staging.clock().time(6), {});
    EXPECT_EQ(solids(5 / 24.0), 0u);
    const double whole = std::pow(0.08, 3) * (smoke ? p.density : 1);
    EXPECT_NEAR(flow->measure().ledger.poured, whole, 0.03 * whole);
    for (int f = 7; f <= 9; ++f) flow->advance(f, staging.clock().time(f), {});
    const FlowRecord now = flow->measure();
    const double fallen = 9.81 * std::pow(3 / 24.0, 2) / 2;
    if (!smoke) {
      EXPECT_NEAR(now.centroid.y, std::max(0.1 - fallen, 0.04), 0.02) << "it falls from then on";
    }
    EXPECT_NEAR(now.ledger.in_shot + now.ledger.left, whole, 0.05 * whole);
  }
}

namespace {

/// What came out of the only pour of a shot, and what its windows and pulses say, m³ or kg.
std::pair<double, double> poured(const Shot& shot, double rate) {
  const Staging staging(shot);
  const auto flows = flows_of(staging);
  for (const auto& flow : flows) flow->begin();
  for (int f = 2; f <= shot.film.frames + 1; ++f)
    for (const auto& flow : flows) flow->advance(f, staging.clock().time(f), {});
  return {flows.front()->measure().ledger.poured, rate * seconds_of(shot, staging.clock(), shot.pours[0])};
}

}  // namespace

TEST(Pours, BringTheirRateAtEveryStepFrameRateAndSlowMotion) {
  Shot tea = find_recipe("tea-into-a-bowl").make();
  tea.run.detail = Detail::custom;
  tea.pours[0].rate = 1e-4;
  struct Case {
    double fps, capture, cell;
    int period;  // frames as they are played
    double share;
  };
  for (const Case& c : {Case{24, 0, 0.004, 0, 0},
                        {25, 0, 0.007, 0, 0},
                        {60, 0, 0.005, 2, 0.25},
                        {23.976, 59, 0.006, 0, 0},
                        {24, 100, 0.005, 2, 0.3},
                        {24, 7, 0.007, 0, 0},
                        {12, 5, 0.006, 1, 0.4}}) {
    Shot s = tea;
    s.film.frame_rate = c.fps, s.film.capture = c.capture, s.run.cell_size = c.cell;
    s.pours[0].pulse_period = c.period / c.fps, s.pours[0].pulse_share = c.share;
    s.pours[0].windows = {{{1 / c.fps, 3 / c.fps}, {4 / c.fps, 5 / c.fps}}};
    s.film.frames = int(std::ceil(5.2 * (c.capture > 0 ? c.capture / c.fps : 1))) + 1;
    const auto [came, said] = poured(s, s.pours[0].rate);
    const double particle = std::pow(c.cell, 3) / 8;
    EXPECT_NEAR(came, said, std::max(0.005 * said, particle * 1.01))
        << c.fps << " " << c.capture << " " << c.cell;
    EXPECT_GT(said, 20 * particle);
    if (c.period == 0 || c.capture == 0) continue;
    // By its volume: all of it comes, whatever slow motion and pulses do.
    s.pours[0].volume = 4e-6;
    EXPECT_NEAR(poured(s, 0).first, 4e-6, std::max(0.005 * 4e-6, particle * 1.01))
        << c.fps << " " << c.capture << " " << c.cell;
  }
}

TEST(Pours, PulsesOfSmokeBringTheirShare) {
  Shot s = find_recipe("rising-smoke").make();
  s.run.detail = Detail::custom, s.run.cell_size = 0.02, s.film.frames = 6;
  s.pours[0].windows = windows_at(s, {{1, 6}}), s.pours[0].patchiness = 0;
  const double steady = poured(s, 1).first;
  for (const double share : {0.1, 0.35, 0.8}) {
    s.pours[0].pulse_period = 1 / s.film.frame_rate, s.pours[0].pulse_share = share;
    EXPECT_NEAR(poured(s, 1).first / steady, share, 0.005 * share) << "a step here is a frame long";
  }
}

TEST(Pours, AreCountedWithTheirWindowsAndPulses) {
  Pour p;
  p.windows = {{{2, 4}, {6, 10}}};
  EXPECT_DOUBLE_EQ(pouring_time(p, 1, 100), 6);
  EXPECT_DOUBLE_EQ(pouring_time(p, 3.5, 6.25), 0.75);
  EXPECT_DOUBLE_EQ(pouring_time(p, 4, 6), 0);
  p.pulse_period = 3, p.pulse_share = 0.5;  // from 2 to 3.5, from 6 to 7.5, from 9 to 10
  EXPECT_DOUBLE_EQ(pouring_time(p, 1, 100), 1.5 + 1.5 + 1);
  EXPECT_DOUBLE_EQ(pouring_time(p, 7, 9.5), 0.5 + 0.5);
}
