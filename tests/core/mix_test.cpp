// Colours of liquids that touch, and how thick a liquid is where.
#include <gtest/gtest.h>

#include <cmath>

#include "base/parallel.h"
#include "core/tank.h"
#include "surface/fluid_skins.h"
#include "surface/local_thickness.h"

namespace pour {
namespace {

const Vec3f red{0.8f, 0.1f, 0.1f}, blue{0.1f, 0.1f, 0.8f};

/// Two liquids, red and blue; which one a particle is, `second` says by its place in cells.
struct TwoLiquids : Tank {
  template <class F>
  TwoLiquids(double mixes_in, const F& second)
      : Tank({15, 15, 15}, 0.01, box({-0.1, -0.1, -0.1}, {0.5, 0.1, 0.5}, 0.01)) {
    w.liquids.resize(2), w.colors = {red, blue}, w.mixes_in = {mixes_in, mixes_in};
    for (size_t i = 0; i < s.particles.size(); ++i) s.particles.liquid[i] = second(s.particles, i);
    solver.update_region(s, w, 0);
  }
};

Vec3f color_of(const Tank& t, size_t i) {
  const Particles& p = t.s.particles;
  return p.tint[i] ? unpack_tint(p.tint[i]) : t.w.colors[p.liquid[i]];
}

Vec3f mean_color(const Tank& t) {
  Vec3f sum;
  for (size_t i = 0; i < t.s.particles.size(); ++i) sum += color_of(t, i);
  return sum / float(t.s.particles.size());
}

}  // namespace

// Relaxation by its definition: of a difference one half is left after the time, a quarter after twice that.
TEST(Mixing, HalvesADifferenceInItsTime) {
  TwoLiquids t(0.5, [](const Particles& p, size_t i) { return uint8_t(p.id[i] & 1); });
  const Vec3f before = mean_color(t);
  const auto contrast = [&] {
    double sum = 0;
    for (size_t i = 0; i < t.s.particles.size(); ++i)
      sum += double(color_of(t, i).x) * (t.s.particles.liquid[i] ? -1 : 1);
    return sum / double(t.s.particles.size()) * 2 / double(red.x - blue.x);
  };
  EXPECT_NEAR(contrast(), 1, 1e-4);
  for (const double left : {0.5, 0.25}) {
    for (int n = 0; n < 50; ++n) t.s.time += 0.01, t.solver.mix_colors(t.s, t.w, 0.01);
    EXPECT_NEAR(contrast(), left, 0.03) << "the particles near the walls have a few more of one kind";
  }
  EXPECT_LT(length(mean_color(t) - before), 0.004f) << "no colour is made or lost";
}

TEST(Mixing, LeavesAloneWhatDoesNotTouchAndWhatDoesNotMix) {
  const auto beside = [](const Particles& p, size_t i) { return uint8_t(p.place[0][i] > 8); };
  TwoLiquids t(0.1, beside);
  t.solver.mix_colors(t.s, t.w, 0.1);
  const Particles& p = t.s.particles;
  int mixed = 0;
  for (size_t i = 0; i < p.size(); ++i) {
    if (std::abs(p.place[0][i] - 8) > 2.01f) {
      ASSERT_EQ(p.tint[i], 0u) << "it keeps the colour of its liquid, which can still be changed";
    }
    mixed += p.tint[i] != 0;
  }
  EXPECT_GT(mixed, 200);
  TwoLiquids never(0, beside);
  never.solver.mix_colors(never.s, never.w, 0.01);
  for (const uint32_t tint : never.s.particles.tint) ASSERT_EQ(tint, 0u);
}

TEST(Mixing, IsTheSameAtAnyThreadCount) {
  const auto run = [](int threads) {
    const ThreadLimit limit(threads);
    TwoLiquids t(0.2, [](const Particles& p, size_t i) { return uint8_t(p.place[1][i] > 5); });
    t.run(0.05);
    return t.s.particles.tint;
  };
  EXPECT_EQ(run(1), run(2));
}

namespace {

/// Eight points a cell wherever `in` says so, within 0.4 m.
template <class F>
LiquidPoints points_in(double h, const F& in) {
  LiquidPoints out;
  out.cell_size = h;
  const double step = h / 2;
  for (double z = step / 2; z < 0.4; z += step)
    for (double y = step / 2; y < 0.4; y += step)
      for (double x = step / 2; x < 0.4; x += step)
        if (in(Vec3d{x, y, z})) out.place.push_back({float(x), float(y), float(z)});
  out.color.assign(out.place.size(), red), out.velocity.resize(out.place.size());
  out.age.resize(out.place.size()), out.liquid.resize(out.place.size()), out.id.resize(out.place.size());
  return out;
}

double mean_of(const std::vector<float>& all) {
  double sum = 0;
  for (const float v : all) sum += double(v);
  return sum / double(all.size());
}

}  // namespace

// By the definition of local thickness (Hildebrand & Rüegsegger 1997): that of a plate is its thickness
// everywhere, that of a ball its diameter.
TEST(LocalThickness, IsThatOfAPlateAndOfABall) {
  const double h = 0.005;
  for (const double thick : {0.01, 0.03, 0.1, 0.25}) {  // the last two by coarser lattices
    const LiquidPoints plate = points_in(h, [&](const Vec3d& p) { return p.y > 0.05 && p.y < 0.05 + thick; });
    const std::vector<float> all = local_thickness(plate);
    std::vector<float> inner;
    for (size_t i = 0; i < all.size(); ++i)
      if (std::abs(plate.place[i].x - 0.2f) < 0.05f && std::abs(plate.place[i].z - 0.2f) < 0.05f)
        inner.push_back(all[i]);
    EXPECT_NEAR(mean_of(inner), thick, std::max(h, 0.08 * thick)) << thick;
  }
  const LiquidPoints ball = points_in(h, [](const Vec3d& p) {
    return length(p - Vec3d{0.2, 0.2, 0.2}) < 0.08;
  });
  EXPECT_NEAR(mean_of(local_thickness(ball)), 0.16, 0.1 * 0.16);
}

TEST(LocalThickness, TellsAThreadFromThePoolThatItRunsInto) {
  const double h = 0.005;
  const LiquidPoints both =
      points_in(h, [](const Vec3d& p) { return p.y < 0.06 || std::hypot(p.x - 0.2, p.z - 0.2) < 0.01; });
  const std::vector<float> all = local_thickness(both);
  for (size_t i = 0; i < all.size(); ++i) {
    if (both.place[i].y > 0.12f) {
      EXPECT_NEAR(all[i], 0.02, 1.5 * h);
    }
    if (both.place[i].y < 0.05f && std::abs(both.place[i].x - 0.2f) < 0.1f &&
        std::abs(both.place[i].z - 0.2f) < 0.1f) {
      EXPECT_GT(all[i], 0.05);
    }
  }
  Liquid f;
  f.color_by = ColorBy::depth, f.far_depth = 0.06, f.far_color = {0.1, 0.1, 0.8};
  const LiquidPoints coloured = points_of_fluid(both, 0, f);
  for (size_t i = 0; i < all.size(); ++i) {
    if (both.place[i].y > 0.12f) {
      EXPECT_GT(coloured.color[i].x, 0.4f) << "a thread is nearly as it was";
    }
    if (all[i] > 0.058f) {
      EXPECT_LT(coloured.color[i].x, 0.15f);
    }
  }
}

TEST(LocalThickness, IsTheSameAtAnyThreadCount) {
  const LiquidPoints ball = points_in(0.01, [](const Vec3d& p) {
    return length(p - Vec3d{0.2, 0.2, 0.2}) < 0.15;
  });
  const auto run = [&](int threads) {
    const ThreadLimit limit(threads);
    return local_thickness(ball);
  };
  EXPECT_EQ(run(1), run(2));
}

}  // namespace pour
