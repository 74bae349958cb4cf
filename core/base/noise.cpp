#include "base/noise.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "base/lattice.h"
#include "base/parallel.h"

namespace pour {
namespace {

template <class T>
T mix(T h) {
  h ^= h >> 16, h *= 0x7feb352du, h ^= h >> 15, h *= 0x846ca68bu, h ^= h >> 16;
  return h;
}

// Two perpendicular unit vectors for each of 64 lattice hashes; the gradient turns in their plane.
struct Planes {
  std::array<float, 64> u[3], v[3];
  Planes() {
    for (size_t i = 0; i < 64; ++i) {
      // Directions spread evenly on the sphere by the golden angle.
      const float z = 1 - (2 * float(i) + 1) / 64, r = std::sqrt(1 - z * z), a = 2.39996323f * float(i);
      const Vec3f first{r * std::cos(a), r * std::sin(a), z};
      const Vec3f helper = std::abs(z) < 0.9f ? Vec3f{0, 0, 1} : Vec3f{1, 0, 0};
      const Vec3f second = normalized(cross(first, helper));
      for (int k = 0; k < 3; ++k) u[k][i] = first[k], v[k][i] = second[k];
    }
  }
};

const Planes& planes() {
  static const Planes all;
  return all;
}

/// Gradients by the last seven bits of a hash, turned by an angle; half of them turn the other way.
struct Turned {
  float c, s;
  explicit Turned(float turn) : c(std::cos(turn)), s(std::sin(turn)) {}
  v8 operator()(int axis, v8i i) const {
    const v8 turned = choose((i & 64) != 0, splat(s), splat(-s));
    return gather(planes().u[axis].data(), i & 63) * c + gather(planes().v[axis].data(), i & 63) * turned;
  }
};

}  // namespace

/// The same as a table, for many places.
struct TurnedGradients {
  std::array<float, 128> along[3];
  explicit TurnedGradients(float turn) {
    const Turned turned(turn);
    for (int i = 0; i < 128; i += 8)
      for (int k = 0; k < 3; ++k) store(&along[k][size_t(i)], turned(k, v8i{0, 1, 2, 3, 4, 5, 6, 7} + i));
  }
  v8 operator()(int axis, v8i i) const { return gather(along[axis].data(), i); }
};

namespace {

typedef uint32_t v8u __attribute__((vector_size(32)));

struct Noise8 {
  v8 value;
  Vec3<v8> gradient;
};

/// `fields` noises that share their lattice, but no gradient.
template <int fields, class Gradients>
void flow(const Vec3<v8>& p, const Gradients& gradients, uint32_t seed, Noise8 (&out)[fields]) {
  const Vec3<v8> base{vfloor(p.x), vfloor(p.y), vfloor(p.z)}, f = p - base;
  const auto whole = [](v8 v) { return v8u(__builtin_convertvector(v, v8i)); };
  const v8u ix = whole(base.x), iy = whole(base.y), iz = whole(base.z);
  const auto fade = [](v8 t) { return t * t * t * (t * (t * 6.f - 15.f) + 10.f); };
  const auto slope = [](v8 t) { return 30.f * t * t * (t * (t - 2.f) + 1.f); };
  const Vec3<v8> w{fade(f.x), fade(f.y), fade(f.z)}, dw{slope(f.x), slope(f.y), slope(f.z)};
  for (Noise8& o : out) o = Noise8{splat(0), {splat(0), splat(0), splat(0)}};
  for (unsigned k = 0; k < 8; ++k) {
    const unsigned dx = k & 1, dy = k >> 1 & 1, dz = k >> 2;
    v8u h = mix((ix + dx) * 0x9e3779b1u ^ mix((iy + dy) * 0x85ebca77u ^ mix((iz + dz) ^ seed)));
    const Vec3<v8> d{f.x - float(dx), f.y - float(dy), f.z - float(dz)};
    const v8 wx = dx ? w.x : 1.f - w.x, wy = dy ? w.y : 1.f - w.y, wz = dz ? w.z : 1.f - w.z;
    const v8 weight = wx * wy * wz;
    const Vec3<v8> change{(dx ? dw.x : -dw.x) * wy * wz, wx * (dy ? dw.y : -dw.y) * wz,
                          wx * wy * (dz ? dw.z : -dw.z)};
    for (Noise8& o : out) {
      const v8i i = v8i(h & 127u);
      h >>= 7;
      Vec3<v8> g;
      for (int a = 0; a < 3; ++a) g[a] = gradients(a, i);
      const v8 v = g.x * d.x + g.y * d.y + g.z * d.z;
      o.value += weight * v;
      for (int a = 0; a < 3; ++a) o.gradient[a] += g[a] * weight + change[a] * v;
    }
  }
}

Vec3<v8> all(const Vec3f& p) { return {splat(p.x), splat(p.y), splat(p.z)}; }
Vec3f first(const Vec3<v8>& p) { return {p.x[0], p.y[0], p.z[0]}; }

Vec3<v8> turned(const Rotation& r, const Vec3<v8>& p, bool back) {
  Vec3<v8> out;
  for (int a = 0; a < 3; ++a) {
    const Vec3d w = back ? Vec3d{r.row[0][a], r.row[1][a], r.row[2][a]} : r.row[a];
    out[a] = p.x * float(w.x) + p.y * float(w.y) + p.z * float(w.z);
  }
  return out;
}

}  // namespace

NoiseSample flow_noise(const Vec3f& p, float turn, uint32_t seed) {
  Noise8 out[1];
  flow(all(p), Turned(turn), seed, out);
  return {out[0].value[0], first(out[0].gradient)};
}

CurlNoise::CurlNoise(float turn) {
  float size = 1;
  for (auto& turned : turned_) turned = std::make_shared<TurnedGradients>(turn * size), size *= octave_size;
}

Vec3f CurlNoise::operator()(const Vec3f& p) const { return first((*this)(all(p))); }

Vec3<v8> CurlNoise::operator()(const Vec3<v8>& p) const {
  // Each octave has its lattice turned another way, so that none of them shows its axes.
  static const Rotation lattice[octaves] = {Rotation::euler({0.61, 0.38, 0.83}),
                                            Rotation::euler({-0.47, 0.92, -0.29}),
                                            Rotation::euler({1.07, -0.71, 0.53})};
  Vec3<v8> total{};
  float size = 1, amplitude = 0.716f;  // measured: makes the root mean square speed 1
  for (uint32_t octave = 0; octave < octaves; ++octave) {
    const Rotation& r = lattice[octave];
    const Vec3<v8> q = turned(r, p, false);
    Noise8 potential[3];
    flow({q.x * size, q.y * size, q.z * size}, *turned_[octave], 11 + octave, potential);
    const auto& [a, b, c] = potential;
    const Vec3<v8> curl{c.gradient.y - b.gradient.z, a.gradient.z - c.gradient.x,
                        b.gradient.x - a.gradient.y};
    // The curl turns back with the lattice it was taken on.
    const Vec3<v8> back = turned(r, curl, true);
    for (int k = 0; k < 3; ++k) total[k] += back[k] * amplitude;
    size *= octave_size, amplitude *= 0.5f;
  }
  return total;
}

Vec3i NoiseNear::first(const Vec3f& low) {
  Vec3i out;
  for (int a = 0; a < 3; ++a) out[a] = int(std::floor(low[a] / spacing));
  return out;
}

Vec3i NoiseNear::count(const Vec3f& low, const Vec3f& high) {
  const Vec3i from = first(low);
  Vec3i out;
  for (int a = 0; a < 3; ++a) out[a] = int(std::floor(high[a] / spacing)) - from[a] + 2;
  return out;
}

bool NoiseNear::pays(const Vec3f& low, const Vec3f& high, double places) {
  double points = 1;
  for (int a = 0; a < 3; ++a) points *= double((high[a] - low[a]) / spacing) + 2;
  return points < places / 2;
}

NoiseNear::NoiseNear(const CurlNoise& noise, const Vec3f& low, const Vec3f& high)
    : first_(first(low)), count_(count(low, high)) {
  const int points = count_.x * count_.y * count_.z;
  for (auto& v : values_) v.resize(size_t(points));
  constexpr size_t chunk = 64;  // eights
  parallel_for(
      size_t(points + 7) / 8,
      [&](size_t eight) {
        const int from = 8 * int(eight);
        Vec3<v8> p{};
        for (int i = 0; i < 8; ++i) {
          const int k = std::min(from + i, points - 1);
          const Vec3i at{k % count_.x, k / count_.x % count_.y, k / (count_.x * count_.y)};
          for (int a = 0; a < 3; ++a) p[a][i] = float(first_[a] + at[a]) * spacing;
        }
        const Vec3<v8> v = noise(p);
        for (int k = from; k < std::min(from + 8, points); ++k)
          for (int a = 0; a < 3; ++a) values_[a][size_t(k)] = v[a][k - from];
      },
      chunk);
}

Vec3<v8> NoiseNear::operator()(const Vec3<v8>& p) const {
  v8i index{};
  Vec3<v8> share;
  for (int a = 2; a >= 0; --a) {
    const v8 q = p[a] / spacing - float(first_[a]);
    const v8 base = vmin(vmax(vfloor(q), splat(0)), splat(float(count_[a] - 2)));
    share[a] = q - base;
    index = index * count_[a] + __builtin_convertvector(base, v8i);
  }
  const int up[3] = {1, count_.x, count_.x * count_.y};
  Vec3<v8> out;
  for (int a = 0; a < 3; ++a) out[a] = between(values_[a], index, up, share).value;
  return out;
}

}  // namespace pour
