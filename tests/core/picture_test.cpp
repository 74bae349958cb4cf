#include <gtest/gtest.h>

#include <cmath>

#include "base/noise.h"
#include "picture/camera.h"
#include "picture/quick_picture.h"

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
  camera.target = {0, 0, 0}, camera.distance = 1, camera.pitch = 0;
  const Image with = quick_picture(smoke, {}, look, camera, 33, 33),
              without = quick_picture({}, {}, look, camera, 33, 33);
  EXPECT_NEAR(with.at(16, 16).x / without.at(16, 16).x, std::exp(-0.8), 0.03);
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
  c.target = {0.3, 0.2, -0.1}, c.yaw = 0.7, c.pitch = 0.3;
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
  const PicturePiece piece{box_mesh({0.1, 0.1, 0.1}), true};
  const Image a = quick_picture(smoke, {piece}, {}, {}, 64, 36),
              b = quick_picture(smoke, {piece}, {}, {}, 64, 36);
  EXPECT_EQ(a.rgb, b.rgb);
  EXPECT_TRUE(quick_picture(smoke, {piece}, {}, {}, 64, 36, [] { return false; }).rgb.empty()) << "stopped";
}

// The curl of a potential has no divergence (Bridson et al. 2007); checked by central differences.
TEST(Noise, CurlNoiseIsFreeOfDivergenceAndOfUnitSpeed) {
  double square = 0;
  const CurlNoise curl_noise(1);
  const float e = 2e-2f;
  for (int i = 0; i < 400; ++i) {
    const Vec3f p{0.37f * float(i), 0.11f * float(i % 37), 0.23f * float(i % 53)};
    const float d = (curl_noise(p + Vec3f{e, 0, 0}).x - curl_noise(p - Vec3f{e, 0, 0}).x +
                     curl_noise(p + Vec3f{0, e, 0}).y - curl_noise(p - Vec3f{0, e, 0}).y +
                     curl_noise(p + Vec3f{0, 0, e}).z - curl_noise(p - Vec3f{0, 0, e}).z) /
                    (2 * e);
    EXPECT_NEAR(d, 0, 0.15);
    const Vec3f v = curl_noise(p);
    square += dot(v, v);
  }
  EXPECT_NEAR(std::sqrt(square / 400), 1, 0.15);
}
