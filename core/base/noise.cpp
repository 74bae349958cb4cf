#include "base/noise.h"

#include <array>
#include <cmath>

namespace pour {
namespace {

uint32_t mix(uint32_t h) {
  h ^= h >> 16, h *= 0x7feb352du, h ^= h >> 15, h *= 0x846ca68bu, h ^= h >> 16;
  return h;
}

// Two perpendicular unit vectors for each of 64 lattice hashes; the gradient turns in their plane.
struct Planes {
  std::array<Vec3f, 64> u, v;
  Planes() {
    for (uint32_t i = 0; i < 64; ++i) {
      // Directions spread evenly on the sphere by the golden angle.
      const float z = 1 - (2 * float(i) + 1) / 64, r = std::sqrt(1 - z * z), a = 2.39996323f * float(i);
      u[i] = {r * std::cos(a), r * std::sin(a), z};
      const Vec3f helper = std::abs(z) < 0.9f ? Vec3f{0, 0, 1} : Vec3f{1, 0, 0};
      v[i] = normalized(cross(u[i], helper));
    }
  }
};

/// `fields` noises that share their lattice, but no gradient. c and s are cosine and sine of the turn.
template <int fields>
void flow(const Vec3f& p, float c, float s, uint32_t seed, NoiseSample (&out)[fields]) {
  static const Planes planes;
  const Vec3f base{std::floor(p.x), std::floor(p.y), std::floor(p.z)};
  const Vec3f f = p - base;
  const int ix = int(base.x), iy = int(base.y), iz = int(base.z);
  const auto fade = [](float t) { return t * t * t * (t * (t * 6 - 15) + 10); };
  const auto slope = [](float t) { return 30 * t * t * (t * (t - 2) + 1); };
  const Vec3f w{fade(f.x), fade(f.y), fade(f.z)}, dw{slope(f.x), slope(f.y), slope(f.z)};
  for (NoiseSample& o : out) o = {0, {0, 0, 0}};
  for (int k = 0; k < 8; ++k) {
    const int dx = k & 1, dy = k >> 1 & 1, dz = k >> 2;
    uint32_t h = mix(uint32_t(ix + dx) * 0x9e3779b1u ^
                     mix(uint32_t(iy + dy) * 0x85ebca77u ^ mix(uint32_t(iz + dz) ^ seed)));
    const Vec3f d{f.x - float(dx), f.y - float(dy), f.z - float(dz)};
    const float wx = dx ? w.x : 1 - w.x, wy = dy ? w.y : 1 - w.y, wz = dz ? w.z : 1 - w.z;
    const float weight = wx * wy * wz;
    const Vec3f change{(dx ? dw.x : -dw.x) * wy * wz, wx * (dy ? dw.y : -dw.y) * wz,
                       wx * wy * (dz ? dw.z : -dw.z)};
    for (NoiseSample& o : out) {
      const uint32_t i = h & 63;
      const float sign = h & 64 ? 1.f : -1.f;  // half of them turn the other way
      h >>= 7;
      const Vec3f g = planes.u[i] * c + planes.v[i] * (s * sign);
      const float v = dot(g, d);
      o.value += weight * v;
      o.gradient += g * weight + change * v;
    }
  }
}

}  // namespace

NoiseSample flow_noise(const Vec3f& p, float turn, uint32_t seed) {
  NoiseSample out[1];
  flow(p, std::cos(turn), std::sin(turn), seed, out);
  return out[0];
}

CurlNoise::CurlNoise(float turn) {
  float size = 1;
  for (auto& [c, s] : turn_) c = std::cos(turn * size), s = std::sin(turn * size), size *= octave_size;
}

Vec3f CurlNoise::operator()(const Vec3f& p) const {
  // Each octave has its lattice turned another way, so that none of them shows its axes.
  static const Rotation turned[octaves] = {Rotation::euler({0.61, 0.38, 0.83}),
                                           Rotation::euler({-0.47, 0.92, -0.29}),
                                           Rotation::euler({1.07, -0.71, 0.53})};
  Vec3d total{};
  float size = 1, amplitude = 1;
  for (uint32_t octave = 0; octave < octaves; ++octave) {
    const Rotation& r = turned[octave];
    NoiseSample potential[3];
    flow(to<float>(r * to<double>(p)) * size, turn_[octave].first, turn_[octave].second, 11 + octave,
         potential);
    const auto& [a, b, c] = potential;
    // The curl turns back with the lattice it was taken on.
    total += r.inverse(to<double>(
        Vec3f{c.gradient.y - b.gradient.z, a.gradient.z - c.gradient.x, b.gradient.x - a.gradient.y} *
        amplitude));
    size *= octave_size, amplitude *= 0.5f;
  }
  return to<float>(total) * 0.716f;  // measured: makes the root mean square speed 1
}

}  // namespace pour
