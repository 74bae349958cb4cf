// Traced pictures against formulas of optics and radiometry.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "base/parallel.h"
#include "cli_fixture.h"
#include "picture/smoke_look.h"
#include "trace/denoise.h"
#include "trace/lights.h"
#include "trace/path_tracer.h"
#include "trace/phase.h"
#include "trace/smoke_volume.h"

using namespace pour;

namespace {

using std::numbers::pi;

Vec3f at_angle(double degrees) {
  const double a = degrees * pi / 180;
  return {float(std::sin(a)), 0, float(std::cos(a))};
}

TracedBody body(Mesh mesh, Substance substance, const Vec3f& color, double index = 1.5) {
  TracedBody b;
  b.surface = std::make_shared<const Surface>(std::move(mesh));
  b.substance = substance, b.color = color, b.index = float(index),
  b.roughness = substance == Substance::glass ? 0 : 0.5f;
  return b;
}

/// A set in front of a white backdrop, seen from the front.
TracedSet white_set() {
  TracedSet s;
  s.look.floor = false, s.look.halo = 0, s.look.backdrop_color = {1, 1, 1};
  s.camera.target = {0, 0, 0}, s.camera.distance = 2, s.camera.elevation = 0;
  return s;
}

Vec3f mean_of(const Image& image, int x0, int y0, int x1, int y1) {
  Vec3f sum;
  for (int y = y0; y < y1; ++y)
    for (int x = x0; x < x1; ++x) sum += image.at(x, y);
  return sum / float((x1 - x0) * (y1 - y0));
}

Image traced(TracedSet set, int size, int samples) {
  PathTracer t(std::move(set), size, size);
  t.add(samples);
  return t.picture();
}

SmokeWalls::Sealed slab(const Vec3i& count, double cell, float density) {
  SmokeWalls::Sealed s;
  s.smoke.cell_size = cell, s.smoke.count = count;
  s.smoke.low = {-count.x / 2, -count.y / 2, -count.z / 2};
  const size_t n = size_t(count.x) * size_t(count.y) * size_t(count.z);
  s.smoke.density.assign(n, density), s.smoke.color.assign(3 * n, 0.f);
  return s;
}

}  // namespace

// Fresnel's equations for light that is not polarised; values: Hecht, Optics (2017), §4.6, computed from his
// formulas: 2.04 % for water and 4 % for glass straight on, all beyond the critical angle arcsin(1/1.5)
// = 41.81°.
TEST(Trace, FresnelAsInTheTextbook) {
  EXPECT_NEAR(fresnel(1, 1 / 1.333f), 0.0204, 1e-4);
  EXPECT_NEAR(fresnel(1, 1 / 1.5f), 0.04, 1e-5);
  EXPECT_NEAR(fresnel(1, 1.5f), 0.04, 1e-5);
  EXPECT_NEAR(fresnel(1e-6f, 1 / 1.5f), 1, 1e-4);
  EXPECT_LT(fresnel(float(std::cos(41.6 * pi / 180)), 1.5f), 0.9f);
  EXPECT_EQ(fresnel(float(std::cos(42.0 * pi / 180)), 1.5f), 1);
  // At Brewster's angle one polarisation is not mirrored at all: half of ((n² - 1) / (n² + 1))² is left.
  EXPECT_NEAR(fresnel(float(std::cos(std::atan(1.5))), 1 / 1.5f), 0.5 * std::pow(1.25 / 3.25, 2), 1e-4);
}

// Snell's law.
TEST(Trace, GlassBendsLight) {
  const Bsdf glass(Substance::glass, 0, 1.5f);
  for (const double angle : {10.0, 40.0, 70.0}) {
    const Scattering s = glass.one_way(at_angle(angle), {1, 1, 1}, 1 / 1.5f, true);
    EXPECT_NEAR(-s.in.x, std::sin(angle * pi / 180) / 1.5, 1e-5);
    EXPECT_LT(s.in.z, 0);
    const Scattering back = glass.one_way(at_angle(angle), {1, 1, 1}, 1 / 1.5f, false);
    EXPECT_NEAR(back.weight.x + s.weight.x, 1, 1e-6);
  }
}

// White furnace: a white surface in white light is as bright as that (Heitz 2014, "Understanding the
// masking-shadowing function", test; compensation: Kulla & Conty 2017).
TEST(Trace, WhiteMaterialsVanishInWhiteLight) {
  struct Case {
    Substance substance;
    float roughness;
  };
  for (const Case& c :
       {Case{Substance::matte, 1}, Case{Substance::coated, 0.06f}, Case{Substance::coated, 0.45f},
        Case{Substance::coated, 0.9f}, Case{Substance::metal, 0.1f}, Case{Substance::metal, 0.5f},
        Case{Substance::metal, 1}, Case{Substance::glass, 0}, Case{Substance::glass, 0.4f},
        Case{Substance::glass, 0.7f}}) {
    const Bsdf m(c.substance, c.roughness, 1.5f);
    for (const double angle : {0.0, 35.0, 60.0, 80.0})
      for (const float eta : {1 / 1.5f, 1.5f}) {
        if (c.substance != Substance::glass && eta > 1) continue;
        double sum = 0;
        constexpr int samples = 16384;
        for (uint32_t i = 0; i < samples; ++i) {
          Sampler random(3, i);
          sum += double(m.sample(at_angle(angle), {1, 1, 1}, eta, random).weight.x);
        }
        EXPECT_NEAR(sum / samples, 1, 0.012)
            << "substance " << int(c.substance) << " roughness " << c.roughness << " at " << angle << "°";
      }
  }
}

// What sample() says and what value() says are one thing: densities integrate to one, and the mean weight is
// the integral of the value (both by the midpoint rule over the hemisphere).
TEST(Trace, SampledDensitiesIntegrateToOne) {
  for (const Substance substance : {Substance::matte, Substance::coated, Substance::metal})
    for (const float roughness : {0.4f, 0.8f}) {
      const Bsdf m(substance, roughness, 1.5f);
      const Vec3f out = at_angle(50), color{0.6f, 0.3f, 0.1f};
      constexpr int n = 400;
      double density = 0, value = 0;
      for (int i = 0; i < n; ++i)
        for (int k = 0; k < 2 * n; ++k) {
          const double z = (i + 0.5) / n, angle = pi * (k + 0.5) / n, r = std::sqrt(1 - z * z);
          float d = 0;
          value += double(
              m.value(out, {float(r * std::cos(angle)), float(r * std::sin(angle)), float(z)}, color, d).x);
          density += double(d);
        }
      const double cell = 2 * pi / (2.0 * n * n);
      double sum = 0, below = 0;
      constexpr int samples = 16384;
      for (uint32_t i = 0; i < samples; ++i) {
        Sampler random(5, i);
        const Scattering s = m.sample(out, color, 1, random);
        sum += double(s.weight.x), below += s.in.z <= 0;
      }
      // Microfacets send some light below the surface, where it ends.
      EXPECT_NEAR(density * cell + below / samples, 1, 0.01) << int(substance) << " " << roughness;
      EXPECT_NEAR(sum / samples, value * cell, 0.01 * value * cell + 2e-3);
    }
}

// E = ∫ L cos θ dω: what is asked of a soft box is what a surface that faces it gets; sampled densities
// integrate to one.
TEST(Trace, ASoftBoxGivesTheLightThatIsAskedOfIt) {
  const SoftBox box(normalized(Vec3f{0.3f, 0.6f, 0.4f}), 0.5f, 0.3f, {1, 0.5f, 0.25f});
  double light = 0, whole = 0;
  constexpr int samples = 20000;
  for (uint32_t i = 0; i < samples; ++i) {
    Sampler random(1, i);
    float density = 0;
    const Vec3f d = box.sample({}, random.two(), density);
    EXPECT_NEAR(box.density({}, d), density, 1e-3 * double(density));
    light += double(box.radiance({}, d).y * dot(d, box.toward) / density);
  }
  EXPECT_NEAR(light / samples, 0.5 * pi, 0.005 * pi);
  constexpr int n = 800;
  for (int i = 0; i < n; ++i)
    for (int k = 0; k < 2 * n; ++k) {
      const double z = 2 * (i + 0.5) / n - 1, angle = pi * (k + 0.5) / n, r = std::sqrt(1 - z * z);
      whole += double(box.density({}, {float(r * std::cos(angle)), float(z), float(r * std::sin(angle))}));
    }
  EXPECT_NEAR(whole * 4 * pi / (2.0 * n * n), 1, 0.01);
}

// Beer and Lambert: a colour that is left behind a depth is left twice behind twice that.
TEST(Trace, ASlabAbsorbsAsItShould) {
  TracedSet set = white_set();
  const Vec3f empty = mean_of(traced(set, 16, 16), 6, 6, 10, 10);
  TracedBody slab = body(box_mesh({1, 1, 0.2}), Substance::glass, {1, 1, 1}, 1.0);
  slab.absorption = {0.5f, 2, 8};
  set.bodies = {slab};
  const Vec3f seen = mean_of(traced(set, 16, 16), 6, 6, 10, 10);
  for (int c = 0; c < 3; ++c) EXPECT_NEAR(seen[c] / empty[c], std::exp(-0.2f * slab.absorption[c]), 0.004);
}

// Where the absorption goes evenly from one side to the other its integral is the mean by the way (Lambert
// and Beer). Along the slab it is that of the place.
TEST(Trace, WhatVariesInASlabAbsorbsByThePlace) {
  TracedSet set = white_set();
  const Vec3f empty = mean_of(traced(set, 16, 16), 6, 6, 10, 10);
  const Vec3f front{1, 4, 2}, back{3, 0, 2};
  Mesh box = box_mesh({1, 1, 0.2});
  std::vector<Vec3f> absorption;
  for (const Vec3f& p : box.points) absorption.push_back(p.z > 0 ? front : back);
  TracedBody slab = body(box, Substance::glass, {1, 1, 1}, 1.0);
  slab.surface = std::make_shared<const Surface>(box, absorption);
  slab.varies = true, slab.absorption = {9, 9, 9};
  set.bodies = {slab};
  Vec3f seen = mean_of(traced(set, 16, 16), 6, 6, 10, 10);
  for (int c = 0; c < 3; ++c)
    EXPECT_NEAR(seen[c] / empty[c], std::exp(-0.2f * 2), 0.004) << "the mean of both";
  absorption.clear();
  for (const Vec3f& p : box.points) absorption.push_back(p.x > 0 ? front : back);
  slab.surface = std::make_shared<const Surface>(box, absorption);
  set.bodies = {slab};
  const Image picture = traced(set, 16, 16);
  const Vec3f left = mean_of(picture, 5, 6, 7, 10), right = mean_of(picture, 9, 6, 11, 10);
  EXPECT_GT(right.x, left.x) << "less of the red is taken where that is little";
  EXPECT_LT(right.y, left.y);
  EXPECT_NEAR(right.z, left.z, 0.004f);
}

// Chandrasekhar, Radiative Transfer (1960), of a slab that gives off light and scatters none: S (1 -
// exp(-t)).
TEST(Trace, SmokeThatGlowsGivesOffWhatItsDepthSays) {
  SmokeWalls::Sealed s = slab({40, 40, 24}, 0.01, 0.01f);
  const auto glow = [&](SmokeBy by) {
    return TracedSmoke(
        s, {.thickness = 1000, .shine = {2, 1, 0.5f}, .shine_by = by, .far_density = 0.02f, .far_heat = 50});
  };
  for (const SmokeBy by : {SmokeBy::itself, SmokeBy::density, SmokeBy::heat}) {
    s.smoke.warmth.assign(s.smoke.density.size(), 12.5f);
    const TracedSmoke smoke = glow(by);
    Vec3f sum;
    constexpr int rays = 20000;
    for (uint32_t i = 0; i < rays; ++i) {
      Sampler random(5, i);
      const Vec3f from{0.01f, 0.02f, 1}, way{0, 0, -1};
      const float met = smoke.meet(from, way, 10, 0.5f, random);
      if (met < 10) sum += smoke.shine(from + way * met, 0.5f);
    }
    const double part = by == SmokeBy::itself ? 1 : by == SmokeBy::density ? 0.5 : 0.25;
    for (int c = 0; c < 3; ++c)
      EXPECT_NEAR(double(sum[c]) / rays, part * (1 - std::exp(-2.4)) * std::pow(0.5, c - 1), 0.01);
  }
}

TEST(Trace, SmokeGoesOverIntoAnotherColourWhereItIsDenseOrWarm) {
  SmokeVolume v = slab({1, 1, 3}, 0.01, 0).smoke;
  v.density = {0, 0.005f, 0.02f}, v.warmth = {40, -5, 10};
  v.color.assign(9, 0.2f);
  Look look;
  look.smoke_far_color = {0.8, 0.2, 0.4}, look.far_density = 0.01, look.far_heat = 20;
  const auto reds = [&](SmokeBy by) {
    SmokeVolume out = v;
    look.smoke_color_by = by;
    color_smoke(out, look);
    EXPECT_EQ(out.color[1], 0.2f);
    return std::vector<float>{out.color[0], out.color[3], out.color[6]};
  };
  EXPECT_EQ(reds(SmokeBy::itself), (std::vector<float>{0.2f, 0.2f, 0.2f}));
  EXPECT_THAT(reds(SmokeBy::density),
              testing::Pointwise(testing::FloatNear(1e-6f), std::vector<float>{0.2f, 0.5f, 0.8f}));
  EXPECT_THAT(reds(SmokeBy::heat),
              testing::Pointwise(testing::FloatNear(1e-6f), std::vector<float>{0.8f, 0.2f, 0.5f}));
}

TEST(Trace, SmokeThatMovesIsSeenWhereItIsWhileTheShutterIsOpen) {
  SmokeWalls::Sealed s = slab({40, 40, 40}, 0.01, 1);
  s.smoke.velocity.assign(s.smoke.density.size(), {4, 0, 0});
  const TracedSmoke smoke(s, {.thickness = 1000, .span = 0.05f});  // 0.1 m each way
  const Vec3f low = to<float>(s.smoke.low) * 0.01f;
  const auto met = [&](float x, float time) {
    Sampler random(3, 1);
    return smoke.meet(low + Vec3f{x, 0.2f, 1}, {0, 0, -1}, 10, time, random) < 10;
  };
  EXPECT_TRUE(met(0.05f, 0.5f) && met(0.05f, 0.f) && !met(0.05f, 1.f));
  EXPECT_TRUE(met(0.35f, 0.5f) && met(0.35f, 1.f) && !met(0.35f, 0.f));
  EXPECT_TRUE(met(-0.05f, 0.f) && !met(-0.05f, 0.5f)) << "it comes from beyond its place";
}

TEST(Trace, SmokeThatMovesIntoEmptyCellsKeepsItsColour) {
  SmokeWalls::Sealed s = slab({40, 40, 40}, 0.01, 0);
  s.smoke.velocity.assign(s.smoke.density.size(), {});
  for (size_t i = 0; i < s.smoke.density.size(); ++i) {
    if (i % 40 >= 20) continue;  // the left half alone knows density, colour and velocity
    s.smoke.density[i] = 1, s.smoke.velocity[i] = {4, 0, 0};
    for (size_t c = 0; c < 3; ++c) s.smoke.color[3 * i + c] = 0.8f;
  }
  const TracedSmoke smoke(s, {.thickness = 1000, .span = 0.02f});  // 0.04 m each way
  const Vec3f from{0.02f, 0.05f, 1}, way{0, 0, -1};
  Sampler random(3, 1);
  EXPECT_EQ(smoke.meet(from, way, 10, 0.5f, random), 10);
  const float there = smoke.meet(from, way, 10, 1, random);
  ASSERT_LT(there, 10);
  EXPECT_EQ(smoke.albedo(from + way * there, 1), single_albedo({0.8f, 0.8f, 0.8f}));
}

TEST(Trace, BrokenUpSmokeIsRaggedAsFarAsItSaysAndDrifts) {
  SmokeWalls::Sealed s = slab({60, 60, 60}, 0.005, 1);
  s.smoke.velocity.assign(s.smoke.density.size(), {0, 0.1f, 0});
  const Vec3f low = to<float>(s.smoke.low) * 0.005f;
  const auto edges = [&](float clock) {
    const TracedSmoke smoke(s, {.thickness = 10000, .breakup = 0.02f, .breakup_size = 0.03f, .clock = clock});
    std::vector<float> out;
    for (int i = 0; i < 40; ++i) {
      Sampler random(3, 1);
      const Vec3f from = low + Vec3f{0.05f + 0.005f * float(i), 0.15f, 1};
      out.push_back(smoke.meet(from, {0, 0, -1}, 10, 0.5f, random) - 0.7f);  // 0: at its face
    }
    return out;
  };
  const std::vector<float> now = edges(0.1f), soon = edges(0.1f + 1 / 24.f), later = edges(0.5f);
  const auto [nearest, furthest] = std::minmax_element(now.begin(), now.end());
  EXPECT_GT(*furthest - *nearest, 0.005f);
  EXPECT_GT(*nearest, -0.026f);
  EXPECT_LT(*furthest, 0.026f);
  double step = 0, jump = 0;
  for (size_t i = 0; i < now.size(); ++i)
    step += std::pow(soon[i] - now[i], 2), jump += std::pow(later[i] - now[i], 2);
  EXPECT_LT(step, 0.5 * jump) << "from frame to frame it is nearly as it was";
  EXPECT_EQ(now, edges(0.1f));
}

TEST(Trace, SmokeLetsThroughWhatLambertAndBeerSay) {
  const TracedSmoke even(slab({24, 24, 24}, 0.01, 0.01f),
                         {.thickness = 1000});  // 10/m over 0.24 m less half a cell at both ends
  constexpr int rays = 20000;
  double met = 0, through = 0;
  for (uint32_t i = 0; i < rays; ++i) {
    Sampler random(9, i);
    const Vec3f from{0.013f, 0.021f, 1};
    met += even.meet(from, {0, 0, -1}, 10, 0.5f, random) < 10;
    through += double(even.through(from, {0, 0, -1}, 10, 0.5f, random));
  }
  const double depth = 10 * 0.24;  // the fading half cells inside and outside make up for each other
  EXPECT_NEAR(1 - met / rays, std::exp(-depth), 0.006);
  EXPECT_NEAR(through / rays, std::exp(-depth), 0.006);

  // What differs from place to place: optical depth by the midpoint rule.
  SmokeWalls::Sealed graded = slab({16, 16, 64}, 0.01, 0);
  double optical = 0;
  for (int z = 0; z < 64; ++z) {
    const float d = 0.02f * float(std::pow(std::sin(z * 0.3), 2));
    optical += double(d) * 1000 * 0.01;
    for (int i = 0; i < 256; ++i) graded.smoke.density[size_t(z * 256 + i)] = d;
  }
  const TracedSmoke waves(graded, {.thickness = 1000});
  through = met = 0;
  for (uint32_t i = 0; i < rays; ++i) {
    Sampler random(11, i);
    met += waves.meet({0, 0, 1}, {0, 0, -1}, 10, 0.5f, random) < 10;
    through += double(waves.through({0, 0, 1}, {0, 0, -1}, 10, 0.5f, random));
  }
  EXPECT_NEAR(1 - met / rays, std::exp(-optical), 0.006);
  EXPECT_NEAR(through / rays, std::exp(-optical), 0.006);
}

// A phase function integrates to one, g is its mean cosine, and directions come as often as it says (Henyey
// & Greenstein 1941).
TEST(Trace, SmokeSendsLightOnAsHenyeyAndGreensteinSay) {
  for (const float g : {0.f, 0.7f, -0.5f}) {
    double whole = 0, mean = 0;
    constexpr int n = 20000;
    for (int i = 0; i < n; ++i) {
      const float cosine = 2 * (float(i) + 0.5f) / n - 1;
      whole += 4 * pi * double(phase(g, cosine)) / n, mean += 4 * pi * double(cosine * phase(g, cosine)) / n;
    }
    EXPECT_NEAR(whole, 1, 1e-3);
    EXPECT_NEAR(mean, double(g), 1e-3);
    const Vec3f way = normalized(Vec3f{0.3f, -0.5f, 0.8f});
    double drawn = 0;
    int forwards = 0;
    for (uint32_t i = 0; i < n; ++i) {
      Sampler random(3, i);
      const Vec3f on = scattered_way(g, way, random.two());
      ASSERT_NEAR(length(on), 1, 1e-4f);
      drawn += double(dot(on, way)) / n, forwards += dot(on, way) > 0;
    }
    EXPECT_NEAR(drawn, double(g), 0.01);
    const double half = g == 0 ? 0.5
                               : (1 - double(g * g)) / (2 * double(g)) *
                                     (1 / (1 - double(g)) - 1 / std::sqrt(1 + double(g * g)));
    EXPECT_NEAR(forwards / double(n), half, 0.01);
  }
}

// What a thin slab scatters once, by quadrature along the line of sight (Chandrasekhar, Radiative Transfer,
// 1960): E ω p ∫ σ exp(-σ (s + d(s))) ds, d the way that light has come through it. A matte plate that faces
// the sun, which is E / π bright, says how much E is.
TEST(Trace, AThinSlabScattersOnceAsQuadratureSays) {
  constexpr double deep = 0.1, sigma = 0.5;
  const auto in_the_sun = [](double from_behind) {
    TracedSet set = white_set();
    set.look.backdrop_color = {0, 0, 0};
    Light sun;
    sun.kind = LightKind::sun, sun.elevation = 0, sun.azimuth = from_behind;
    set.look.lights = {sun};
    return set;
  };
  TracedSet plate = in_the_sun(0);
  plate.camera.azimuth = 0;
  plate.bodies = {body(box_mesh({1, 1, 0.02}), Substance::matte, {1, 1, 1})};
  const double by_pi = double(mean_of(traced(plate, 16, 64), 6, 6, 10, 10).y);
  ASSERT_GT(by_pi, 0.1);
  SmokeWalls::Sealed smoke = slab({160, 160, 10}, 0.01, 0.0005f);
  smoke.smoke.color.assign(smoke.smoke.color.size(), 0.1f);
  const double albedo = double(single_albedo({0.1f, 0.1f, 0.1f}).y);
  for (const double angle : {40.0, 150.0})
    for (const float g : {0.f, 0.6f}) {
      TracedSet set = in_the_sun(angle * pi / 180);
      set.smoke.emplace_back(smoke, SmokeOptics{.thickness = 1000, .forward = g});
      const double seen = double(mean_of(traced(set, 16, 2048), 6, 6, 10, 10).y),
                   c = std::cos(angle * pi / 180);
      double sum = 0;
      constexpr int n = 1000;
      for (int i = 0; i < n; ++i) {
        const double s = (i + 0.5) * deep / n, d = c > 0 ? s / c : (deep - s) / -c;
        sum += sigma * std::exp(-sigma * (s + d)) * deep / n;
      }
      const double once = pi * by_pi * albedo * double(phase(g, float(-c))) * sum;
      EXPECT_NEAR(seen / once, 1, 0.08) << angle << " " << g << ": a little is scattered more often";
    }
}

// Black smoke in front of a backdrop, as a picture.
TEST(Trace, BlackSmokeDimsWhatLiesBehind) {
  TracedSet set = white_set();
  const Vec3f empty = mean_of(traced(set, 16, 16), 6, 6, 10, 10);
  set.smoke.emplace_back(slab({60, 60, 20}, 0.01, 0.005f), SmokeOptics{.thickness = 1000});
  const Vec3f seen = mean_of(traced(set, 16, 256), 6, 6, 10, 10);
  EXPECT_NEAR(seen.x / empty.x, std::exp(-1.0), 0.02);
}

// Where bodies of one index overlap, nothing shows where one ends (Schmidt & Budge 2002).
TEST(Trace, OverlappingGlassIsOneBody) {
  const auto box = [](const Vec3d& size, const Vec3d& middle, int before) {
    Mesh m = box_mesh(size);
    m.place({{}, middle, 1});
    TracedBody b = body(std::move(m), Substance::glass, {1, 1, 1}, 1.4);
    b.before = before, b.absorption = {3, 1, 0.3f};
    return b;
  };
  TracedSet one = white_set();
  one.camera.azimuth = 0.5, one.camera.elevation = 0.2;
  one.bodies = {box({0.5, 0.5, 0.6}, {}, 1)};
  const Vec3f alone = mean_of(traced(one, 24, 128), 0, 0, 24, 24);
  for (const int before : {0, 2}) {
    TracedSet two = one;
    two.bodies.push_back(box({0.3, 0.2, 0.25}, {0.05, 0.02, 0.1}, before));
    const Vec3f both = mean_of(traced(two, 24, 128), 0, 0, 24, 24);
    for (int c = 0; c < 3; ++c) EXPECT_NEAR(both[c], alone[c], 0.01 * double(alone[c])) << before;
  }
}

// A liquid that ends a little above what it lies on is drawn down to it: no air is left to mirror.
TEST(Trace, LiquidTouchesWhatItLiesOn) {
  const auto set = [](double gap, float touches) {
    TracedSet s = white_set();
    s.camera.elevation = 1.2, s.camera.distance = 0.2;
    Mesh plate = box_mesh({1, 0.1, 1}), water = rounded_box_mesh({0.05, 0.01, 0.05}, 0.002);
    plate.place({{}, {0, -0.05, 0}, 1}), water.place({{}, {0, 0.005 + gap, 0}, 1});
    s.bodies = {body(std::move(plate), Substance::coated, {0.3f, 0.3f, 0.3f}),
                body(std::move(water), Substance::glass, {1, 1, 1}, 1.333)};
    s.bodies[1].touches = touches;
    return mean_of(traced(s, 24, 256), 10, 10, 14, 14).x;
  };
  const float wet = set(-1e-4, 0), gap = set(2e-4, 0), touching = set(2e-4, 5e-4f);
  EXPECT_NEAR(touching, wet, 0.03 * double(wet));
  EXPECT_GT(std::abs(gap - wet), 3 * std::abs(touching - wet));
}

TEST(Trace, SameBitsAtAnyNumberOfThreadsAndInAnyPortions) {
  const auto set = [] {
    TracedSet s = white_set();
    s.look.floor = true, s.camera.target = {0, 0.1, 0};
    Mesh ball = ball_mesh(0.15), drop = ball_mesh(0.1);
    ball.place({{}, {0.1, 0.15, 0}, 1}), drop.place({{}, {-0.15, 0.12, 0.1}, 1});
    s.bodies = {body(std::move(ball), Substance::coated, {0.5f, 0.2f, 0.1f}),
                body(std::move(drop), Substance::glass, {1, 1, 1})};
    s.smoke.emplace_back(slab({20, 20, 20}, 0.02, 0.004f), SmokeOptics{.thickness = 1000});
    return s;
  };
  const auto picture = [&](int threads, std::initializer_list<int> portions) {
    const ThreadLimit limit(threads);
    PathTracer t(set(), 40, 30);
    for (const int n : portions) t.add(n);
    return t.picture(true).rgb;
  };
  const auto whole = picture(2, {6});
  EXPECT_EQ(whole, picture(1, {6}));
  EXPECT_EQ(whole, picture(2, {1, 2, 3}));
}

TEST(Trace, StoppedInTheMiddleNothingIsAdded) {
  PathTracer t(white_set(), 20, 20);
  ASSERT_TRUE(t.add(2));
  const auto before = t.picture().rgb;
  EXPECT_FALSE(t.add(2, [] { return false; }));
  EXPECT_EQ(t.samples(), 2);
  EXPECT_EQ(t.picture().rgb, before);
}

// Out of focus a point becomes a circle of diameter f² |s - d| / (N d (s - f)) on the film (Hecht, Optics,
// thin lens): here the edge of a wide dark box, which fades over that diameter.
TEST(Trace, BlurIsThatOfAThinLens) {
  TracedSet s = white_set();
  s.camera.focal = 0.05, s.camera.f_number = 1, s.camera.distance = 1, s.camera.focus = 0.5;
  Mesh half = box_mesh({2, 2, 0.01});
  half.place({{}, {1, 0, 0}, 1});  // its edge is at x = 0, a metre away
  s.bodies = {body(std::move(half), Substance::matte, {0, 0, 0})};
  s.look.lights.clear();
  constexpr int size = 200;
  const Image image = traced(s, size, 64);
  s.bodies.clear();
  const Image open_view = traced(s, size, 16);
  int first = -1, last = -1;  // from where 5 % is hidden to where 95 % is
  for (int x = 0; x < size; ++x) {
    const double open = double(mean_of(image, x, 0, x + 1, size).x / mean_of(open_view, x, 0, x + 1, size).x);
    if (first < 0 && open < 0.95) first = x;
    if (open > 0.05) last = x;
  }
  // The share of a disc beyond a chord at ±0.80 of its radius is 5 %. The blur is that of a lens of f/N in
  // diameter, seen from its focus at 0.5 m: as wide as itself at 1 m.
  const double width = 0.05 / 1 * std::abs(1 - 0.5) / 0.5, metre = size / (0.036 / 0.05 * 1);
  EXPECT_NEAR((last - first) / metre, 0.805 * width, 0.07 * width);
}

TEST(Trace, GrainGoesAndEdgesStay) {
  // Two halves with grain around a picture with an edge; what is met first says where that is.
  Grainy g{64, 48};
  std::vector<float> truth;
  for (int i = 0; i < 64 * 48; ++i) {
    const bool right = i % 64 >= 30;
    Sampler random(uint32_t(i), 0);
    const float value = right ? 0.8f : 0.2f, grain = 0.3f * value;
    for (int k = 0; k < 2; ++k) {
      const float v = value + grain * (2 * random.one() - 1) * 1.7f;
      g.half[k].push_back({v, v, v});
    }
    const float variance = grain * grain * 1.7f * 1.7f / 3 / 2;
    g.variance.push_back({variance, variance, variance});
    Grainy::Feature f;
    f.color = right ? Vec3f{0.7f, 0.7f, 0.7f} : Vec3f{0.3f, 0.3f, 0.3f}, f.normal = {0, 0, 1}, f.depth = 1;
    g.features.push_back(f);
    truth.push_back(value);
  }
  const Image out = denoised(g);
  double before = 0, after = 0;
  for (size_t i = 0; i < truth.size(); ++i) {
    before += std::pow(double((g.half[0][i].x + g.half[1][i].x) / 2 - truth[i]), 2);
    after += std::pow(double(out.rgb[3 * i] - truth[i]), 2);
  }
  EXPECT_LT(after, before / 20);
  EXPECT_NEAR(out.at(29, 20).x, 0.2, 0.03);
  EXPECT_NEAR(out.at(30, 20).x, 0.8, 0.1);
}

class Render : public Cli {};

TEST_F(Render, FromTheCommandLine) {
  make();
  ASSERT_EQ(cli("run a.pour --frames 1-8").code, 0);
  ASSERT_EQ(cli("render a.pour --frames 7-8 --size 64x36 --samples 4 --out r").code, 0);
  EXPECT_TRUE(fs::exists(folder / "r/a.000007.png") && fs::exists(folder / "r/a.000008.png"));
  ASSERT_EQ(cli("render a.pour --frames 8-8 --size 64x36 --samples 4 --out again").code, 0);
  EXPECT_EQ(read_whole(folder / "r/a.000008.png"), read_whole(folder / "again/a.000008.png"));
  // A material of the shot as it is now is seen in a run that was made before.
  ASSERT_EQ(cli("set a.pour lights.key.color=#ff0000").code, 0);
  ASSERT_EQ(cli("render a.pour --frames 8-8 --size 64x36 --samples 4 --out red").code, 0);
  EXPECT_NE(read_whole(folder / "r/a.000008.png"), read_whole(folder / "red/a.000008.png"));
  // Delivered as the shot says, or quickly all the same.
  ASSERT_EQ(cli("deliver a.pour --frames 8-8 --size 64x36 --images quick").code, 0);
  ASSERT_EQ(cli("set a.pour film.samples=4").code, 0);
  ASSERT_EQ(cli("deliver a.pour --frames 8-8 --size 64x36 --images traced").code, 0);
  ASSERT_EQ(cli("deliver a.pour --frames 8-8 --size 64x36 --samples 0 --images quick2").code, 0);
  EXPECT_EQ(read_whole(folder / "traced/a.000008.png"), read_whole(folder / "red/a.000008.png"));
  EXPECT_EQ(read_whole(folder / "quick/a.000008.png"), read_whole(folder / "quick2/a.000008.png"));
  EXPECT_NE(read_whole(folder / "quick/a.000008.png"), read_whole(folder / "traced/a.000008.png"));
  EXPECT_EQ(cli("render a.pour --samples 0 --out r").code, 2);
}
