#include <gtest/gtest.h>

#include <cmath>

#include "base/noise.h"
#include "picture/camera.h"
#include "picture/coarser.h"
#include "picture/focus.h"
#include "picture/liquid_piece.h"
#include "picture/quick_picture.h"
#include "picture/walls.h"
#include "shape/mesh.h"

using namespace pour;

// Lambert-Beer: through a slab of optical depth τ comes exp(-τ) of the light.
TEST(Picture, TransmittanceOfASlab) {
  const Vec3i n{12, 12, 40};
  const std::vector<float> extinction(size_t(12 * 12 * 40), 25.f);
  const float h = 0.002f;
  const auto t = transmittance(extinction, n, h, {0, 0, 1});
  for (const int k : {0, 10, 30})  // cells between the middle of cell k and that of the first lit cell
    EXPECT_NEAR(t[size_t(k) * 144 + 6 * 12 + 6], std::exp(-25 * h * float(39 - k)), 1e-4);
}

TEST(Picture, ASlabDimsTheBackgroundAsItShould) {
  LitSmoke smoke;
  smoke.cell_size = 0.01f, smoke.count = {40, 40, 10}, smoke.low = {-0.2f, -0.2f, 0};
  smoke.rgba.assign(4 * 40 * 40 * 10, 0.f);
  for (size_t i = 3; i < smoke.rgba.size(); i += 4) smoke.rgba[i] = 8;  // 1/m over 0.1 m: τ = 0.8
  Look look;
  look.floor = false;
  Camera camera;
  camera.target = {0, 0, 0}, camera.distance = 1, camera.elevation = 0;
  const Image with = quick_picture({smoke}, {}, look, camera, 33, 33),
              without = quick_picture(LitFrame(), {}, look, camera, 33, 33);
  EXPECT_NEAR(with.at(16, 16).x / without.at(16, 16).x, std::exp(-0.8), 0.03);
}

// Lambert-Beer again, colour by colour: what is left of white behind one optical depth is the shade.
TEST(Picture, ShadeIsTheColourBehindOneOpticalDepth) {
  SmokeVolume v;
  v.cell_size = 0.01, v.low = {-20, -20, 0}, v.count = {40, 40, 10};
  v.density.assign(40 * 40 * 10, 0.01f), v.color.assign(3 * v.density.size(), 0);  // black: it only absorbs
  Look look;
  look.floor = false, look.halo = 0, look.thickness = 1000;  // τ = 1 in the colour that is dimmed least
  look.backdrop_color = {1, 1, 1}, look.shade = {1, 0.5, 0.25};
  Camera camera;
  camera.target = {0, 0, 0}, camera.distance = 1, camera.elevation = 0;
  const Vec3f with = quick_picture({light_smoke(v, look)}, {}, look, camera, 33, 33).at(16, 16),
              without = quick_picture(LitFrame(), {}, look, camera, 33, 33).at(16, 16);
  EXPECT_NEAR(with.x / without.x, std::exp(-1.0), 0.03);
  EXPECT_NEAR(with.y / with.x, 0.5, 0.02);
  EXPECT_NEAR(with.z / with.x, 0.25, 0.02);
}

// Fresnel at normal incidence, ((n - 1) / (n + 1))²: 4 % for glass of index 1.5.
TEST(Studio, GlassMirrorsFourPerCentOfWhatIsInFront) {
  Look look;
  look.glass = 1, look.light("key").color = {1, 1, 1}, look.light("key").strength = 1,
  look.light("key").azimuth = look.light("key").elevation = 0, look.light("rim").strength = 0,
  look.backdrop_color = {0, 0, 0};
  Camera camera;
  camera.azimuth = camera.elevation = 0;
  const Studio studio(look, camera, View(camera, 1));
  const Vec3f light = studio.glass_light({0, 0, 1}, {0, 0, 1});  // the key light is behind the camera
  EXPECT_NEAR(light.x / studio::box_light, std::pow((1.5 - 1) / (1.5 + 1), 2), 1e-6);
  const Vec3f slanting = studio.glass_light(normalized(Vec3f{1, 0, 0.6f}), {0, 0, 1});
  EXPECT_LT(slanting.x, light.x) << "it mirrors the dark side of the studio";
}

TEST(Layers, SamplesBetweenTwoTrianglesBelongToOne) {
  // A wall right across the picture, its diagonal through the middle of pixels: no hole, nothing twice.
  Camera camera;
  camera.target = {0, 0, 0}, camera.azimuth = camera.elevation = 0, camera.distance = 1;
  Look look;
  const View view(camera, 1);
  const Studio studio(look, camera, view);
  const std::vector<PicturePiece> solid{{box_mesh({4, 4, 0.02}), Finish::solid}};
  const Layers all = LayerPainter(solid, view, studio, 33, 33).paint(0, 33);
  for (const Layers::Pixel& p : all.pixels) EXPECT_EQ(p.cover, 1.f);
  EXPECT_NEAR(all.at(16, 16).depth, 0.99, 1e-5);
  const std::vector<PicturePiece> glass{{box_mesh({4, 4, 0.02}), Finish::glass}};
  const Layers clear = LayerPainter(glass, view, studio, 33, 33).paint(0, 33);
  for (int x = 1; x < 33; ++x)
    EXPECT_NEAR(clear.at(x, 32 - x).inner, clear.at(x - 1, 32 - x).inner, 0.1f * clear.at(x, 32 - x).inner);
}

// A model with faces that look inwards, or with a hole, shows its far side rather than what is behind it.
TEST(Layers, SolidsAreSeenFromBothSides) {
  const Mesh box = box_mesh({0.3, 0.3, 0.3});
  Mesh inwards = box;
  for (auto& t : inwards.triangles) std::swap(t[1], t[2]);
  Camera camera;
  camera.target = {}, camera.distance = 1;
  Look look;
  look.floor = false;
  const auto seen = [&](const Mesh& mesh) {
    return quick_picture(LitFrame(), {PicturePiece(mesh, Finish::solid)}, look, camera, 32, 18);
  };
  const Image out = seen(box), in = seen(inwards), none = quick_picture(LitFrame(), {}, look, camera, 32, 18);
  EXPECT_NE(out.at(16, 9), none.at(16, 9));
  EXPECT_LT(length(in.at(16, 9) - out.at(16, 9)), 1e-5f) << "the near side, lit as it faces the eye";
}

TEST(Layers, BandsAreTheWholePicture) {
  Camera camera;
  camera.target = {0, 0, 0};
  Look look;
  const View view(camera, 1.5);
  const Studio studio(look, camera, view);
  const std::vector<PicturePiece> pieces{{ball_mesh(0.2), Finish::glass},
                                         {box_mesh({0.1, 0.3, 0.1}), Finish::solid}};
  const LayerPainter painter(pieces, view, studio, 48, 32);
  const Layers all = painter.paint(0, 32), band = painter.paint(13, 6);
  double cover = 0;
  for (int y = 13; y < 19; ++y)
    for (int x = 0; x < 48; ++x) {
      EXPECT_EQ(band.at(x, y).glass, all.at(x, y).glass);
      EXPECT_EQ(band.at(x, y).solid, all.at(x, y).solid);
      cover += all.at(x, y).cover;
    }
  EXPECT_GT(cover, 10);
  // The box stands inside the ball: its front hides the far side of the glass.
  EXPECT_EQ(all.at(24, 16).inner, 0.f);
  EXPECT_GT(all.at(30, 16).inner, 0.f);
}

TEST(Meshes, CornerNormalsAreSmoothOnABallAndSharpOnABox) {
  const Mesh ball = ball_mesh(0.5);
  const auto round = corner_normals(ball, 0.65f);
  for (size_t i = 0; i < round.size(); ++i)
    for (size_t k = 0; k < 3; ++k)
      EXPECT_GT(dot(round[i][k], normalized(ball.points[size_t(ball.triangles[i][k])])), 0.999f);
  for (const auto& t : corner_normals(box_mesh({1, 2, 3}), 0.65f))
    for (const Vec3f& n : t) EXPECT_EQ(std::abs(n.x) + std::abs(n.y) + std::abs(n.z), 1.f);
}

// IEC 61966-2-1: linear 0.2140 is code 127 or 128 of 255, and 0.0031308 is where the line ends at 0.04045.
TEST(Picture, DisplayCurveIsSrgb) {
  Image flat{64, 64, std::vector<float>(64 * 64 * 3, 0.21404f)};
  double mean = 0;
  for (const uint8_t b : display_bytes(flat)) mean += b;
  EXPECT_NEAR(mean / (64 * 64 * 3), 127.5, 0.1) << "the dither keeps the mean";
}

TEST(Picture, CameraPutsItsTargetInTheMiddle) {
  Camera c;
  c.target = {0.3, 0.2, -0.1}, c.azimuth = 0.7, c.elevation = 0.3;
  const View v(c, 16.0 / 9);
  const Vec3f p = v.project(to<float>(c.target));
  EXPECT_NEAR(p.x, 0, 1e-5);
  EXPECT_NEAR(p.y, 0, 1e-5);
  EXPECT_NEAR(p.z, c.distance, 1e-5);
  // A 50 mm lens on a frame 36 mm wide sees 39.6 degrees across (2 atan(18/50)).
  EXPECT_NEAR(2 * std::atan(v.half_width) * 180 / M_PI, 39.6, 0.05);
}

TEST(Picture, SamePictureEveryTime) {
  LitSmoke smoke;
  smoke.cell_size = 0.02f, smoke.count = {8, 8, 8}, smoke.low = {-0.08f, 0.02f, -0.08f};
  smoke.rgba.assign(4 * 512, 0.7f);
  const PicturePiece piece{box_mesh({0.1, 0.1, 0.1}), Finish::glass};
  const Image a = quick_picture({smoke}, {piece}, {}, {}, 64, 36),
              b = quick_picture({smoke}, {piece}, {}, {}, 64, 36);
  EXPECT_EQ(a.rgb, b.rgb);
  EXPECT_TRUE(quick_picture({smoke}, {piece}, {}, {}, 64, 36, [] { return false; }).rgb.empty()) << "stopped";
}

// The curl of a potential has no divergence (Bridson et al. 2007); checked by central differences.
TEST(Noise, CurlNoiseIsFreeOfDivergenceAndOfUnitSpeed) {
  double square = 0;
  const CurlNoise curl_noise(1);
  const float e = 4e-3f;
  for (int i = 0; i < 400; ++i) {
    const Vec3f p{0.37f * float(i), 0.11f * float(i % 37), 0.23f * float(i % 53)};
    const float d = (curl_noise(p + Vec3f{e, 0, 0}).x - curl_noise(p - Vec3f{e, 0, 0}).x +
                     curl_noise(p + Vec3f{0, e, 0}).y - curl_noise(p - Vec3f{0, e, 0}).y +
                     curl_noise(p + Vec3f{0, 0, e}).z - curl_noise(p - Vec3f{0, 0, e}).z) /
                    (2 * e);
    EXPECT_NEAR(d, 0, 0.05);
    const Vec3f v = curl_noise(p);
    square += dot(v, v);
  }
  EXPECT_NEAR(std::sqrt(square / 400), 1, 0.15);
}

namespace {

/// A ball of even smoke in the middle of a dense box.
SmokeVolume smoke_ball(int n, double h, float density, const Vec3i& low = {}) {
  SmokeVolume v;
  v.cell_size = h, v.low = low, v.count = {n, n, n};
  v.density.assign(size_t(n) * size_t(n) * size_t(n), 0), v.color.assign(3 * v.density.size(), 1);
  for (int z = 0; z < n; ++z)
    for (int y = 0; y < n; ++y)
      for (int x = 0; x < n; ++x)
        if (length(Vec3f{float(x), float(y), float(z)} - Vec3f{1, 1, 1} * (0.5f * float(n - 1))) <
            0.4f * float(n))
          v.density[size_t((z * n + y) * n + x)] = density;
  return v;
}

Image even(int width, int height, float value) {
  return {width, height, std::vector<float>(size_t(3 * width * height), value)};
}

double total(const Image& image) {
  double sum = 0;
  for (const float v : image.rgb) sum += v;
  return sum;
}

Camera close_up() {
  Camera c;
  c.target = {0, 0, 0}, c.distance = 0.6, c.elevation = 0;
  return c;
}

}  // namespace

TEST(Halo, OnlySpreadsLight) {
  Image dot = even(320, 180, 0);
  for (int c = 0; c < 3; ++c) dot.rgb[3 * (90 * 320 + 160) + size_t(c)] = 300;
  const double before = total(dot);
  add_halo(dot, 0.2f);
  EXPECT_NEAR(total(dot), before, 0.002 * before) << "nothing is lost in the middle of the picture";
  EXPECT_NEAR(dot.at(160, 90).x, 240, 3) << "and four fifths stay";
  EXPECT_GT(dot.at(170, 90).x, 0);
  EXPECT_NEAR(dot.at(150, 90).x, dot.at(170, 90).x, 0.1 * dot.at(170, 90).x) << "to both sides alike";
  EXPECT_NEAR(dot.at(160, 80).x, dot.at(170, 90).x, 0.1 * dot.at(170, 90).x) << "and as far upwards";
  Image flat = even(64, 36, 0.3f);
  add_halo(flat, 0.5f);
  for (const float v : flat.rgb) EXPECT_NEAR(v, 0.3f, 1e-5f);
  Image same = even(8, 8, 0.3f);
  add_halo(same, 0);
  EXPECT_EQ(same.rgb, even(8, 8, 0.3f).rgb);
}

TEST(Halo, IsAsWideAtAnySize) {
  const auto share = [](int scale) {  // of the light at a tenth of the width away, against the total
    Image dot = even(64 * scale, 36 * scale, 0);
    for (int y = 18 * scale - scale; y < 18 * scale + scale; ++y)
      for (int x = 32 * scale - scale; x < 32 * scale + scale; ++x)
        for (int c = 0; c < 3; ++c) dot.rgb[3 * size_t(y * 64 * scale + x) + size_t(c)] = 50;
    const double sum = total(dot) / (scale * scale);
    add_halo(dot, 1);
    return dot.at(36 * scale, 18 * scale).x / sum;
  };
  EXPECT_NEAR(share(10), share(20), 0.1 * share(10));
}

TEST(Walls, SmokeEndsExactlyAtTheWallThatHoldsIt) {
  Shot shot;
  Piece ball;
  ball.id = "b", ball.shape = Ball{0.05}, ball.position = {}, ball.holds = true;
  shot.pieces = {ball};
  const double h = 0.005;
  const SmokeWalls walls(shot, h);
  // Smoke in every cell whose middle is inside, as the solver leaves it.
  SmokeVolume v;
  v.cell_size = h, v.low = {-12, -12, -12}, v.count = {24, 24, 24};
  v.density.assign(24 * 24 * 24, 0), v.color.assign(3 * v.density.size(), 0.5f);
  for (int i = 0; i < 24 * 24 * 24; ++i) {
    const Vec3d p = (to<double>(Vec3i{i % 24, i / 24 % 24, i / 576} + v.low) + Vec3d{0.5, 0.5, 0.5}) * h;
    if (length(p) < 0.05) v.density[size_t(i)] = 0.01f;
  }
  v.warmth.assign(v.density.size(), 30), v.velocity.assign(v.density.size(), {1, 2, 3});
  const auto sealed = walls.seal(v);
  ASSERT_TRUE(sealed.mask);
  for (const Vec3f& d : {Vec3f{1, 0, 0}, Vec3f{0, -0.6f, 0.8f}, Vec3f{0.48f, 0.6f, 0.64f}}) {
    EXPECT_EQ(sealed.mask->inside(d * 0.045f), 1.f);
    EXPECT_EQ(sealed.mask->inside(d * 0.055f), 0.f);
    EXPECT_NEAR(sealed.mask->inside(d * 0.05f), 0.5f, 0.25f);
  }
  // Density goes on behind the wall, so that it does not fade in front of it.
  const SmokeVolume& s = sealed.smoke;
  const auto at = [&](const Vec3f& p) {
    const Vec3i c = to<int>(p * float(1 / h) + Vec3f{100, 100, 100}) - Vec3i{100, 100, 100} - s.low;
    return size_t((c.z * s.count.y + c.y) * s.count.x + c.x);
  };
  for (int i = 0; i < 60; ++i) {
    const float a = 0.105f * float(i);
    const size_t cell = at(Vec3f{std::cos(a), std::sin(a), 0} * 0.0501f);
    EXPECT_FLOAT_EQ(s.density[cell], 0.01f) << i;
    EXPECT_FLOAT_EQ(s.warmth[cell], 30);
    EXPECT_FLOAT_EQ(s.velocity[cell].y, 2);
  }
}

TEST(Walls, SmokeThatFlowsOutsideIsNotCutOff) {
  Shot shot;
  Piece ball;
  ball.id = "b", ball.shape = Ball{0.02}, ball.position = {}, ball.holds = true;
  shot.pieces = {ball};
  const SmokeWalls walls(shot, 0.01);
  const auto sealed = walls.seal(smoke_ball(20, 0.01, 0.01f, {-10, -10, -10}));
  EXPECT_FALSE(sealed.mask);
  EXPECT_FALSE(SmokeWalls().seal(smoke_ball(8, 0.01, 0.01f)).mask);
}

TEST(LitSmoke, IsBrighterTowardsTheLight) {
  Look look;
  look.light("rim").strength = 0, look.light("key").azimuth = 0,
  look.light("key").elevation = M_PI / 2;  // from straight above
  look.thickness = 2000;
  const LitSmoke lit = light_smoke(smoke_ball(24, 0.01, 0.01f), look);
  const auto red = [&](int y) { return lit.rgba[4 * size_t((12 * 24 + y) * 24 + 12)]; };
  EXPECT_GT(red(20), 1.3f * red(12));
  EXPECT_GT(red(12), red(4));
  for (const float v : lit.rgba) EXPECT_GE(v, 0.f);
}

TEST(LitSmoke, DependsOnItsLightingAlone) {
  const SmokeVolume v = smoke_ball(12, 0.01, 0.01f);
  Look a, b;
  b.backdrop_color = {1, 0, 0}, b.exposure = 3, b.glass = 0, b.halo = 0.4, b.floor = false;
  EXPECT_EQ(lighting_of(a), lighting_of(b));
  EXPECT_EQ(light_smoke(v, a).rgba, light_smoke(v, b).rgba);
  for (const auto& change : {+[](Look& l) {
                               l.shade = {1, 0.5, 0.5};
                             },
                             +[](Look& l) { l.glow = 2; }, +[](Look& l) { l.light("key").azimuth += 1; },
                             +[](Look& l) {
                               l.light("rim").color = {1, 0, 0};
                             }}) {
    Look c = a;
    change(c);
    EXPECT_FALSE(lighting_of(c) == lighting_of(a));
    EXPECT_NE(light_smoke(v, c).rgba, light_smoke(v, a).rgba);
  }
}

TEST(LitSmoke, TakesItsColourFromSmokeAndLight) {
  SmokeVolume v = smoke_ball(16, 0.01, 0.001f);
  for (size_t i = 0; i < v.density.size(); ++i) v.color[3 * i + 1] = 0.5f, v.color[3 * i + 2] = 0;
  Look look;
  look.light("key").color = {1, 1, 1}, look.light("rim").strength = 0, look.thickness = 100, look.glow = 0;
  const LitSmoke lit = light_smoke(v, look);
  const float* c = &lit.rgba[4 * size_t((8 * 16 + 8) * 16 + 8)];
  EXPECT_GT(c[0], 0);
  EXPECT_NEAR(c[1] / c[0], 0.5, 0.03);
  EXPECT_EQ(c[2], 0.f);
  EXPECT_FLOAT_EQ(c[3], 0.1f) << "extinction is thickness times density";
  look.glow = 1;
  const LitSmoke deep = light_smoke(v, look);
  const float* d = &deep.rgba[4 * size_t((8 * 16 + 8) * 16 + 8)];
  EXPECT_LT(d[1] / d[0], 0.45) << "light that is scattered twice takes the colour twice";
  look.light("key").strength = 2;
  EXPECT_GT(light_smoke(v, look).rgba[4 * size_t((8 * 16 + 8) * 16 + 8)], 1.5f * c[0]);
}

TEST(Picture, ExposureIsInStops) {
  Look look;
  look.floor = false, look.halo = 0;
  const Image one = quick_picture({}, {}, look, close_up(), 32, 18);
  look.exposure = 1;
  const Image two = quick_picture({}, {}, look, close_up(), 32, 18);
  for (size_t i = 0; i < one.rgb.size(); ++i) EXPECT_NEAR(two.rgb[i], 2 * one.rgb[i], 1e-5);
}

TEST(Picture, SolidPiecesHideWhatIsBehindThem) {
  Look look;
  look.floor = false, look.halo = 0;
  SmokeVolume v = smoke_ball(20, 0.01, 0.02f, {-10, -10, -40});  // 30 cm behind the middle
  const LitSmoke lit = light_smoke(v, look);
  const PicturePiece wall{box_mesh({0.6, 0.6, 0.02}), Finish::solid};
  const Image hidden = quick_picture({lit}, {wall}, look, close_up(), 33, 33),
              without = quick_picture({}, {wall}, look, close_up(), 33, 33),
              seen = quick_picture({lit}, {}, look, close_up(), 33, 33);
  EXPECT_EQ(hidden.at(16, 16), without.at(16, 16));
  EXPECT_GT(seen.at(16, 16).x, 2 * quick_picture({}, {}, look, close_up(), 33, 33).at(16, 16).x);
}

TEST(Picture, GlassIsSeenThroughAndCanBeTurnedOff) {
  Look look;
  look.floor = false, look.halo = 0, look.glass = 0;
  const PicturePiece vessel{ball_mesh(0.08), Finish::glass};
  EXPECT_EQ(quick_picture({}, {vessel}, look, close_up(), 33, 33).rgb,
            quick_picture({}, {}, look, close_up(), 33, 33).rgb);
  look.glass = 1;
  EXPECT_GT(total(quick_picture({}, {vessel}, look, close_up(), 33, 33)),
            total(quick_picture({}, {}, look, close_up(), 33, 33)));
}

TEST(Picture, TheFloorMirrorsTheSmoke) {
  Look look;
  look.halo = 0;
  Camera c;
  c.target = {0, 0.1, 0}, c.distance = 1, c.elevation = 0.2;
  const LitSmoke lit = light_smoke(smoke_ball(16, 0.01, 0.02f, {-8, 2, -8}), look);
  const Image with = quick_picture({lit}, {}, look, c, 64, 36),
              without = quick_picture({}, {}, look, c, 64, 36);
  double below = 0;
  for (int x = 24; x < 40; ++x)
    for (int y = 24; y < 34; ++y) below += with.at(x, y).x - without.at(x, y).x;
  EXPECT_GT(below, 0.01);
}

TEST(Picture, TheFloorBlursMoreTheHigherThingsStand) {
  Look look;
  look.halo = 0;
  Camera c;
  c.target = {0, 0.2, 0}, c.distance = 1, c.elevation = 0.1;
  const Studio studio(look, c, View(c, 1));
  const Vec3f eye = View(c, 1).eye;
  const auto at = [&](float z) {  // a point of the floor in front of the set
    const Vec3f hit{0, 0, z}, d = normalized(hit - eye);
    return studio.mirror(eye, hit, {d.x, -d.y, d.z});
  };
  EXPECT_EQ(at(0).spread, 0.f) << "sharp where things touch the floor";
  EXPECT_GT(at(0.4f).spread, 2 * at(0.15f).spread);
  EXPECT_LT(at(0.4f).part, at(0.15f).part);
  EXPECT_NEAR(at(0.4f).away,
              length(eye - Vec3f{0, 0, 0.4f}) + 0.4f / normalized(Vec3f{0, 0, 0.4f} - eye).z * -1, 1e-3);
}

TEST(Picture, AMirroredViewSeesTheMirrorImage) {
  Camera c;
  c.target = {0.1, 0.2, 0}, c.azimuth = 0.6, c.elevation = 0.3;
  const View v(c, 1.5), m = v.mirrored();
  const Vec3f p{0.2f, 0.3f, -0.1f}, image{p.x, -p.y, p.z};
  const Vec3f a = m.project(p), b = v.project(image);
  for (int k = 0; k < 3; ++k) EXPECT_NEAR(a[k], b[k], 1e-6);
}

TEST(Picture, CameraStandsWhereYawAndPitchSay) {
  Camera c;
  c.target = {0, 0, 0}, c.distance = 2, c.azimuth = 0, c.elevation = 0;
  EXPECT_NEAR(View(c, 1).eye.z, 2, 1e-6) << "in front";
  c.azimuth = M_PI / 2;
  EXPECT_NEAR(View(c, 1).eye.x, 2, 1e-6) << "to the right";
  c.azimuth = 0, c.elevation = M_PI / 2 - 0.01;
  EXPECT_NEAR(View(c, 1).eye.y, 2, 1e-3) << "above";
  const View v(c, 1);
  EXPECT_NEAR(dot(v.right, v.up), 0, 1e-6);
  EXPECT_NEAR(dot(v.right, v.forward), 0, 1e-6);
  EXPECT_NEAR(length(v.up), 1, 1e-6);
  for (const float x : {-0.7f, 0.f, 0.4f}) {
    const Vec3f p = v.project(v.eye + v.ray(x, 0.3f) * 1.7f);
    EXPECT_NEAR(p.x, x, 1e-5);
    EXPECT_NEAR(p.y, 0.3, 1e-5);
  }
}

TEST(Coarser, KeepsShapeAndColoursWithFewerTriangles) {
  Mesh ball = ball_mesh(0.05, 6);
  std::vector<Vec3f> colors;
  for (const Vec3f& p : ball.points) colors.push_back(p.y > 0 ? Vec3f{1, 0, 0} : Vec3f{0, 0, 1});
  const auto fine = std::make_shared<const Surface>(ball, colors);
  const auto few = coarser(fine, 2000);
  EXPECT_LT(few->mesh.triangles.size(), 2600u);
  EXPECT_NEAR(few->mesh.volume() / ball.volume(), 1, 0.03);
  ASSERT_EQ(few->colors.size(), few->mesh.points.size());
  for (size_t i = 0; i < few->colors.size(); ++i)
    EXPECT_EQ(few->colors[i], (few->mesh.points[i].y > 0 ? Vec3f{1, 0, 0} : Vec3f{0, 0, 1}));
  EXPECT_EQ(coarser(fine, 1000000), fine);
}

TEST(Noise, EightPointsAtATimeAreEightPoints) {
  const CurlNoise curl_noise(0.7f);
  Vec3<v8> p{};
  for (int i = 0; i < 8; ++i)
    p.x[i] = 0.37f * float(i) - 1, p.y[i] = 0.9f - 0.21f * float(i), p.z[i] = 2.5f * float(i % 3);
  const Vec3<v8> all = curl_noise(p);
  for (int i = 0; i < 8; ++i) {
    const Vec3f one = curl_noise(Vec3f{p.x[i], p.y[i], p.z[i]});
    EXPECT_EQ(all.x[i], one.x);
    EXPECT_EQ(all.y[i], one.y);
    EXPECT_EQ(all.z[i], one.z);
  }
}

TEST(Noise, IsSmoothAndHasZeroMean) {
  double mean = 0;
  float step = 0;
  for (int i = 0; i < 5000; ++i) {
    const Vec3f p{0.173f * float(i % 97), 0.311f * float(i % 61), 0.07f * float(i)};
    const NoiseSample a = flow_noise(p, 0.4f, 5), b = flow_noise(p + Vec3f{1e-3f, 0, 0}, 0.4f, 5);
    mean += a.value;
    step = std::max(step, std::abs((b.value - a.value) / 1e-3f - a.gradient.x));
    EXPECT_LT(std::abs(a.value), 1.2f);
  }
  EXPECT_NEAR(mean / 5000, 0, 0.02);
  EXPECT_LT(step, 0.05) << "the gradient is the slope";
  EXPECT_NE(flow_noise({0.3f, 0.2f, 0.1f}, 0, 1).value, flow_noise({0.3f, 0.2f, 0.1f}, 0, 2).value);
}

// Colours that stand for something are those of the legend where one looks straight at them.
TEST(Picture, LiquidInColoursHasThoseOfTheLegend) {
  LiquidPoints liquid;
  liquid.cell_size = 0.02;
  for (int i = 0; i < 4000; ++i) {
    liquid.place.push_back(
        {0.01f * float(i % 20) - 0.1f, 0.01f * float(i / 20 % 20) + 0.04f, 0.01f * float(i / 400)});
    liquid.velocity.push_back({i ? 1.5f : 3.f, 0, 0}), liquid.color.push_back({1, 1, 1}),
        liquid.age.push_back(0);
  }
  const std::vector<float> values = values_of(liquid, Quantity::speed);
  const double most = most_of(values);
  EXPECT_EQ(most, 3);
  std::vector<PicturePiece> pieces;
  EXPECT_EQ(add_liquid_piece(pieces, liquid, {}, {Quantity::speed}, values, most), 1);
  Look look = plain_look({});
  look.exposure = 0;
  const Image image = quick_picture({}, pieces, look, Camera(), 65, 65);
  const Vec3f seen = image.at(32, 32);
  const Color half = ramp(0.5);
  EXPECT_NEAR(seen.x, half.r, 0.05);
  EXPECT_NEAR(seen.y, half.g, 0.05);
  EXPECT_NEAR(seen.z, half.b, 0.05);
}

TEST(Picture, LiquidIsDrawnAsPointsOrAsEveryNthOfThem) {
  LiquidPoints liquid;
  liquid.cell_size = 0.01;
  const auto points = [&](size_t n) {
    liquid.place.assign(n, {}), liquid.color.assign(n, {1, 0, 0});
    std::vector<PicturePiece> pieces;
    const int every = add_liquid_piece(pieces, liquid, {}, {Quantity::none, small_points}, {}, 0);
    return std::pair(every, pieces.at(0).surface->mesh.triangles.size() / 4);
  };
  EXPECT_EQ(points(100), std::pair(1, size_t(100)));
  EXPECT_EQ(points(400000), std::pair(3, size_t(133334)));
}

TEST(Picture, TheDistanceOfWhatIsSeenIsThatAlongTheAxis) {
  Camera c;
  c.target = {0, 0, 0}, c.distance = 2, c.azimuth = 0, c.elevation = 0;
  const View view(c, 1);
  std::vector<PicturePiece> pieces;
  pieces.emplace_back(std::make_shared<const Surface>(ball_mesh(0.5, 5)), Pose({}, {0, 0, -1}), Finish::solid,
                      "far");
  pieces.emplace_back(std::make_shared<const Surface>(box_mesh({0.2, 2, 0.1})), Pose({}, {0.3, 0, 0}),
                      Finish::glass, "glass");
  EXPECT_NEAR(seen_at(pieces, view, 0, 0)->distance, 2.5, 1e-3);
  // The front of the glass is a plane: the same distance wherever it is seen.
  const float x = float(0.3 / 1.95) / view.half_width;
  EXPECT_NEAR(seen_at(pieces, view, x, 0)->distance, 1.95, 1e-4);
  EXPECT_NEAR(seen_at(pieces, view, x, 0.5f)->distance, 1.95, 1e-4);
  EXPECT_FALSE(seen_at(pieces, view, 0, 0.95f));
}
