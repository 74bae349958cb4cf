#include "trace/lights.h"

#include <cmath>
#include <numbers>

namespace pour {
namespace {

constexpr float soft = 0.16f;       // of a box's half width, where it fades
constexpr float studio_key = 2.2f;  // irradiance by π of the preview's key light at full strength

float brightness(const Vec3f& c) { return 0.2126f * c.x + 0.7152f * c.y + 0.0722f * c.z; }

float fading(float x) {  // 1 in the middle, 0 from 1 on
  const float t = std::clamp((1 - std::abs(x)) / soft, 0.f, 1.f);
  return t * t * (3 - 2 * t);
}

Vec3f rgb(const Color& c) { return {float(c.r), float(c.g), float(c.b)}; }

}  // namespace

SoftBox::SoftBox(const Vec3f& toward, float wide, float high, const Vec3f& irradiance)
    : basis_(toward), wide_(wide), high_(high), irradiance_(irradiance) {
  const Vec3f up{0, 1, 0}, side = cross(up, toward);
  if (length(side) > 1e-3f) basis_.x = normalized(side), basis_.y = cross(toward, basis_.x);
  // What a surface that faces it gets of a radiance of 1: ∫ cosine dω = ∫ dA / (1 + u² + v²)².
  constexpr int n = 64;
  double sum = 0;
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < n; ++j) {
      const float u = 2 * (float(i) + 0.5f) / n - 1, v = 2 * (float(j) + 0.5f) / n - 1;
      const double r2 = 1 + double(u * wide) * double(u * wide) + double(v * high) * double(v * high);
      sum += double(fading(u) * fading(v)) / (r2 * r2);
    }
  const float facing = float(sum * 4 * double(wide) * double(high) / (n * n));
  radiance_ = irradiance * (std::numbers::pi_v<float> / facing);
  power_ = brightness(irradiance);
}

Vec3f SoftBox::radiance(const Vec3f& d) const {
  const Vec3f l = basis_.into(d);
  if (l.z <= 1e-4f) return {};
  return radiance_ * (fading(l.x / (l.z * wide_)) * fading(l.y / (l.z * high_)));
}

float SoftBox::density(const Vec3f& d) const {
  const Vec3f l = basis_.into(d);
  if (l.z <= 1e-4f || std::abs(l.x) > l.z * wide_ || std::abs(l.y) > l.z * high_) return 0;
  return 1 / (4 * wide_ * high_ * l.z * l.z * l.z);
}

Vec3f SoftBox::sample(Pair u, float& density) const {
  const Vec3f d = normalized(Vec3f{(2 * u.x - 1) * wide_, (2 * u.y - 1) * high_, 1});
  density = 1 / (4 * wide_ * high_ * d.z * d.z * d.z);
  return basis_.from(d);
}

StudioLights::StudioLights(const Look& look, const Camera& camera, const View& view)
    : studio(look, camera, view) {
  const auto half = [](double angle) { return float(std::tan(angle / 2)); };
  const float key = half(look.key_size), rim = half(look.rim_size);
  if (look.key_strength > 0) boxes.emplace_back(studio.key, key, 0.75f * key, studio.key_color * studio_key);
  if (look.rim_strength > 0) boxes.emplace_back(studio.rim, 0.4f * rim, rim, studio.rim_color * studio_key);
  fill = rgb(look.key_color) * float(look.fill * look.key_strength) * studio_key;
  // The floor is as bright under these lights as the backdrop is.
  Vec3f light = fill;
  for (const SoftBox& b : boxes) light += b.irradiance() * std::max(0.f, b.toward().y);
  for (int c = 0; c < 3; ++c)
    floor_color[c] = std::min(
        0.85f, studio.back[c] * (studio::ground_low + studio::ground_high) / std::max(1e-4f, light[c]));
}

Vec3f StudioLights::sample(Sampler& random, float& density) const {
  const Pair u = random.two();
  float all = 0, pick = random.one();
  for (const SoftBox& b : boxes) all += b.power();
  for (const SoftBox& b : boxes) {
    pick -= b.power() / all;
    if (pick >= 0 && &b != &boxes.back()) continue;
    const Vec3f d = b.sample(u, density);
    density = this->density(d);
    return d;
  }
  density = 0;
  return {0, 1, 0};
}

float StudioLights::density(const Vec3f& d) const {
  float all = 0, sum = 0;
  for (const SoftBox& b : boxes) all += b.power(), sum += b.power() * b.density(d);
  return all > 0 ? sum / all : 0;
}

}  // namespace pour
