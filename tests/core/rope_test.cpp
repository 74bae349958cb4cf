// A rope of thick liquid that falls on a floor: whether it coils, and how fast.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "core/tank.h"

namespace pour {
namespace {

/// Out of a round mouth of this diameter, downwards.
struct Rope {
  double diameter = 0.01, height = 0.06, speed = 0.1, viscosity = 0.04;  // m, m, m/s, m²/s (kinematic)
  double rate() const { return std::numbers::pi * diameter * diameter / 4 * speed; }
};

/// What was seen of one in the last four tenths of its time.
struct Coiling {
  double turn = 0;    // of its foot around its middle, rad/s
  double radius = 0;  // of the rope above its foot, m
  double off = 0;     // how far its foot is off its middle, m
};

class Fall {
 public:
  Fall(const Rope& rope, double cells_across) : rope_(rope), h_(rope.diameter / cells_across) {
    const auto whole = [&](double length) { return int(std::ceil(length / h_ / 8)) * 8 - 1; };
    world_.cell_size = h_;
    world_.cells = {whole(6 * rope.diameter), whole(rope.height + rope.diameter), whole(6 * rope.diameter)};
    world_.open[side_bottom] = false;
    world_.liquids[0] = {.density = 1000, .viscosity = 1000 * rope.viscosity, .tension = 0};
    middle_ = (world_.cells.x + 1) * h_ / 2;
    const double r = rope.diameter / 2;
    Source source;
    source.rate = rope.rate(), source.velocity = {0, -rope.speed, 0}, source.blows = true;
    source.mouth[0] = source.mouth[1] = {{middle_, rope.height, middle_}, {r, 0, 0}, {0, 0, r}, true};
    world_.sources = {source};
  }

  Coiling watch(double seconds) {
    constexpr double every = 0.01;
    double turned = 0, last = 0, next = 0, counted = 0;
    Coiling seen;
    while (state_.time < seconds) {
      solver_.step(state_, world_,
                   std::min(longest_step(state_, world_, 2, 0.01), 0.25 * rope_.diameter / rope_.speed),
                   ledger_);
      if (state_.time < next) continue;
      next += every;
      const auto [off, radius] = foot();
      const double angle = std::atan2(off.z, off.x),
                   more = std::remainder(angle - last, 2 * std::numbers::pi);
      last = angle;
      if (state_.time < 0.6 * seconds) continue;
      turned += more, seen.radius += radius, seen.off += length(off), ++counted;
    }
    seen.radius /= counted, seen.off /= counted, seen.turn = std::abs(turned) / (counted * every);
    return seen;
  }

  /// The radius of the rope between two heights, and how fast it falls there.
  std::pair<double, double> at(double low, double high) const {
    double count = 0, falls = 0;
    for (size_t n = 0; n < state_.particles.size(); ++n)
      if (const double y = place(n).y; y > low && y < high)
        ++count, falls -= double(state_.particles.velocity[1][n]);
    return {std::sqrt(count * h_ * h_ * h_ / 8 / (std::numbers::pi * (high - low))), falls / count};
  }

 private:
  Vec3d place(size_t n) const {
    const Particles& p = state_.particles;
    return Vec3d{p.place[0][n], p.place[1][n], p.place[2][n]} * h_ - Vec3d{middle_, 0, middle_};
  }
  /// Where the rope is just above what has piled up, off its axis, and how thick.
  std::pair<Vec3d, double> foot() {
    const double d = rope_.diameter;
    double pile = 0;
    for (size_t n = 0; n < state_.particles.size(); ++n)
      if (const Vec3d p = place(n); std::hypot(p.x, p.z) > 0.6 * d) pile = std::max(pile, p.y);
    pile_ = pile_ > 0 ? 0.9 * pile_ + 0.1 * pile : pile;
    const double low = pile_ + 0.3 * d, high = pile_ + 0.8 * d;
    Vec3d sum;
    double count = 0;
    for (size_t n = 0; n < state_.particles.size(); ++n)
      if (const Vec3d p = place(n); p.y > low && p.y < high) sum += {p.x, 0, p.z}, ++count;
    return {sum / std::max(1.0, count),
            std::sqrt(count * h_ * h_ * h_ / 8 / (std::numbers::pi * (high - low)))};
  }

  Rope rope_;
  double h_, middle_ = 0, pile_ = 0;
  LiquidWorld world_;
  LiquidState state_;
  LiquidSolver solver_;
  Ledger ledger_;
};

/// How fast a rope coils where its weight is what drives it, but for a factor (Ribe 2004).
double by_gravity(const Rope& r, double radius) {
  return std::pow(9.81 * std::pow(r.rate(), 3) / (r.viscosity * std::pow(radius, 8)), 0.25);
}

}  // namespace

// Ribe 2004, "Coiling of viscous jets": Ω = c (g Q³ / (ν a⁸))^¼ in the regime of gravity. The law is from
// memory; c comes from his equations without inertia, which tests/reference/rope_coiling.py solves with
// SciPy: 0.53 to 0.54 from a fall of five of its lengths, (¾ ν a² U / g)^¼, to one of eight. These ropes
// fall 5.4 and 6.4.
TEST(LongLiquid, ARopeCoilsAsRibeSays) {
  NEEDS_LONG;
  for (const double viscosity : {0.04, 0.08}) {
    const Rope rope{.viscosity = viscosity};
    const Coiling seen = Fall(rope, 8).watch(2.5);
    EXPECT_GT(seen.turn, 10) << "it coils";
    EXPECT_NEAR(seen.turn / by_gravity(rope, seen.radius), 0.535, 0.2 * 0.535) << viscosity;
  }
}

// Thick syrup hangs from the mouth that it comes out of: it is as thick there as the mouth, and goes as fast
// as it is poured. In 6 cm it weighs too little to be drawn out: with 3 ν (ln U)'' = U' - g / U and no pull
// at its foot, U grows by less than a tenth for each cm (Trouton 1906, from memory).
TEST(Liquid, AThickRopeHangsFromItsMouth) {
  const Rope rope{.viscosity = 1};
  Fall fall(rope, 6);
  (void)fall.watch(0.5);
  const auto [wide, speed] = fall.at(0.04, 0.055);
  EXPECT_NEAR(wide, rope.diameter / 2, 0.1 * rope.diameter / 2);
  EXPECT_NEAR(speed, rope.speed, 0.15 * rope.speed);
}

// Cruickshank 1988, from memory: a round jet buckles only where Re < 1.2 and it falls more than 7.2
// diameters.
TEST(LongLiquid, ARopeThatIsTooThinToBuckleStaysStraight) {
  NEEDS_LONG;
  Rope rope{.height = 0.1, .speed = 1};
  rope.viscosity = rope.speed * rope.diameter / 3;  // Re = 3
  EXPECT_LT(Fall(rope, 6).watch(0.6).off, 0.02 * rope.diameter);
  rope.viscosity = rope.speed * rope.diameter / 0.25;
  EXPECT_GT(Fall(rope, 6).watch(0.4).off, 0.05 * rope.diameter) << "at Re = 0.25 it buckles";
}

}  // namespace pour
