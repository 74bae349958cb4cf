// Lights, the shutter, labels and what lies behind, in traced pictures.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <OpenImageIO/imageio.h>

#include <cmath>
#include <numbers>

#include "base/pixels.h"
#include "check/checks.h"
#include "cli_fixture.h"
#include "shape/mesh.h"
#include "shape/near_surface.h"
#include "shot/compare.h"
#include "shot/edit.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"
#include "trace/cloudy.h"
#include "trace/given_back.h"
#include "trace/lights.h"
#include "trace/path_tracer.h"
#include "trace/traced_set.h"

using namespace pour;
using testing::HasSubstr;

namespace {

using std::numbers::pi;

Light light(LightKind kind, double strength = 1) {
  Light l;
  l.id = "light", l.name = "Light", l.kind = kind, l.strength = strength;
  return l;
}

TracedBody body(Mesh mesh, Substance substance, const Vec3f& color) {
  TracedBody b;
  b.surface = std::make_shared<const Surface>(std::move(mesh));
  b.substance = substance, b.color = color, b.roughness = substance == Substance::glass ? 0 : 0.5f;
  return b;
}

/// A plate at y = 0, seen from above, under these lights alone.
TracedSet plate(std::vector<Light> lights) {
  TracedSet s;
  s.look.floor = false, s.look.halo = 0, s.look.backdrop = Backdrop::plain, s.look.backdrop_color = {0, 0, 0};
  s.look.lights = std::move(lights);
  s.camera.target = {0, 0, 0}, s.camera.distance = 1, s.camera.elevation = 89 * degree;
  Mesh slab = box_mesh({4, 0.1, 4});
  slab.place({{}, {0, -0.05, 0}, 1});
  s.bodies = {body(std::move(slab), Substance::matte, {1, 1, 1})};
  return s;
}

Image traced(TracedSet set, int size, int samples) {
  PathTracer t(std::move(set), size, size);
  t.add(samples);
  return t.picture();
}

double middle_of(const Image& image) {
  const int a = image.width * 3 / 8, b = image.width * 5 / 8;
  double sum = 0;
  for (int y = a; y < b; ++y)
    for (int x = a; x < b; ++x) sum += double(image.at(x, y).y);
  return sum / ((b - a) * (b - a));
}

constexpr double usual = 2.2;  // irradiance by π of a light of full strength

/// A picture file of one colour, but for what `paint` says.
template <class F>
fs::path write_picture(const fs::path& file, int wide, int high, int channels, const F& paint) {
  std::vector<float> values;
  for (int y = 0; y < high; ++y)
    for (int x = 0; x < wide; ++x)
      for (int c = 0; c < channels; ++c) values.push_back(paint(x, y, c));
  const auto out = OIIO::ImageOutput::create(file.string());
  OIIO::ImageSpec spec(wide, high, channels,
                       file.extension() == ".png" ? OIIO::TypeDesc::UINT8 : OIIO::TypeDesc::FLOAT);
  if (channels == 4) spec.attribute("oiio:UnassociatedAlpha", 1);
  EXPECT_TRUE(out && out->open(file.string(), spec) &&
              out->write_image(OIIO::TypeDesc::FLOAT, values.data()) && out->close());
  return file;
}

PictureFile picture_file(const fs::path& file) {
  return {file.filename().string(), std::make_shared<const std::string>(read_picture(file))};
}

class Lights : public Cli {};

}  // namespace

// CIE 15:2004: illuminant A, a black body of 2855.5 K, is at (0.4476, 0.4074); Planck's locus at 6500 K is at
// (0.3135, 0.3237) and at 10000 K at (0.2807, 0.2883) (Wyszecki & Stiles, Color Science, table 1(3.11); from
// memory).
TEST(Light, BlackBodiesAreOnPlancksLocus) {
  const auto at = [](double kelvin, double x, double y) {
    const auto c = black_body_chromaticity(kelvin);
    EXPECT_NEAR(c.first, x, 0.002) << kelvin;
    EXPECT_NEAR(c.second, y, 0.002) << kelvin;
  };
  at(2855.5, 0.4476, 0.4074), at(6500, 0.3135, 0.3237), at(10000, 0.2807, 0.2883);
  const Color white = black_body(6500), lamp = black_body(2700);
  EXPECT_NEAR(white.r, 1, 1e-6);
  EXPECT_NEAR(white.b, 1, 1e-6);
  EXPECT_GT(lamp.r, 2 * lamp.b);
  EXPECT_NEAR(0.2126 * lamp.r + 0.7152 * lamp.g + 0.0722 * lamp.b, 1, 1e-6);
}

// A white plate that faces a light sends back irradiance by π (Lambert), whatever the kind of the light.
TEST(Light, EachKindGivesWhatIsAskedOfIt) {
  for (const LightKind kind : {LightKind::soft_box, LightKind::disc, LightKind::sun, LightKind::spot}) {
    Light l = light(kind, 0.5);
    l.elevation = 90 * degree, l.position = {0, 2, 0}, l.aim = {0, 0, 0};
    EXPECT_NEAR(middle_of(traced(plate({l}), 16, 64)), 0.5 * usual, 0.02 * 0.5 * usual) << int(kind);
  }
  // An even room: ∫ (0.55 + 0.45 cos θ) cos θ dω / π = 0.55 + 0.3.
  EXPECT_NEAR(middle_of(traced(plate({light(LightKind::room, 0.5)}), 16, 256)), 0.85 * 0.5 * usual, 0.02);
}

// Of a lamp at distance r the illuminance goes with 1/r² (inverse square law), and with the cosine.
TEST(Light, ASpotGoesWithTheSquareOfTheDistance) {
  Light l = light(LightKind::spot);
  l.position = {0, 1, 0}, l.aim = {0, 0, 0}, l.cone = 170 * degree;
  const Vec3f from[] = {{0, 0, 0}, {0, 0.5f, 0}, {0, -1, 0}};
  TracedSet s = plate({l});
  const StudioLights lights(s.look, s.camera, View(s.camera, 1));
  ASSERT_EQ(lights.lights.size(), 1u);
  const auto flux = [&](const Vec3f& at) {
    double sum = 0;
    for (uint32_t i = 0; i < 512; ++i) {
      Sampler random(1, i);
      float density = 0;
      const Vec3f d = lights.lights[0]->sample(at, random.two(), density);
      sum += double(lights.lights[0]->radiance(at, d).y * d.y / density) / 512;
    }
    return sum / pi;
  };
  EXPECT_NEAR(flux(from[0]), usual, 0.01 * usual);
  EXPECT_NEAR(flux(from[1]), 4 * usual, 0.02 * 4 * usual);
  EXPECT_NEAR(flux(from[2]), usual / 4, 0.01 * usual / 4);
}

// Sampled densities integrate to one, also of a room with a small bright window.
TEST_F(Lights, DensitiesOfRoomsIntegrateToOne) {
  const auto file = write_picture(folder / "room.exr", 64, 32, 3, [](int x, int y, int) {
    return x > 20 && x < 24 && y > 8 && y < 12 ? 500.f : 0.1f;
  });
  const PicturedRoom room(unpack_picture(picture_file(file).bytes, "room"), 0.4f, {0.5f, 0.5f, 0.5f});
  double whole = 0, by_chance = 0, light = 0, even = 0;
  constexpr int n = 600;
  for (int i = 0; i < n; ++i)
    for (int k = 0; k < 2 * n; ++k) {
      const double z = 2 * (i + 0.5) / n - 1, angle = pi * (k + 0.5) / n, r = std::sqrt(1 - z * z);
      const Vec3f d{float(r * std::cos(angle)), float(z), float(r * std::sin(angle))};
      whole += double(room.density({}, d)), even += double(room.radiance({}, d).x);
    }
  const double cell = 4 * pi / (2.0 * n * n);
  EXPECT_NEAR(whole * cell, 1, 0.015);
  EXPECT_NEAR(even * cell / (4 * pi), 0.5, 0.01) << "as bright on average as it says";
  constexpr uint32_t samples = 4000;
  for (uint32_t i = 0; i < samples; ++i) {
    Sampler random(3, i);
    float density = 0;
    const Vec3f d = room.sample({}, random.two(), density);
    ASSERT_GT(density, 0);
    light += double(room.radiance({}, d).x / density) / samples;
    by_chance += double(room.radiance({}, d).x) > 10;
  }
  EXPECT_NEAR(light / (4 * pi), 0.5, 0.02);
  EXPECT_GT(by_chance / samples, 0.8) << "most ask for the window";
}

// Under a centimetre of clear water the sun still comes to the bottom, and as nothing is absorbed, a white
// one sends all of it back (conservation of energy; what leaves water is nearly as even as what a white plate
// scatters). With absorption it is less by Beer and Lambert, at least on the way straight down and up.
TEST(Light, TheSunComesThroughWater) {
  Light sun = light(LightKind::sun);
  sun.elevation = 90 * degree;
  TracedSet dry = plate({sun});
  dry.camera.elevation = 60 * degree;  // not where water mirrors the sun
  TracedSet wet = dry;
  wet.bodies.push_back(body(box_mesh({3.9, 0.02, 3.9}), Substance::glass, {1, 1, 1}));
  wet.bodies[1].index = 1.333f;
  const double bare = middle_of(traced(dry, 16, 64)), clear = middle_of(traced(wet, 16, 1024));
  EXPECT_NEAR(clear / bare, 1, 0.12);
  wet.bodies[1].absorption = {0, 20, 0};
  const double dim = middle_of(traced(wet, 16, 256));
  EXPECT_LT(dim / clear, std::exp(-2 * 20 * 0.01));
  EXPECT_GT(dim / clear, std::exp(-5 * 20 * 0.01));
}

// From within a body light comes through what is left of it (Beer and Lambert).
TEST(Light, TheCameraMayBeInALiquid) {
  TracedSet s = plate({});
  s.camera.elevation = 0, s.camera.distance = 1, s.look.backdrop_color = {1, 1, 1};
  s.bodies = {body(box_mesh({3, 3, 3}), Substance::glass, {1, 1, 1})};
  s.bodies[0].index = 1, s.bodies[0].absorption = {0.3f, 0.6f, 0.9f};
  // From 1 m before the middle to 1.5 m behind it.
  EXPECT_NEAR(middle_of(traced(s, 16, 4)), std::exp(-0.6 * 2.5), 0.02);
}

TEST(Light, ShinesOnWhatItIsToldTo) {
  TracedSet s = plate({light(LightKind::sun)});
  s.look.lights[0].elevation = 90 * degree;
  s.bodies[0].lit_by = 0;
  EXPECT_EQ(middle_of(traced(s, 16, 16)), 0);
  s.bodies[0].lit_by = 1;
  EXPECT_GT(middle_of(traced(s, 16, 16)), 1);
}

// Light adds up: what comes from each light and from the backdrop is the whole picture.
TEST(Light, PassesOfTheLightsAddUp) {
  Light sun = light(LightKind::sun, 0.3), box = light(LightKind::soft_box, 0.6),
        room = light(LightKind::room, 0.2);
  box.id = "box", room.id = "room";
  TracedSet s = plate({sun, box, room});
  s.look.backdrop_color = {0.2, 0.3, 0.4}, s.camera.elevation = 30 * degree, s.camera.distance = 6;
  PathTracer t(std::move(s), 24, 24, true);
  t.add(8);
  for (const bool denoised : {false, true}) {
    const Image whole = t.picture(denoised);
    const std::vector<Image> parts = t.of_lights(denoised);
    ASSERT_EQ(parts.size(), 4u);
    double each[4] = {};
    for (size_t i = 0; i < whole.rgb.size(); ++i) {
      float sum = 0;
      for (size_t k = 0; k < 4; ++k) sum += parts[k].rgb[i], each[k] += double(parts[k].rgb[i]);
      ASSERT_NEAR(sum, whole.rgb[i], 1e-4f * (1 + whole.rgb[i])) << denoised;
    }
    for (const double e : each) EXPECT_GT(e, 0);
  }
  EXPECT_NE(t.of_lights(true)[1].rgb, t.of_lights()[1].rgb) << "their grain is taken out too";
}

namespace {

/// A ball of glass on a white plate, which gathers light that paths seldom meet.
TracedSet gathering(double box, double sun) {
  Light a = light(LightKind::soft_box, box), b = light(LightKind::sun, sun);
  a.id = "box", a.azimuth = -50 * degree, a.elevation = 35 * degree, b.id = "sun", b.azimuth = 60 * degree;
  b.elevation = 50 * degree;
  TracedSet s = plate({a, b});
  s.camera.elevation = 35 * degree, s.camera.distance = 3, s.look.backdrop = Backdrop::transparent;
  Mesh ball = ball_mesh(0.25);
  ball.place({{}, {0, 0.26, 0}, 1});
  s.bodies.push_back(body(std::move(ball), Substance::glass, {1, 1, 1}));
  return s;
}

double sum_of(const Image& image) {
  double sum = 0;
  for (const float v : image.rgb) sum += double(v);
  return sum;
}

}  // namespace

// Light adds up, however bright it is: what a cut-off takes from paths that bring too much has to be in
// proportion to the light, and to come back.
TEST(Light, IsLinear) {
  const auto pass = [](double strength) {
    PathTracer t(gathering(strength, 0.3), 24, 24, true);
    t.add(512);
    return sum_of(t.of_lights()[1]) / strength;
  };
  const double usual_strength = pass(0.6);
  for (const double strength : {0.06, 100.0})
    EXPECT_NEAR(pass(strength) / usual_strength, 1, 0.02) << strength;
  TracedSet twice = gathering(1.2, 0.6);
  twice.look.exposure = -1;
  const Image once = traced(gathering(0.6, 0.3), 24, 64), same = traced(std::move(twice), 24, 64);
  for (size_t i = 0; i < once.rgb.size(); ++i)
    ASSERT_NEAR(same.rgb[i], once.rgb[i], 0.01f * once.rgb[i] + 1e-5f);
}

// As much comes back as was cut off, on surfaces alone, and in proportion.
TEST(Light, ThatWasCutOffComesBack) {
  constexpr int w = 60, h = 400;
  std::vector<Vec3f> cut(w * h);
  std::vector<float> weight(w * h);
  for (int y = 0; y < h; ++y)
    for (int x = 0; x < w; ++x) weight[size_t(y * w + x)] = x < 30 ? 1.f + float(y % 3) : 0.f;
  cut[200 * w + 29] = {100, 20, 3}, cut[0] = {7, 7, 7};
  const std::vector<Vec3f> back = given_back(cut, weight, w, h);
  Vec3d sum;
  for (size_t i = 0; i < back.size(); ++i) {
    sum += to<double>(back[i]);
    if (weight[i] == 0) {
      ASSERT_EQ(back[i].x, 0) << "nothing lies there that light could fall on";
    }
  }
  EXPECT_NEAR(sum.x, 107, 0.1);
  EXPECT_NEAR(sum.z, 10, 0.01);
  for (Vec3f& v : cut) v = v * 3.f;
  EXPECT_NEAR(given_back(cut, weight, w, h)[201 * w + 20].x, 3 * back[201 * w + 20].x, 1e-5f);
}

// Saunderson 1942 and van de Hulst 1980: a deep body of cloudy liquid in a room that is equally bright all
// round is seen in its colour, with the 2 % that its surface mirrors (Fresnel); whether the room is met by
// chance, or is a picture that is asked for through the surface.
TEST_F(Lights, CloudyLiquidIsSeenInItsColour) {
  Light even = light(LightKind::room, 0.5), pictured = even;
  pictured.room = RoomStyle::picture;
  pictured.picture =
      picture_file(write_picture(folder / "white.exr", 32, 16, 3, [](int, int, int) { return 1.f; }));
  for (const Light& room : {even, pictured}) {
    const double bright = middle_of(traced(plate({room}), 16, 128));  // a white plate
    for (const float index : {1.2f, 1.345f, 1.5f})
      for (const float color : {0.2f, 0.5f, 0.8f}) {
        TracedSet s = plate({room});
        Mesh deep = box_mesh({4, 2, 4});
        deep.place({{}, {0, -1, 0}, 1});
        TracedBody b = body(std::move(deep), Substance::glass, {1, 1, 1});
        b.index = index, b.scattering = 1 / 0.002f,
        b.albedo = CloudySurface(index).albedo({color, color, color});
        s.bodies = {b};
        const double mirrored = double(fresnel(1, 1 / index));
        EXPECT_NEAR(middle_of(traced(s, 16, 128)) / bright, double(color) + mirrored, 0.08)
            << color << " under " << index << (&room == &even ? "" : "; the room is a picture");
      }
  }
  EXPECT_NEAR(mirrored_of_all_sides(1.5f), 0.092, 0.001) << "of glass, Duntley 1942, from memory";
}

TEST(Light, BehindATransparentBackdropNothingIsCovered) {
  TracedSet s = plate({light(LightKind::sun)});
  s.camera.elevation = 0, s.camera.distance = 2, s.look.backdrop = Backdrop::transparent;
  s.bodies = {body(box_mesh({0.5, 0.5, 0.1}), Substance::matte, {1, 1, 1})};
  PathTracer t(s, 32, 32);
  t.add(16);
  const Image image = t.picture();
  ASSERT_EQ(image.alpha.size(), 32u * 32);
  EXPECT_EQ(image.alpha[0], 0);
  EXPECT_EQ(image.at(0, 0).x, 0);
  EXPECT_EQ(image.alpha[16 * 32 + 16], 1);
  // The part that is covered: a square of 0.5 m at 2 m - 0.05 m through a lens of 36 mm / 50 mm.
  double covered = 0;
  for (const float a : image.alpha) covered += double(a) / (32 * 32);
  const double side = 0.5 / (1.95 * 0.036 / 0.05);
  EXPECT_NEAR(covered, side * side, 0.02 * side * side);
}

// A floor of shadows under a lamp straight above: covered where the box keeps its light away, clear beyond.
TEST(Light, AFloorOfShadowsCatchesThem) {
  Light sun = light(LightKind::sun);
  sun.elevation = 90 * degree;
  TracedSet s = plate({sun});
  s.look.backdrop = Backdrop::transparent, s.look.floor = true, s.look.floor_surface = FloorKind::shadows;
  s.camera.elevation = 40 * degree, s.camera.distance = 2;
  Mesh box = box_mesh({0.3, 0.02, 0.3});
  box.place({{}, {0, 0.5, 0}, 1});
  s.bodies = {body(std::move(box), Substance::matte, {1, 1, 1})};
  PathTracer t(s, 64, 64);
  t.add(64);
  const std::vector<float> alpha = t.alpha();
  // The floor under the box is in the middle of the picture, where the camera looks.
  EXPECT_GT(alpha[32 * 64 + 32], 0.95);
  EXPECT_LT(alpha[32 * 64 + 4], 0.05);
  EXPECT_LT(t.picture().at(32, 32).x, 0.02) << "a shadow brings no light";
}

// While the shutter is open a body goes so far: its edge fades evenly over that (a box filter in time).
TEST(Shutter, AnEdgeThatMovesFadesOverItsWay) {
  TracedSet s = plate({});
  s.look.backdrop_color = {1, 1, 1};
  s.camera.elevation = 0, s.camera.distance = 1, s.camera.target = {0, 0, 0};
  Mesh half = box_mesh({2, 2, 0.01});
  half.place({{}, {1, 0, 0}, 1});  // its edge is at x = 0
  s.bodies = {body(std::move(half), Substance::matte, {0, 0, 0})};
  s.span = 0.02, s.blurs = true;
  s.bodies[0].velocity.assign(s.bodies[0].surface->mesh.points.size(), Vec3f{10, 0, 0});  // 20 cm in all
  const auto fades_over = [&](const TracedSet& set) {
    PathTracer t(set, 200, 4);
    t.add(128);
    const Image image = t.picture();
    int first = -1, last = 0;
    for (int x = 0; x < 200; ++x) {
      const float v = image.at(x, 2).x;
      if (first < 0 && v < 0.95f) first = x;
      if (v > 0.05f) last = x;
    }
    EXPECT_NEAR(image.at(100, 2).x, 0.5, 0.06)
        << "in the middle of the exposure it is where the frame has it";
    return (last - first) * 0.036 / 0.05 / 200;  // m at 1 m
  };
  EXPECT_NEAR(fades_over(s), 0.9 * 0.2, 0.01);
  // The same by poses, of a piece.
  s.bodies[0].velocity.clear();
  s.bodies[0].moves = true;
  s.bodies[0].before_it.position = {-0.1, 0, 0}, s.bodies[0].after_it.position = {0.1, 0, 0};
  EXPECT_NEAR(fades_over(s), 0.9 * 0.2, 0.01);
  const DataPasses data = PathTracer(s, 9, 9).data();
  EXPECT_NEAR(data.velocity[4 * 9 + 6].x, 10, 1e-4) << "m/s";
  // The camera goes the same way: the body stands still before it, and what is behind is even.
  s.bodies[0].moves = false;
  s.before_it = s.after_it = s.camera;
  s.before_it.target = {0.1, 0, 0}, s.after_it.target = {-0.1, 0, 0}, s.camera_moves = true;
  EXPECT_NEAR(fades_over(s), 0.9 * 0.2, 0.01);
  s.blurs = false;
  PathTracer sharp(s, 200, 4);
  sharp.add(16);
  EXPECT_GT(sharp.picture().at(97, 2).x, 0.99f);
  EXPECT_LT(sharp.picture().at(102, 2).x, 0.01f);
}

TEST(Shutter, DataPassesSayWhatIsWhere) {
  TracedSet s = plate({light(LightKind::sun)});
  s.camera.elevation = 0, s.camera.distance = 2;
  s.bodies = {body(box_mesh({0.5, 0.5, 0.1}), Substance::matte, {1, 1, 1})};
  s.bodies[0].piece = 3;
  const DataPasses d = PathTracer(s, 9, 9).data();
  EXPECT_NEAR(d.depth[40], 1.95, 1e-4);
  EXPECT_NEAR(d.position[40].z, 0.05, 1e-4);
  EXPECT_NEAR(d.normal[40].z, 1, 1e-5);
  EXPECT_EQ(d.piece[40], 3);
  EXPECT_EQ(d.fluid[40], 0);
  EXPECT_EQ(d.depth[0], 0);
  EXPECT_EQ(d.piece[0], 0);
}

TEST_F(Lights, LabelsStandUprightAndAreNotMirrored) {
  // Red above on the left, green above on the right, blue below; its right border is transparent.
  const auto file = write_picture(folder / "label.png", 40, 20, 4, [](int x, int y, int c) {
    if (c == 3) return x < 36 ? 1.f : 0.f;
    return c == (y >= 10 ? 2 : x < 20 ? 0 : 1) ? 1.f : 0.f;
  });
  auto label = std::make_shared<TracedLabel>();
  label->picture = unpack_picture(picture_file(file).bytes, "label");
  label->height = 0.2f, label->radius = 0.3f;
  const Vec3f under{0.5f, 0.5f, 0.5f}, front{0, 0, 1};
  EXPECT_EQ(label->over(under, {-0.1f, 0.05f, 0.1f}, front), (Vec3f{1, 0, 0}));
  EXPECT_EQ(label->over(under, {0.1f, 0.05f, 0.1f}, front), (Vec3f{0, 1, 0}));
  EXPECT_EQ(label->over(under, {0, -0.05f, 0.1f}, front), (Vec3f{0, 0, 1}));
  EXPECT_EQ(label->over(under, {0.19f, 0.05f, 0.1f}, front), under) << "where it is transparent";
  EXPECT_EQ(label->over(under, {0.3f, 0.05f, 0.1f}, front), under) << "beside it";
  EXPECT_EQ(label->over(under, {0, 0.05f, -0.1f}, {0, 0, -1}), under) << "not on the back";
  label->place = LabelPlace::around;  // 0.4 m of a way round of 1.88 m
  const auto at = [&](double turn) {
    return label->over(under, {float(0.3 * std::sin(turn)), 0.05f, float(0.3 * std::cos(turn))}, front);
  };
  EXPECT_EQ(at(-0.5), (Vec3f{1, 0, 0}));
  EXPECT_EQ(at(0.3), (Vec3f{0, 1, 0}));
  EXPECT_EQ(at(1), under);
  label->turn = float(pi / 2);  // to the right, which is +x
  EXPECT_EQ(at(pi / 2 - 0.5), (Vec3f{1, 0, 0}));
  EXPECT_EQ(at(0.3), under);
}

// IEC 61966-2-1: 188 of 255 is 0.503 of light; floats are light already.
TEST_F(Lights, PicturesComeInAsLight) {
  const auto eight = write_picture(folder / "grey.png", 8, 4, 3, [](int, int, int) { return 188 / 255.f; });
  const auto floats = write_picture(folder / "grey.exr", 8, 4, 3, [](int, int, int) { return 3.25f; });
  const auto large =
      write_picture(folder / "large.png", 9000, 30, 1, [](int x, int, int) { return x < 4500 ? 0.f : 1.f; });
  EXPECT_NEAR(unpack_picture(picture_file(eight).bytes, "")->at(3, 2)[1], 0.503, 0.003);
  EXPECT_NEAR(unpack_picture(picture_file(floats).bytes, "")->at(3, 2)[1], 3.25, 0.01);
  const auto small = unpack_picture(picture_file(large).bytes, "");
  EXPECT_EQ(small->width, 3000);
  EXPECT_EQ(small->at(100, 5)[0], 0);
  EXPECT_EQ(small->at(2900, 5)[2], 1);
}

TEST_F(Lights, BadPicturesAreToldOf) {
  write_whole(folder / "torn.png", "\x89PNG\r\n\x1a\n and then nothing");
  write_whole(folder / "text.exr", "no picture");
  write_picture(folder / "nan.exr", 4, 4, 3, [](int x, int, int) { return x == 2 ? NAN : 1.f; });
  const auto odd = unpack_picture(picture_file(folder / "nan.exr").bytes, "");
  EXPECT_EQ(odd->at(2, 1)[0], 0) << "what is no number is no light";
  EXPECT_EQ(odd->at(1, 1)[0], 1);
  EXPECT_EQ(odd->mended, 12u) << "counted, also once it is packed";
  {
    OIIO::ImageSpec depth(2, 2, 1, OIIO::TypeDesc::FLOAT);
    depth.channelnames = {"Z"};
    const auto out = OIIO::ImageOutput::create("depth.exr");
    const float values[4] = {1, 2, 3, 4};
    ASSERT_TRUE(out->open((folder / "depth.exr").string(), depth));
    ASSERT_TRUE(out->write_image(OIIO::TypeDesc::FLOAT, values) && out->close());
  }
  for (const char* name : {"torn.png", "text.exr", "depth.exr", "missing.png"}) {
    try {
      (void)read_picture(folder / name);
      ADD_FAILURE() << name;
    } catch (const Fault& f) {
      EXPECT_EQ(f.blame, Blame::shot) << name;
      EXPECT_THAT(f.what(), HasSubstr(name));
    }
  }
  make();
  const std::string before = read_whole(folder / "a.pour");
  const Result r = cli("set a.pour look.backdrop_picture=torn.png");
  EXPECT_EQ(r.code, 1) << r.out;
  EXPECT_EQ(read_whole(folder / "a.pour"), before);
}

TEST(Light, ShotsOfVersion2HaveTheirLightsInAList) {
  const std::string old = R"({"easy_pour": 2, "look": {"key_strength": 0.5, "key_color": [1, 0.5, 0.25],
    "rim_yaw": 2, "fill": 0.2, "key_size": 0.6, "floor": false,
    "tracks": {"key_yaw": {"keys": [{"frame": 1, "value": 0}, {"frame": 9, "value": 1}]}}}})";
  Shot s = shot_from_json(old, "old.pour");
  ASSERT_EQ(s.look.lights.size(), 3u);
  EXPECT_EQ(s.look.light("key").strength, 0.5);
  EXPECT_EQ(s.look.light("key").color, (Color{1, 0.5, 0.25}));
  EXPECT_EQ(s.look.light("key").width, 0.6);
  EXPECT_EQ(s.look.light("key").tracks.count("azimuth"), 1u);
  EXPECT_EQ(s.look.light("rim").strength, 1.2);
  EXPECT_EQ(s.look.light("rim").azimuth, 2);
  EXPECT_NEAR(s.look.light("room").strength, 0.1, 1e-12);
  EXPECT_FALSE(s.look.floor);
  EXPECT_EQ(s.camera.shutter, 0) << "its pictures were not blurred";
  EXPECT_EQ(shot_to_json(shot_from_json(shot_to_json(s), "new.pour")), shot_to_json(s));
  // What the usual lights of then were are the usual ones of now.
  s = shot_from_json(R"({"easy_pour": 2})", "old.pour");
  const Look usual_look;
  for (size_t i = 0; i < 3; ++i) {
    EXPECT_NEAR(s.look.lights[i].width, usual_look.lights[i].width, 0.01);
    EXPECT_NEAR(s.look.lights[i].height, usual_look.lights[i].height, 0.01);
    EXPECT_NEAR(s.look.lights[i].strength, usual_look.lights[i].strength, 1e-9);
  }
}

TEST(Light, ChecksSayWhatStaysDarkAndMendIt) {
  const auto find = [](const Shot& s, const std::string& title) {
    for (const Check& c : check_shot(s, "."))
      if (c.title == title) return c;
    return Check{};
  };
  const auto mends = [&](Shot s, const std::string& title) {
    const Check c = find(s, title);
    ASSERT_TRUE(c.fix) << title;
    c.fix(s);
    EXPECT_TRUE(find(s, title).title.empty()) << title << " after the fix";
  };
  const Shot good = recipes().front().make();
  Shot s = good;
  s.look.lights.clear();
  mends(s, "The shot is dark");
  s = good;
  for (Light& l : s.look.lights) l.shines_on.ids = {"word"};
  mends(s, "No light reaches Mint smoke");
  s = good, s.look.lights[0].shines_on.ids = {"word", "gone"};
  mends(s, "Key light shines on a missing piece");
  s = good, s.look.lights[2].room = RoomStyle::picture;
  mends(s, "Room has no picture");
  s = good, s.look.backdrop = Backdrop::transparent;
  mends(s, "Quick pictures are not transparent");
  s = good, s.look.backdrop = Backdrop::picture;
  mends(s, "The backdrop has no picture");
  s = good, s.look.lights[0].kind = LightKind::spot, s.look.lights[0].aim = s.look.lights[0].position;
  mends(s, "Key light is too close to its aim");
}

TEST(Light, OfARunAreThoseOfTheShotNow) {
  const Shot before = recipes().front().make();
  Shot after = before;
  (void)add_new_light(after, LightKind::spot, "Lamp");
  remove_item(after, "lights.rim");
  EXPECT_TRUE(same_simulation(before, after)) << "lights need no new run";
  EXPECT_EQ(seen_as(before, after).look.lights, after.look.lights);
  std::vector<std::string> said;
  for (const Change& c : changes(before, after)) said.push_back(c.text);
  EXPECT_THAT(said, testing::IsSupersetOf({"Lamp is new", "Rim light was removed"}));
}

TEST_F(Lights, FromTheCommandLine) {
  make();
  ASSERT_EQ(cli("lights a.pour product").code, 0);
  ASSERT_EQ(cli("add a.pour spot --name Lamp strength=50% aim='0, 10, 0' shines_on=word").code, 0);
  const std::string shown = cli("show a.pour").out;
  EXPECT_THAT(shown, HasSubstr("lights.lamp.strength = 50 %"));
  EXPECT_THAT(shown, HasSubstr("lights.lamp.shines_on = word"));
  EXPECT_THAT(shown, HasSubstr("lights.edge.azimuth = 130°"));
  EXPECT_THAT(cli("lights a.pour disco").out, HasSubstr("lettering"));
  ASSERT_EQ(cli("remove a.pour lights.lamp").code, 0);
  EXPECT_THAT(cli("show a.pour").out, testing::Not(HasSubstr("lights.lamp")));
}

// Distances to a box, by hand: to a side, an edge and a corner, outside and inside.
TEST(NearSurface, KnowTheNearestPlaceAndHowThickItIs) {
  Mesh box = box_mesh({0.2, 0.4, 0.6});
  box.place({{}, {1, 0, 0}, 1});
  const NearSurface near(box);
  const auto at = [&](const Vec3f& p) { return *near.nearest(p, 1); };
  EXPECT_NEAR(at({1.15f, 0.1f, 0.1f}).distance, 0.05, 1e-6);
  EXPECT_NEAR(at({1.15f, 0.1f, 0.1f}).out.x, 1, 1e-5);
  EXPECT_NEAR(at({1.13f, 0.24f, 0}).distance, 0.05, 1e-6);
  EXPECT_NEAR(at({1.13f, 0.24f, 0}).out.y, 0.8, 1e-4);
  EXPECT_NEAR(at({1.08f, 0.1f, 0.1f}).distance, -0.02, 1e-6);
  EXPECT_NEAR(at({1.08f, 0.1f, 0.1f}).out.x, 1, 1e-5);
  EXPECT_NEAR(near.thickness(at({1.15f, 0.1f, 0.1f})), 0.2, 1e-5);
  EXPECT_FALSE(near.nearest({2, 0, 0}, 0.5f));
  EXPECT_NEAR(near.thinnest(), 0.2, 1e-5);
  EXPECT_FALSE(NearSurface(Mesh()).nearest({}, 1));
}

TEST(NearSurface, LiquidGoesOnIntoWhatItLiesOnButNotThroughIt) {
  for (const double thick : {0.1, 0.006}) {
    Shot s;
    Piece plate;
    plate.id = "plate", plate.name = "Plate", plate.holds = false, plate.blocks = true;
    plate.shape = Block{{0.3, thick, 0.3}, 0}, plate.position = {0, -thick / 2, 0};
    Fluid tea;
    tea.id = "tea", tea.what = Liquid();
    s.pieces = {plate}, s.fluids = {tea};
    LiquidPoints p;
    p.cell_size = 0.004;
    for (double x = -0.03; x < 0.03; x += 0.002)
      for (double z = -0.03; z < 0.03; z += 0.002)
        for (double y = 0.001; y < 0.012; y += 0.002) p.place.push_back({float(x), float(y), float(z)});
    const size_t n = p.place.size();
    p.velocity.resize(n), p.color.assign(n, {0.3f, 0.1f, 0}), p.age.resize(n), p.liquid.resize(n),
        p.id.resize(n);
    const TracedSet set = traced_set(s, 1, p, {});
    ASSERT_EQ(set.bodies.size(), 2u);
    float lowest = 1;
    for (const Vec3f& q : set.bodies[1].surface->mesh.points) lowest = std::min(lowest, q.y);
    EXPECT_LT(lowest, -0.001f);
    EXPECT_GT(lowest, -float(thick));
  }
}
