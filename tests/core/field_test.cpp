// Forces with a place, by themselves and on both fluids, against closed formulas.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "core/gas_world.h"
#include "core/tank.h"
#include "shape/turned_mesh.h"
#include "shot/force.h"
#include "world/push.h"

namespace pour {
namespace {

template <class Kind>
Acting acting(const Kind& kind, const Reach& reach = {}) {
  return {.field = kind.field({}), .strength = {reach, {}}, .inside = true};
}

/// The push of one force at a point.
template <class Kind>
Push at_point(const Kind& kind, const Vec3d& p, const EightPlaces& like = {{}, splat(1), splat(1), false}) {
  EightPlaces places = like;
  places.at = splat(p);
  Push out;
  kind.field({})->add(places, splat(1), out);
  return out;
}

Vec3d first(const Vec3<v8>& v) { return {double(v.x[0]), double(v.y[0]), double(v.z[0])}; }

/// A drop that flies freely in a tank, weightless.
struct Drop : Tank {
  Drop(double h, const Vec3d& at, double radius) : Tank({63, 63, 63}, h, SourceShape::ball(at, radius), {}) {
    w.gravity = 0;
  }
};

Vec3d mean_velocity(const LiquidState& s) {
  Vec3d sum;
  for (size_t n = 0; n < s.particles.size(); ++n)
    for (size_t a = 0; a < 3; ++a) sum[int(a)] += double(s.particles.velocity[a][n]);
  return sum / double(s.particles.size());
}

}  // namespace

// Stokes' drag under gravity: v = g τ (1 − e^(−t/τ)), which one step gives as exactly as a hundred.
TEST(Fields, DragAndGravityEndAtTheirSpeedInStepsOfAnyLength) {
  const double g = 9.81, tau = 0.05;
  for (const int steps : {1, 3, 150}) {
    v8 v{};
    for (int i = 0; i < steps; ++i)
      v = kept_on(v, splat(float(-g)), splat(float(1 / tau)), float(3 * tau / steps));
    EXPECT_NEAR(double(v[0]), -g * tau * (1 - std::exp(-3.0)), 1e-3 * g * tau) << steps;
  }
  EXPECT_FLOAT_EQ(kept_on(splat(1), splat(2), splat(0), 0.25f)[0], 1.5f) << "without drag";
  v8 mixed{0, 1, 0, 0, 0, 0, 0, 4};
  const v8 some = kept_on(splat(1), splat(0), mixed, 1);
  EXPECT_FLOAT_EQ(some[0], 1);
  EXPECT_NEAR(some[1], std::exp(-1.f), 1e-6f);
  EXPECT_NEAR(some[7], std::exp(-4.f), 1e-6f);
}

// The same of a drop as the solver moves it.
TEST(Fields, ADropFallsAtItsTerminalSpeed) {
  const double tau = 0.02;
  for (const double dt : {0.02 * tau, tau}) {
    Drop tank(0.01, {0.32, 0.4, 0.32}, 0.04);
    tank.w.gravity = 9.81;
    tank.w.fields = {acting(Drag{.half_time = tau * std::numbers::ln2})};
    while (tank.s.time < 3 * tau - 1e-9) tank.solver.step(tank.s, tank.w, dt, tank.ledger);
    EXPECT_NEAR(mean_velocity(tank.s).y, -9.81 * tau * (1 - std::exp(-3.0)), 1e-3 * 9.81 * tau) << dt;
  }
}

// Under k r everything swings with the period 2π / √k.
TEST(Fields, ADropSwingsThroughWhatDrawsIt) {
  const double k = 40, period = 2 * std::numbers::pi / std::sqrt(k);
  Drop tank(0.01, {0.42, 0.32, 0.32}, 0.04);
  tank.w.fields = {
      acting(Pull{.strength = k, .position = {0.32, 0.32, 0.32}, .by = PullBy::grows, .distance = 1})};
  double before = 0.1, crossed = 0;
  int crossings = 0;
  while (crossings < 2 && tank.s.time < 2 * period) {
    tank.solver.step(tank.s, tank.w, 0.004, tank.ledger);
    const double x = measure(tank.s, 0.01).centroid.x - 0.32;
    if (before * x < 0) ++crossings, crossed = tank.s.time - 0.004 * x / (x - before);
    before = x;
  }
  ASSERT_EQ(crossings, 2);
  EXPECT_NEAR(crossed, 0.75 * period, 0.02 * period);
}

// What is drawn to a point by k r rests as a ball with the pressure ρ k (R² − r²) / 2 (hydrostatics).
TEST(Fields, LiquidRestsAsABallAroundWhatDrawsIt) {
  const double h = 0.01, k = 100, radius = 0.1;
  Drop tank(h, {0.32, 0.32, 0.32}, radius);
  tank.w.fields = {
      acting(Pull{.strength = k, .position = {0.32, 0.32, 0.32}, .by = PullBy::grows, .distance = 1}),
      acting(Drag{.half_time = 0.05})};
  for (int i = 0; i < 60; ++i) tank.solver.step(tank.s, tank.w, 0.005, tank.ledger);
  double farthest = 0;
  for (size_t n = 0; n < tank.s.particles.size(); ++n) {
    double r2 = 0;
    for (size_t a = 0; a < 3; ++a) r2 += std::pow(double(tank.s.particles.place[a][n]) * h - 0.32, 2);
    farthest = std::max(farthest, std::sqrt(r2));
  }
  EXPECT_LT(farthest, radius + h);
  EXPECT_LT(measure(tank.s, h).max_speed, k * radius * 0.005) << "no more than a step of the pull brings";
  // The state holds Δt p / (ρ h).
  const int b = tank.s.grid.find({0, {4, 4, 4}});
  ASSERT_GE(b, 0);
  const double wanted = k * radius * radius / 2 * 0.005 / h;
  EXPECT_NEAR(double(tank.s.pressure.block(b)[0]), wanted, 0.05 * wanted);
}

// What swirls in a round bowl that lets it slip stands as ω² r² / 2g (Newton's bucket; Landau & Lifshitz,
// Fluid Mechanics, § 10, from memory).
TEST(Fields, LiquidThatSwirlsStandsAsAParaboloid) {
  const double h = 0.01, radius = 0.12, spin = 7;
  Mesh bowl = cylinder_mesh(radius, 0.4);
  bowl.place({{}, {0.2, 0.24, 0.2}});
  std::vector<Solid> solids{Solid::around(LevelSet(bowl, h))};
  solids[0].friction = 0;
  Tank tank({39, 47, 39}, h, box({0, 0, 0}, {0.4, 0.14, 0.4}, h), {}, solids);
  tank.w.fields = {acting(Swirl{.spin = spin, .position = {0.2, 0, 0.2}, .response = 0.1})};
  tank.run(1);
  const auto top = [&](double x, double z) {
    double highest = 0;
    for (size_t n = 0; n < tank.s.particles.size(); ++n) {
      const auto& p = tank.s.particles.place;
      if (std::hypot(double(p[0][n]) * h - x, double(p[2][n]) * h - z) < 1.5 * h)
        highest = std::max(highest, double(p[1][n]) * h);
    }
    return highest;
  };
  const double r = 0.09, rise = spin * spin * r * r / (2 * 9.81);
  double mean = 0;
  for (const auto& [x, z] : {std::pair{r, 0.}, {-r, 0.}, {0., r}, {0., -r}})
    mean += top(0.2 + x, 0.2 + z) / 4;
  EXPECT_NEAR(mean - top(0.2, 0.2), rise, 0.5 * h) << rise;
}

// Wind brings all of a still field to its speed, where the field ends too, at any cell size.
TEST(Fields, WindReachesItsSpeedEverywhere) {
  for (const double h : {0.02, 0.01}) {
    const int n = int(std::lround(0.32 / h)) - 1;
    GasWorld w = closed_box(n, n, n, h);
    for (bool& open : w.open) open = true;
    Lab lab(w);
    const double speed = 0.5, tau = 0.1;
    lab.w.fields = {acting(Wind{.speed = speed, .direction = {1, 0, 0}, .response = tau})};
    const double dt = 0.02;
    for (int i = 0; i < 25; ++i) {
      lab.w.fields[0].since = lab.s.time;
      lab.solver.step(lab.s, lab.w, dt, lab.ledger);
    }
    double least = 1e9, most = 0;
    each_cell(lab.s, lab.w, [&](int b, int c, const Vec3i&) {
      least = std::min(least, double(lab.s.u.block(b)[c])),
      most = std::max(most, double(lab.s.u.block(b)[c]));
    });
    const double wanted = speed * (1 - std::exp(-5.0));
    EXPECT_NEAR(least, wanted, 0.02 * speed) << h;
    EXPECT_NEAR(most, wanted, 0.02 * speed) << h;
  }
}

// Gas that a pull acts on evenly is in balance with pressure; smoke alone is drawn.
TEST(Fields, APullMovesSmokeAndNotTheAirAroundIt) {
  const Pull pull{.strength = 3, .position = {0, 0, 0}, .half_density = 0.001};
  const EightPlaces dense{{}, splat(0), splat(0.001f), true}, clean{{}, splat(0), splat(0), true};
  EXPECT_NEAR(first(at_point(pull, {1, 0, 0}, dense).acceleration).x, -1.5, 1e-3) << "half at its density";
  EXPECT_EQ(first(at_point(pull, {1, 0, 0}, clean).acceleration), Vec3d());
  EXPECT_NEAR(first(at_point(pull, {1, 0, 0}).acceleration).x, -3, 1e-3);
}

TEST(Fields, PullsChangeWithTheDistanceAsTheySay) {
  Pull p{.strength = 2, .position = {0, 0, 0}, .distance = 0.1, .softening = 1e-4};
  EXPECT_NEAR(length(first(at_point(p, {0, 0.3, 0.4}).acceleration)), 2, 1e-4);
  p.by = PullBy::grows;
  EXPECT_NEAR(length(first(at_point(p, {0, 0.3, 0.4}).acceleration)), 10, 1e-3);
  p.by = PullBy::fades;
  EXPECT_NEAR(length(first(at_point(p, {0, 0.3, 0.4}).acceleration)), 2 * 0.04, 1e-4);
  p.to = PullTo::line, p.direction = {0, 0, 5}, p.by = PullBy::even;
  const Vec3d a = first(at_point(p, {0, 0.3, 0.4}).acceleration);
  EXPECT_NEAR(a.y, -2, 1e-4);
  EXPECT_NEAR(a.z, 0, 1e-6) << "not along the line";
  p.strength = -2;
  EXPECT_NEAR(first(at_point(p, {0, 0.3, 0.4}).acceleration).y, 2, 1e-4) << "a push";
}

// A surface draws from both sides, with the distance to a ball known in closed form.
TEST(Fields, DistancesToABallAreThoseOfItsRadius) {
  auto body = std::make_shared<const Distances>(ball_mesh(0.1, 5), 0.1);
  for (const double r : {0.02, 0.08, 0.13, 0.5, 2.0}) {
    const auto there = (*body)(splat(normalized(Vec3d{1, 2, -2}) * r));
    EXPECT_NEAR(double(there.distance[0]), r - 0.1, r < 0.2 ? 0.002 : 0.05 * r) << r;  // far away roughly
    EXPECT_NEAR(dot(first(there.away), normalized(Vec3d{1, 2, -2})), 1, 0.02) << r;
  }
  SetAround set;
  set.piece = [&](const std::string&, Pose& pose) {
    pose = {Rotation::euler({0, 0.5, 0}), {1, 0, 0}, 2};  // a radius of 0.2
    return body;
  };
  const auto field = Pull{.strength = 3, .to = PullTo::surface, .softening = 1e-5}.field(set);
  for (const auto& [x, wanted] : {std::pair{1.3, -3.0}, {1.1, 3.0}}) {
    Push push;
    field->add({splat(Vec3d{x, 0, 0}), splat(1), splat(1), false}, splat(1), push);
    EXPECT_NEAR(first(push.acceleration).x, wanted, 0.1) << x;
  }
}

TEST(Fields, AReachHasASoftEdgeOfItsWidth) {
  const auto share = [](const Reach& r, const Vec3d& p) { return double(r.share(splat(p))[0]); };
  Reach r{.shape = Reach::Shape::ball, .half = {0.1, 0, 0}, .edge = 0.02};
  EXPECT_EQ(share(r, {0.08, 0, 0}), 1);
  EXPECT_NEAR(share(r, {0.1, 0, 0}), 0.5, 1e-4);
  EXPECT_EQ(share(r, {0.12, 0, 0}), 0);
  EXPECT_FALSE(r.meets({0.2, 0, 0}, 0.05));
  EXPECT_TRUE(r.meets({0.2, 0, 0}, 0.1));
  r.profile = 2;
  EXPECT_NEAR(share(r, {0.1, 0, 0}), 0.25, 1e-4);
  r.outside = true, r.profile = 1;
  EXPECT_EQ(share(r, {0.08, 0, 0}), 0);
  EXPECT_EQ(share(r, {0.12, 0, 0}), 1);
  EXPECT_FALSE(r.meets({0, 0, 0}, 0.05));
  r = {.shape = Reach::Shape::box,
       .pose = {Rotation::euler({0, 0, std::numbers::pi / 2}), {1, 0, 0}},
       .half = {0.3, 0.1, 0.2}};
  EXPECT_EQ(share(r, {1.0, 0.29, 0.19}), 1) << "turned, its width is its height";
  EXPECT_EQ(share(r, {1.11, 0, 0}), 0);
  EXPECT_NEAR(double(r.distance(splat(Vec3d{1.13, 0.34, 0}))[0]), 0.05, 1e-4) << "from its edge";
  r = {.shape = Reach::Shape::slab, .half = {1, 0.05, 1}};
  EXPECT_EQ(share(r, {5, 0.04, -7}), 1);
  EXPECT_EQ(share(r, {5, 0.06, -7}), 0);
}

// A strength may depend on what is known of the fluid: straight between points, constant beyond them.
TEST(Fields, AStrengthFollowsItsCurve) {
  EightPlaces p{splat(Vec3d{0, 0.2, 0}), splat(1), splat(0.003f), true};
  p.age = splat(1.5f), p.speed = splat(0.5f), p.heat = splat(10.f);
  const auto share = [&](const Dependence& d, const Reach& r = {}) {
    return double(Strength{r, d}.share(p)[0]);
  };
  EXPECT_NEAR(share({Driver::age, {{1, 0}, {2, 1}}}), 0.5, 1e-6);
  EXPECT_NEAR(share({Driver::height, {{0, 1}, {0.4, 0}, {1, 5}}}), 0.5, 1e-6);
  EXPECT_NEAR(share({Driver::speed, {{1, 0.25}, {2, 1}}}), 0.25, 1e-6) << "before its first point";
  EXPECT_NEAR(share({Driver::density, {{0.001, 0}, {0.002, -1}}}), -1, 1e-6) << "after its last";
  EXPECT_NEAR(share({Driver::warmth, {{0, 0}, {40, 1}}}), 0.25, 1e-6);
  const Reach ball{.shape = Reach::Shape::ball, .half = {0.3, 0, 0}};
  EXPECT_NEAR(share({Driver::distance, {{-0.2, 0}, {0, 1}}}, ball), 0.5, 1e-5) << "0.1 m under its surface";
  EXPECT_EQ(share({}), 1);
}

// Liquid that hangs until it is half a second old, and then falls freely (Galilei).
TEST(Fields, LiquidHangsAndThenFalls) {
  Drop tank(0.01, {0.32, 0.4, 0.32}, 0.04);
  Acting gravity = acting(Gravity());
  gravity.strength.depends = {Driver::age, {{0.5, 0}, {0.5001, 1}}};
  tank.w.fields = {gravity};
  const double start = measure(tank.s, 0.01).centroid.y;
  while (tank.s.time < 0.5 - 1e-9) tank.solver.step(tank.s, tank.w, 0.01, tank.ledger);
  EXPECT_NEAR(measure(tank.s, 0.01).centroid.y, start, 1e-4);
  while (tank.s.time < 0.7 - 1e-9) tank.solver.step(tank.s, tank.w, 0.002, tank.ledger);
  EXPECT_NEAR(measure(tank.s, 0.01).centroid.y, start - 9.81 * 0.2 * 0.2 / 2, 0.01);
}

// What a constant force moves away and back has its first energy again, whichever way it went.
TEST(Fields, AConstantForceGivesBackWhatItTakes) {
  const double g = 6, up = 0.9;
  Tank tank({63, 63, 63}, 0.01, SourceShape::ball({0.2, 0.12, 0.32}, 0.05), {0.3, up, 0});
  tank.w.gravity = 0;
  tank.w.fields = {acting(Gravity{g})};
  const Vec3d start = measure(tank.s, 0.01).centroid;
  const double before = measure(tank.s, 0.01).kinetic_energy;
  while (tank.s.time < 2 * up / g - 1e-9)
    tank.solver.step(tank.s, tank.w, std::min(0.004, 2 * up / g - tank.s.time), tank.ledger);
  EXPECT_NEAR(measure(tank.s, 0.01).centroid.y, start.y, 0.005) << "back at its first height";
  EXPECT_NEAR(measure(tank.s, 0.01).kinetic_energy, before, 0.01 * before);
}

// Kepler's third law: T² = 4π² r³ / μ under an acceleration μ / r².
TEST(Fields, DropsGoRoundAsPlanetsDo) {
  const double h = 0.005, mu = 0.4;
  const Vec3d sun{0.64, 0.64, 0.64};
  for (const double r : {0.4, 0.6}) {
    Tank tank({255, 255, 255}, h, SourceShape::ball(sun + Vec3d{r, 0, 0}, r / 40), {0, 0, std::sqrt(mu / r)});
    tank.w.gravity = 0;
    tank.w.fields = {
        acting(Pull{.strength = mu, .position = sun, .by = PullBy::fades, .distance = 1, .softening = 0.01})};
    double angle = 0, before = 0, time = 0;
    while (angle < std::numbers::pi / 2) {
      tank.solver.step(tank.s, tank.w, 0.004, tank.ledger);
      const Vec3d at = measure(tank.s, h).centroid - sun;
      before = angle, angle = std::atan2(at.z, at.x), time = tank.s.time;
      ASSERT_LT(time, 5);
    }
    time -= 0.004 * (angle - std::numbers::pi / 2) / (angle - before);
    const double period = 4 * time;
    EXPECT_NEAR(period * period * mu / (4 * std::numbers::pi * std::numbers::pi * r * r * r), 1, 0.02) << r;
  }
}

// Gusts near a box are sampled on a lattice; neighbouring boxes agree where they meet.
TEST(Fields, SampledGustsAreTheGusts) {
  const CurlNoise noise(0.7f);
  const NoiseNear left(noise, {0.1f, 0.2f, -0.3f}, {0.5f, 0.6f, 0.1f}),
      right(noise, {0.5f, 0.2f, -0.3f}, {0.9f, 0.6f, 0.1f});
  double off = 0, seam = 0;
  int count = 0;
  for (float y = 0.2f; y < 0.6f; y += 0.011f)
    for (float z = -0.3f; z < 0.1f; z += 0.013f, ++count) {
      const Vec3<v8> p{v8{0.1f, 0.15f, 0.2f, 0.25f, 0.3f, 0.35f, 0.4f, 0.45f}, splat(y), splat(z)};
      const Vec3<v8> d = left(p) - noise(p), edge{splat(0.5f), splat(y), splat(z)};
      for (int k = 0; k < 8; ++k) off += double(dot(d, d)[k]) / 8;
      const Vec3<v8> jump = left(edge) - right(edge);
      seam = std::max(seam, double(dot(jump, jump)[0]));
    }
  EXPECT_LT(std::sqrt(off / count), 0.2) << "of a root mean square of 1";
  EXPECT_LT(seam, 1e-8);
  EXPECT_TRUE(NoiseNear::pays({0, 0, 0}, {0.3f, 0.3f, 0.3f}, 512));
  EXPECT_FALSE(NoiseNear::pays({0, 0, 0}, {2, 2, 2}, 512));
}

namespace {

/// A field that may not be sampled.
struct Rough : Field {
  explicit Rough(std::shared_ptr<const Field> f) : field(std::move(f)) {}
  void add(const EightPlaces& p, v8 share, Push& push) const override { field->add(p, share, push); }
  Most most(const Box& box) const override { return field->most(box); }
  bool is_smooth() const override { return false; }
  std::shared_ptr<const Field> field;
};

}  // namespace

// Many particles read their push from the corners of cells, few ask for it one by one.
TEST(Fields, SampledPushesAreThePushes) {
  const Vec3d middle{0.32, 0.32, 0.32};
  std::vector<Acting> fields{
      acting(Swirl{.spin = 3, .position = middle},
             {.shape = Reach::Shape::ball, .pose = {{}, middle}, .half = {0.1, 0, 0}, .edge = 0.08}),
      acting(Pull{.strength = 8, .position = middle + Vec3d{0.3, 0, 0}}), acting(Drag{})};
  Drop sampled(0.01, middle, 0.15), direct(0.01, middle, 0.15);
  sampled.w.fields = fields;
  for (Acting& f : fields) f.field = std::make_shared<Rough>(f.field);
  direct.w.fields = fields;
  for (Drop* tank : {&sampled, &direct}) {
    tank->solver.update_region(tank->s, tank->w, 0);
    tank->solver.apply_fields(tank->s, tank->w, 0.02);
  }
  double most = 0, off = 0, slope = 0, steep = 0;
  const Particles &a = sampled.s.particles, &b = direct.s.particles;
  for (size_t n = 0; n < a.size(); ++n) {
    for (size_t k = 0; k < 3; ++k) {
      off = std::max(off, double(std::abs(a.velocity[k][n] - b.velocity[k][n])));
      most = std::max(most, double(std::abs(b.velocity[k][n])));
    }
    for (size_t k = 0; k < 9; ++k) {
      slope += std::pow(double(a.slope[k][n] - b.slope[k][n]), 2);
      steep += std::pow(double(b.slope[k][n]), 2);
    }
  }
  EXPECT_GT(most, 0.05);
  EXPECT_LT(off, 0.02 * most);
  EXPECT_GT(steep, 0);
  EXPECT_LT(std::sqrt(slope / steep), 0.15) << "root mean square";
}

// A push in the middle of a ball opens it where its pressure would fall below zero; the shell keeps the
// volume of the ball. Without that, liquid resists being pulled apart.
TEST(Fields, APushOpensLiquidHollow) {
  const double h = 0.01, radius = 0.1;
  const Vec3d middle{0.32, 0.32, 0.32};
  const auto within = [&](const LiquidState& s, double r) {
    int count = 0;
    for (size_t n = 0; n < s.particles.size(); ++n) {
      double r2 = 0;
      for (size_t a = 0; a < 3; ++a) r2 += std::pow(double(s.particles.place[a][n]) * h - middle[int(a)], 2);
      count += r2 < r * r;
    }
    return count;
  };
  for (const bool opens : {false, true}) {
    Drop tank(h, middle, radius);
    tank.w.opens = {uint8_t(opens)};
    const Reach inner{.shape = Reach::Shape::ball, .pose = {{}, middle}, .half = {0.1, 0, 0}, .edge = 0.02},
        outer{.shape = Reach::Shape::ball,
              .outside = true,
              .pose = {{}, middle},
              .half = {0.1, 0, 0},
              .edge = 0.02};
    tank.w.fields = {acting(Pull{.strength = -10, .position = middle}, inner),
                     acting(Pull{.strength = 10, .position = middle}, outer),
                     acting(Drag{.half_time = 0.05})};
    const double volume = tank.ledger.poured;
    while (tank.s.time < 0.3 - 1e-9) tank.solver.step(tank.s, tank.w, 0.005, tank.ledger);
    const int hollow = within(tank.s, 0.05);
    if (opens)
      EXPECT_EQ(hollow, 0);
    else
      EXPECT_GT(hollow, 4000) << "of about 4190 particles";
    EXPECT_NEAR(tank.ledger.in_shot, volume, 0.01 * volume) << opens;
  }
}

// Liquid under pressure is none the worse for being allowed to open.
TEST(Fields, LiquidAtRestDoesNotOpen) {
  const auto rest = [](bool opens) {
    Tank tank({23, 31, 23}, 0.01, box({0, 0, 0}, {0.24, 0.15, 0.24}, 0.01));
    tank.w.opens = {uint8_t(opens)};
    for (int i = 0; i < 20; ++i) tank.solver.step(tank.s, tank.w, 0.005, tank.ledger);
    return tank.s.particles.place;
  };
  EXPECT_EQ(rest(true), rest(false));
}

}  // namespace pour
