// Tracks, the clock and shots at a time.
#include "shot/track.h"
#include "picture/quick_picture.h"
#include "run/space.h"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <chrono>
#include <cmath>
#include <limits>
#include <set>

#include "base/error.h"
#include "shape/pose.h"
#include "shot/animate.h"
#include "shot/assign.h"
#include "shot/compare.h"
#include "shot/edit.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"

namespace pour {
namespace {

using testing::HasSubstr;

const About plain{.key = "x", .name = "X", .help = "", .low = -1e9, .high = 1e9};

Track through(std::initializer_list<std::pair<double, double>> keys, Ease ease = Ease::smooth) {
  Track t;
  for (const auto& [time, value] : keys) t.keys.push_back({time, value, ease, {}});
  return t;
}
double at(const Track& t, double time) { return std::get<double>(evaluate(plain, t, time)); }

std::string fault_of(const std::function<void()>& f) {
  try {
    f();
  } catch (const Fault& fault) {
    return fault.what();
  }
  return {};
}

}  // namespace

TEST(Track, HoldsOrGoesEvenly) {
  EXPECT_EQ(at(through({{1, 2}, {11, 12}}, Ease::hold), 10.9), 2);
  EXPECT_DOUBLE_EQ(at(through({{1, 2}, {11, 12}}, Ease::linear), 4), 5);
  EXPECT_EQ(at(through({{5, 3}}), 100), 3) << "one key is a constant";
}

// A cubic Bézier curve by its definition, B(t) = Σ binomial(3, i) (1 - t)^(3 - i) t^i P_i: at the curve's own
// parameter the ease gives the way that belongs to the time.
TEST(Track, OwnHandlesAreABezierCurve) {
  const Handles h{0.2, -0.4, 0.5, 1.3};
  for (int i = 0; i <= 20; ++i) {
    const double t = i / 20.0, s = 1 - t;
    const double time = 3 * s * s * t * h.out_time + 3 * s * t * t * h.in_time + t * t * t,
                 way = 3 * s * s * t * h.out_way + 3 * s * t * t * h.in_way + t * t * t;
    EXPECT_NEAR(bezier_ease(h, time), way, 1e-9) << t;
  }
  EXPECT_NEAR(bezier_ease({1.0 / 3, 1.0 / 3, 2.0 / 3, 2.0 / 3}, 0.37), 0.37, 1e-12) << "a straight line";
}

// Fritsch & Carlson 1980: a monotone interpolant stays monotone where the keys are, level at turning points,
// and passes the keys.
TEST(Track, SmoothNeverGoesBeyondItsKeys) {
  const Track t = through({{0, 0}, {10, 1}, {12, 10}, {30, 10.5}, {40, 3}});
  double before = at(t, 0);
  for (double f = 0.25; f <= 30; f += 0.25) {
    EXPECT_GE(at(t, f), before - 1e-12) << f;
    before = at(t, f);
  }
  for (double f = 30; f <= 40; f += 0.25) EXPECT_LE(at(t, f), 10.5 + 1e-12);
  for (const Key& k : t.keys) EXPECT_DOUBLE_EQ(at(t, k.time), std::get<double>(k.value));
  EXPECT_NEAR((at(t, 30.001) - at(t, 29.999)) / 0.002, 0, 1e-2) << "level where it turns";
  EXPECT_NEAR((at(t, 10.001) - at(t, 10)) / 0.001, (at(t, 10) - at(t, 9.999)) / 0.001, 1e-2) << "no kink";
}

TEST(Track, BeyondTheKeys) {
  Track t = through({{10, 1}, {20, 3}}, Ease::linear);
  EXPECT_EQ(at(t, 0), 1);
  t.before = t.after = Beyond::repeats;
  EXPECT_DOUBLE_EQ(at(t, 25), 2);
  EXPECT_DOUBLE_EQ(at(t, 7), 2.4);
  t.before = t.after = Beyond::swings;
  EXPECT_DOUBLE_EQ(at(t, 22), 2.6);
  EXPECT_DOUBLE_EQ(at(t, 32), 1.4);
  EXPECT_DOUBLE_EQ(at(t, 8), 1.4);
  t.before = t.after = Beyond::adds;
  EXPECT_DOUBLE_EQ(at(t, 35), 6);
  EXPECT_DOUBLE_EQ(at(t, 5), 0);
}

TEST(Track, ChoicesAndYesAndNoOnlyHold) {
  Track t;
  t.keys = {{1, false, Ease::linear, {}}, {10, true, Ease::linear, {}}};
  EXPECT_FALSE(std::get<bool>(evaluate(plain, t, 9.99)));
  EXPECT_TRUE(std::get<bool>(evaluate(plain, t, 10)));
}

// The wobble has no waves faster than its rate: its values at a fine grid have (nearly) no power above it.
TEST(Track, WobbleIsBandLimitedSeededAndOfItsSize) {
  Track t = through({{1, 5}});
  t.wobble.amount.x = 2, t.wobble.rate.x = 3, t.wobble.seed = 7;
  constexpr int n = 1024;
  constexpr double step = 1.0 / 64;  // s
  std::vector<double> v;
  double most = 0;
  for (int i = 0; i < n; ++i) {
    v.push_back(std::get<double>(evaluate(plain, t, i * step)) - 5);
    most = std::max(most, std::abs(v.back()));
  }
  EXPECT_GT(most, 0.8);
  EXPECT_LT(most, 4.5);
  double inside = 0, outside = 0;
  for (int k = 1; k < n / 2; ++k) {
    double re = 0, im = 0;
    for (int i = 0; i < n; ++i) {
      const double window = 0.5 - 0.5 * std::cos(2 * M_PI * i / n);
      re += window * v[size_t(i)] * std::cos(2 * M_PI * k * i / n),
          im += window * v[size_t(i)] * std::sin(2 * M_PI * k * i / n);
    }
    (k / (n * step) > 3.2 ? outside : inside) += re * re + im * im;
  }
  EXPECT_LT(outside, 1e-4 * inside);
  Track other = t;
  other.wobble.seed = 8;
  EXPECT_NE(at(other, 30), at(t, 30));
  EXPECT_EQ(at(t, 30), at(Track(t), 30));
}

TEST(Track, StaysWithinTheRangeOfItsSetting) {
  About glass = plain;
  glass.low = 0, glass.high = 1;
  Track t = through({{0, 0.9}, {10, 0.1}}, Ease::own);
  t.keys[0].handles = {0.3, -3, 0.6, 4};
  for (double f = 0; f <= 10; f += 0.5) {
    const double v = std::get<double>(evaluate(glass, t, f));
    EXPECT_GE(v, 0);
    EXPECT_LE(v, 1);
  }
}

// SMPTE ST 12-1: 23.976, 29.97 and 59.94 frames a second are 24, 30 and 60 times 1000 / 1001.
TEST(Clock, RatesAreExact) {
  const auto is = [](double fps, int num, int den) {
    const FrameRate r = exact_rate(fps);
    EXPECT_EQ(r.num, num) << fps;
    EXPECT_EQ(r.den, den) << fps;
  };
  is(23.976, 24000, 1001), is(29.97, 30000, 1001), is(59.94, 60000, 1001);
  is(24, 24, 1), is(25, 25, 1), is(50, 50, 1), is(12.5, 12500, 1000), is(12.99, 12990, 1000);
  Shot s;
  s.film.frame_rate = 29.97;
  EXPECT_DOUBLE_EQ(Clock(s).time(30001), 1001.0) << "30000 frames last 1001 s";
}

TEST(Clock, SlowMotionIsTheSumOfTheFramesBefore) {
  Shot s;
  s.film.frame_rate = 24, s.film.capture = 96;
  EXPECT_DOUBLE_EQ(Clock(s).time(97), 1);
  assign(s, "film.capture@1=24 hold");
  assign(s, "film.capture@25=240 hold");
  const Clock clock(s);
  EXPECT_NEAR(clock.time(25), 1, 1e-12);
  EXPECT_NEAR(clock.time(35), 1 + 10 / 240.0, 1e-12);
  for (const double f : {1.0, 7.25, 25.0, 31.5, 200.0}) EXPECT_NEAR(clock.film_frame(clock.time(f)), f, 1e-9);
}

// One clock for people: frames of the film, whatever slow motion does to what is filmed.
TEST(Clock, PeopleReadAndTypeFramesOfTheFilm) {
  Shot s = find_recipe("tea-into-a-bowl").make();
  assign(s, "film.capture=96"), assign(s, "pours.tea.windows=1-40, 61-80"), assign(s, "pours.tea.fill_at=20");
  assign(s, "pours.tea.speed@9=1 m/s"), assign(s, "camera.distance@9=1 m");
  const Pour& p = *s.pour("tea");
  EXPECT_DOUBLE_EQ(p.windows.list[1].from, 60 / 96.0);
  EXPECT_DOUBLE_EQ(p.windows.list[1].to, 80 / 96.0);
  EXPECT_DOUBLE_EQ(*p.fill_at.time, 19 / 96.0);
  EXPECT_DOUBLE_EQ(p.tracks.at("speed").keys[0].time, 8 / 96.0) << "as it is filmed";
  EXPECT_DOUBLE_EQ(s.camera.tracks.at("distance").keys[0].time, 8 / 24.0) << "as the film is played";
  const auto text = [&](const char* path) {
    const Setting about = find_setting(s, path);
    return about.track ? to_text(about, *about.track) : about.text();
  };
  EXPECT_EQ(text("pours.tea.windows"), "1-40, 61-80");
  EXPECT_EQ(text("pours.tea.fill_at"), "20");
  EXPECT_EQ(text("pours.tea.speed"), "9: 1 m/s");
  EXPECT_EQ(text("camera.distance"), "9: 100 cm");
  // A time with a unit, which is on no frame.
  assign(s, "pours.tea.windows=0.1s-450 ms"), assign(s, "pours.tea.speed@0.4s=2 m/s");
  EXPECT_EQ(s.pour("tea")->windows, (Windows{{{0.1, 0.45}}}));
  EXPECT_EQ(text("pours.tea.windows"), "0.1 s-0.45 s");
  EXPECT_THAT(text("pours.tea.speed"), HasSubstr("0.4 s: 2 m/s"));
  assign(s, "pours.tea.speed@400ms=");
  EXPECT_EQ(text("pours.tea.speed"), "9: 1 m/s");
  assign(s, "pours.tea.fill_at=never");
  EXPECT_FALSE(s.pour("tea")->fill_at.time);
  for (const char* wrong : {"pours.tea.windows=0-4", "pours.tea.windows=-1s-4", "pours.tea.fill_at=0"})
    EXPECT_THAT(fault_of([&] { assign(s, wrong); }), HasSubstr("before frame 1")) << wrong;
  EXPECT_THAT(fault_of([&] { assign(s, "pours.tea.windows=2s-1s"); }), HasSubstr("ends before"));
}

TEST(Clock, WhatFlowsKeepsItsSecondsAndIsSaidToMove) {
  Shot s = find_recipe("tea-into-a-bowl").make();
  assign(s, "pours.tea.windows=1-10"), assign(s, "pours.tea.speed@9=1 m/s"),
      assign(s, "camera.distance@9=1 m");
  Shot slow = s;
  assign(slow, "film.capture=96");
  EXPECT_EQ(slow.pours, s.pours);
  EXPECT_EQ(find_setting(slow, "pours.tea.windows").text(), "1-40");
  const std::string said = moved_in_film(s, slow);
  EXPECT_THAT(said, HasSubstr("Pour windows: 1-10 → 1-40"));
  EXPECT_THAT(said, HasSubstr("Source speed (keys)"));
  EXPECT_THAT(said, testing::Not(HasSubstr("Distance"))) << "the camera is on the film";
  EXPECT_EQ(moved_in_film(s, s), "");
  Shot other = s;
  assign(other, "pours.tea.windows=1-12");
  EXPECT_EQ(moved_in_film(s, other), "") << "its time did not change";
}

TEST(ShotAt, GivesThePlainShotOfATime) {
  Shot s = find_recipe("fill-a-word").make();
  assign(s, "gas.density_lift@1=-1 linear"), assign(s, "gas.density_lift@49=3");
  assign(s, "look.floor@10=no"), assign(s, "look.floor@30=yes");
  assign(s, "pieces.word.spin=0°/s, 90°/s, 0°/s");
  const Shot now = shot_at(s, 25);
  EXPECT_DOUBLE_EQ(now.gas.density_lift, 1);
  EXPECT_FALSE(now.look.floor);
  EXPECT_DOUBLE_EQ(now.pieces[0].turn.y, 90 * degree) << "a second later";
  EXPECT_TRUE(animated_paths(now).empty());
  EXPECT_EQ(shot_at(now, 99), now) << "nothing changes any more";
}

TEST(ShotAt, PosesFollowPathsAndParents) {
  Shot s = find_recipe("fill-a-word").make();
  const std::string way = add_new_piece(s, 7, "Way"), ball = add_new_piece(s, 1, "Follower");
  set_text(s, way + ".points", "0, 0, 0; 10, 0, 0; 20, 0, 0", "p");  // cm
  set_text(s, way + ".position", "0, 1 m, 0", "p"), set_text(s, ball + ".position", "0, 5 cm, 0", "p");
  set_text(s, ball + ".path", "way", "p"), set_text(s, ball + ".progress", "25 %", "p");
  const auto place = [&](const char* id) { return pose_of(s, *s.piece(id)).position; };
  EXPECT_LT(length(place("follower") - Vec3d{0.05, 1.05, 0}), 1e-3);
  // A piece that belongs to another one stands still when it is given away, and goes along from then on.
  const std::string box = add_new_piece(s, 2, "Child");
  set_text(s, "pieces.word.turn", "0°, 90°, 0°", "t");
  const Vec3d before = place("child");
  set_parent(s, "child", "word");
  EXPECT_LT(length(place("child") - before), 1e-12);
  s.piece("word")->position.x += 1;
  EXPECT_LT(length(place("child") - before - Vec3d{1, 0, 0}), 1e-12);
  const Vec3d moved = place("child");
  remove_item(s, "pieces.word");
  EXPECT_LT(length(place("child") - moved), 1e-12) << "it stays where its parent left it";
  EXPECT_THAT(fault_of([&] { set_parent(s, "child", "child"); }), HasSubstr("moves with itself"));
}

TEST(ShotAt, IsFastWithFiftyPiecesAndTracks) {
  // The budget is a millisecond; bench/ measures it. Here: it is no product of pieces and settings.
  Shot s;
  for (int i = 0; i < 50; ++i) {
    const std::string path = add_new_piece(s, 1, "Ball " + std::to_string(i));
    assign(s, path + ".position@1=0, 0, 0"), assign(s, path + ".position@50=0, 1 m, 0");
  }
  EXPECT_EQ(animated_paths(s).size(), 50u);
  EXPECT_NEAR(shot_at(s, 50).pieces[49].position.y, 1, 1e-12);
  EXPECT_EQ(shot_from_json(shot_to_json(s), "again"), s);
}

TEST(Assign, LinksThatAreLostCanBeMended) {
  Shot s = find_recipe("fill-a-word").make();
  const std::string way = add_new_piece(s, 7, "Way"), ball = add_new_piece(s, 1, "Follower");
  assign(s, ball + ".path=way");
  const Vec3d before = pose_of(s, *s.piece("follower")).position;
  remove_item(s, way);
  EXPECT_LT(length(pose_of(s, *s.piece("follower")).position - before), 1e-12)
      << "it stays where its path left it";
  EXPECT_THAT(fault_of([&] { assign(s, ball + ".attached_to=nobody"); }), HasSubstr("no piece of this shot"));
  s.piece("follower")->parent.id = "gone";
  assign(s, ball + ".attached_to=");
  EXPECT_NO_THROW((void)pose_of(s, *s.piece("follower")));
  EXPECT_THAT(fault_of([&] { assign(s, "film.capture=0.001"); }), HasSubstr("out of range"));
  assign(s, "film.capture=as played");
  EXPECT_EQ(s.film.capture, 0);
}

// Words for 0 between keys.

namespace {

/// A setting of a recipe at a frame of the film, after these assignments.
double animated(const char* recipe, const std::vector<std::string>& assignments, const std::string& path,
                double frame) {
  Shot s = find_recipe(recipe).make();
  for (const std::string& a : assignments) assign(s, a);
  return std::get<double>(find_setting(shot_at(s, frame), path).value);
}

}  // namespace

TEST(Tracks, AWordForANumberIsMixedAsThatNumber) {
  const double speed =
      animated("fill-a-word", {"film.capture@1=as played linear", "film.capture@11=124"}, "film.capture", 6);
  EXPECT_DOUBLE_EQ(speed, (24 + 124) / 2.0);
  const double warm = animated(
      "fill-a-word", {"lights.key.temperature@1=by its colour linear", "lights.key.temperature@11=2500"},
      "lights.key.temperature", 6);
  EXPECT_DOUBLE_EQ(warm, (6500 + 2500) / 2.0) << "a light of 6500 K has no tint";
  const double focus = animated("fill-a-word",
                                {"camera.distance=1 m", "camera.f_number=2",
                                 "camera.focus@1=at the target linear", "camera.focus@11=3 m"},
                                "camera.focus", 6);
  EXPECT_DOUBLE_EQ(focus, 2);
}

TEST(Tracks, AWordThatIsNoNumberHoldsUntilTheNextKey) {
  const std::vector<std::string> keys{"gas.heat_half_life@1=never linear", "gas.heat_half_life@11=4 linear",
                                      "gas.heat_half_life@21=2 linear", "gas.heat_half_life@31=never"};
  const auto at = [&](double f) { return animated("fill-a-word", keys, "gas.heat_half_life", f); };
  const std::vector<std::pair<double, double>> expected{{1, 0},  {10.9, 0}, {11, 4}, {16, 3},
                                                        {21, 2}, {30.9, 2}, {31, 0}};
  for (const auto& [frame, value] : expected) EXPECT_DOUBLE_EQ(at(frame), value) << frame;
  EXPECT_EQ(
      animated("tea-into-a-bowl", {"surface.cell@1=½ cell linear", "surface.cell@9=4mm"}, "surface.cell", 5),
      0)
      << "not a tenth of a millimetre, for which no memory is enough";
}

TEST(Tracks, EveryWordForZeroIsANumberOrHolds) {
  // A new word has to say which; one of a setting that begins at 0 may mean just that.
  const std::set<std::string> means_zero{"at full speed", "at once", "sharp",  "smooth",
                                         "even",          "none",    "no blur"};
  for (const Recipe& r : recipes()) {
    const Shot s = r.make();
    for (const Group& g : describe(s))
      for (const Setting& row : g.settings) {
        if (!*row.zero || !row.can_animate() || parts_of(row.value) == 0) continue;
        const bool rate = std::string(row.key) == "patch_rate";  // never changing is 0 changes a second
        EXPECT_TRUE(row.zero_holds || row.zero_is > 0 || rate || means_zero.contains(row.zero))
            << g.path(row);
        EXPECT_TRUE(row.low <= 0 || row.zero_holds || row.zero_is > 0) << g.path(row);
      }
  }
}

TEST(Assign, KeysByWords) {
  Shot s = find_recipe("fill-a-word").make();
  assign(s, "forces.gravity.strength@12=0.4 linear"), assign(s, "forces.gravity.strength@48=1 g");
  const Setting g = find_setting(s, "forces.gravity.strength");
  ASSERT_TRUE(g.track);
  EXPECT_EQ(to_text(g, *g.track), "12: 0.4 m/s² linear, 48: 9.80665 m/s²");
  assign(s, "forces.gravity.strength@24=2 own 0.1 0 0.2 1"),
      assign(s, "forces.gravity.strength@after=swings");
  assign(s, "forces.gravity.strength@wobble=0.5"), assign(s, "forces.gravity.strength@wobble_rate=2");
  EXPECT_EQ(find_track(s, "forces.gravity.strength")->keys[1].handles, (Handles{0.1, 0, 0.2, 1}));
  EXPECT_EQ(find_track(s, "forces.gravity.strength")->wobble.amount.x, 0.5);
  EXPECT_THAT(fault_of([&] { assign(s, "forces.gravity.strength=3"); }),
              HasSubstr("not clear what is meant"));
  assign(s, "forces.gravity.strength@24=");
  EXPECT_EQ(find_track(s, "forces.gravity.strength")->keys.size(), 2u);
  EXPECT_THAT(fault_of([&] { assign(s, "forces.gravity.strength@24="); }),
              HasSubstr("no key that could be removed"));
  assign(s, "forces.gravity.strength@=3");
  EXPECT_FALSE(find_track(s, "forces.gravity.strength"));
  EXPECT_EQ(first_of<Gravity>(s.forces).strength, 3);
  for (const char* no :
       {"pieces.word.text@3=A", "run.cell_size@3=1mm", "film.frames@2=3", "pieces.word.spin@1=0,0,0"})
    EXPECT_THAT(fault_of([&] { assign(s, no); }), HasSubstr("can't change within a shot")) << no;
  EXPECT_THAT(fault_of([&] { assign(s, "forces.gravity.strength@nan=3"); }), HasSubstr("has no track"));
  EXPECT_THAT(fault_of([&] { assign(s, "forces.gravity.strength@3=nan"); }), testing::Not(""));
  EXPECT_THAT(fault_of([&] { assign(s, "forces.gravity.strength@1e9=3"); }), HasSubstr("too far"));
}

TEST(Assign, ChangesAreSaidInWords) {
  Shot a = find_recipe("fill-a-word").make();
  assign(a, "gas.density_lift@1=0"), assign(a, "gas.density_lift@48=-0.5");
  const auto one = [&](const char* assignment) {
    Shot b = a;
    assign(b, assignment);
    const auto list = changes(a, b);
    return list.size() == 1 ? list[0].text : std::to_string(list.size()) + " changes";
  };
  EXPECT_EQ(one("gas.density_lift@48=-1"), "Density lift: key at 48 -0.5 → -1");
  EXPECT_EQ(one("gas.density_lift@60=-1"), "Density lift: key at 60 is new, -1");
  EXPECT_EQ(one("gas.density_lift@48="), "Density lift: key at 48 was removed");
  EXPECT_EQ(one("gas.density_lift@1=0 hold"), "Density lift: key at 1 Smooth → Hold");
  EXPECT_EQ(one("gas.density_lift@after=repeats"), "Density lift: after its keys Stays → Repeats");
  EXPECT_EQ(one("forces.gravity.strength@1=0"), "Strength is animated: 1: 0 m/s²");
  EXPECT_EQ(one("gas.density_lift@=2"), "Density lift is no longer animated, 2");
}

TEST(Tracks, BadFilesAreExplained) {
  const Shot good = [] {
    Shot s = find_recipe("fill-a-word").make();
    assign(s, "forces.gravity.strength@1=1"), assign(s, "forces.gravity.strength@7=2");
    return s;
  }();
  const std::string text = shot_to_json(good);
  const auto with = [&](const std::string& from, const std::string& to) {
    std::string t = text;
    const size_t i = t.find(from);
    EXPECT_NE(i, std::string::npos) << from;
    t.replace(i, from.size(), to);
    return fault_of([&] { (void)shot_from_json(t, "a.pour"); });
  };
  EXPECT_THAT(with("\"time\": 0.25", "\"time\": 0.0"), HasSubstr("two keys at 0 s"));
  EXPECT_THAT(with("\"value\": 2.0", "\"value\": null"), HasSubstr("key at 0.25 s"));
  EXPECT_EQ(with("\"value\": 2.0", "\"value\": 1e300"), "") << "it opens clamped (Limits)";
  EXPECT_THAT(with("\"time\": 0.25", "\"time\": 1e300"), testing::Not(""));
  EXPECT_THAT(with("\"smooth\"", "\"smoth\""), HasSubstr("hold, linear, smooth, own"));
  EXPECT_THAT(with("\"tracks\": {\n        \"strength\"", "\"tracks\": {\n        \"strenth\""),
              HasSubstr("has a track, but is not a setting"));
  Shot many = good;
  Track& t = many.force("gravity")->tracks["strength"];
  t.keys.clear();
  for (int i = 0; i < 10000; ++i) t.keys.push_back({double(i), 1.0 + i % 2, Ease::smooth, {}});
  EXPECT_EQ(shot_from_json(shot_to_json(many), "x"), many) << "ten thousand keys are many, but keys";
  Shot circle = good;
  circle.pieces.push_back(circle.pieces[0]);
  circle.pieces[1].id = "two", circle.pieces[1].parent.id = "word", circle.pieces[0].parent.id = "two";
  EXPECT_THAT(fault_of([&] { (void)shot_from_json(shot_to_json(circle), "a.pour"); }),
              HasSubstr("moves with itself"));
}

TEST(Tracks, LooksNeedNoNewRun) {
  Shot a = find_recipe("fill-a-word").make(), b = a;
  assign(b, "look.exposure@1=0"), assign(b, "camera.distance@9=1 m"), assign(b, "pieces.word.name=Other");
  EXPECT_TRUE(same_simulation(a, b));
  assign(b, "gas.heat_lift@9=2");
  EXPECT_FALSE(same_simulation(a, b));
}

TEST(Tracks, APieceComesIntoThePicturesAndGoes) {
  Shot s = find_recipe("tea-into-a-bowl").make();
  const Shot before = s;
  const size_t all = picture_pieces(s).size();
  assign(s, "pieces.bowl.shows@1=no"), assign(s, "pieces.bowl.shows@10=yes");
  EXPECT_EQ(picture_pieces(shot_at(s, 9)).size(), all - 1);
  EXPECT_EQ(picture_pieces(shot_at(s, 10)).size(), all);
  EXPECT_TRUE(s.piece("bowl")->may_show());
  EXPECT_TRUE(same_simulation(before, s)) << "pictures alone know it";
  EXPECT_EQ(Space(s).flow.low, Space(before).flow.low);
  Shot never = before;
  assign(never, "pieces.bowl.shows@1=no");
  EXPECT_FALSE(never.piece("bowl")->may_show());
  EXPECT_FALSE(same_simulation(before, never)) << "smoke could have started at it";
  EXPECT_EQ(shot_from_json(shot_to_json(s), "a.pour"), s);
}

TEST(Edit, WindowsAreAddedAndSplit) {
  Shot s = find_recipe("fill-a-word").make();
  s.pours[0].windows = windows_at(s, {{10, 20}, {40, 50}});
  add_window(s, "mint", {25, 60});
  EXPECT_EQ(s.pours[0].windows, windows_at(s, {{10, 20}, {25, 39}, {40, 50}})) << "as far as there is room";
  split_window(s, "mint", 0, 15);
  EXPECT_EQ(s.pours[0].windows, windows_at(s, {{10, 14}, {15, 20}, {25, 39}, {40, 50}}));
  EXPECT_THAT(fault_of([&] { add_window(s, "mint", {12, 13}); }), HasSubstr("no room"));
  EXPECT_THAT(fault_of([&] { set_text(s, "pours.mint.windows", "1-10, 8-20", "w"); }),
              HasSubstr("before the one before"));
}

}  // namespace pour
