#include "trace/smoke_volume.h"

#include <cmath>

#include "base/parallel.h"

namespace pour {
namespace {

float single(float color) {
  const float a = std::clamp(color, 0.f, 0.98f);
  return 1 - std::exp(-5.09406f * a + 2.61188f * a * a - 4.31805f * a * a * a);
}

}  // namespace

Vec3f single_albedo(const Vec3f& color) { return {single(color.x), single(color.y), single(color.z)}; }

TracedSmoke::TracedSmoke(SmokeWalls::Sealed sealed, float thickness, const Vec3f& tint)
    : pose_(sealed.smoke.pose),
      cell_(float(sealed.smoke.cell_size)),
      count_(sealed.smoke.count),
      walls_(sealed.mask) {
  const SmokeVolume& s = sealed.smoke;
  low_ = to<float>(s.low) * cell_;
  const size_t n = s.density.size();
  if (!n || thickness <= 0) return;
  extinction_.resize(n), albedo_.resize(n);
  parallel_for(n / 256 + 1, [&](size_t chunk) {
    for (size_t i = chunk * 256; i < std::min(n, (chunk + 1) * 256); ++i) {
      extinction_[i] = std::isfinite(s.density[i]) ? std::max(0.f, thickness * s.density[i]) : 0;
      albedo_[i] = single_albedo({s.color[3 * i], s.color[3 * i + 1], s.color[3 * i + 2]});
      for (int c = 0; c < 3; ++c) albedo_[i][c] /= tint[c];
    }
  });
  for (int a = 0; a < 3; ++a) boxes_[a] = (count_[a] + box - 1) / box;
  most_.assign(size_t(boxes_.x) * size_t(boxes_.y) * size_t(boxes_.z), 0);
  parallel_for(most_.size(), [&](size_t b) {
    const Vec3i at{int(b) % boxes_.x, int(b) / boxes_.x % boxes_.y, int(b) / (boxes_.x * boxes_.y)};
    float most = 0;
    for (int z = std::max(0, at.z * box - 1); z < std::min(count_.z, at.z * box + box + 1); ++z)
      for (int y = std::max(0, at.y * box - 1); y < std::min(count_.y, at.y * box + box + 1); ++y)
        for (int x = std::max(0, at.x * box - 1); x < std::min(count_.x, at.x * box + box + 1); ++x)
          most = std::max(
              most, extinction_[(size_t(z) * size_t(count_.y) + size_t(y)) * size_t(count_.x) + size_t(x)]);
    most_[b] = most;
  });
}

float TracedSmoke::extinction(const Vec3f& p) const {
  const float x = p.x - 0.5f, y = p.y - 0.5f, z = p.z - 0.5f;
  const int ix = int(std::floor(x)), iy = int(std::floor(y)), iz = int(std::floor(z));
  const float f[3] = {x - float(ix), y - float(iy), z - float(iz)};
  float sum = 0;
  for (int k = 0; k < 8; ++k) {
    const int cx = ix + (k & 1), cy = iy + (k >> 1 & 1), cz = iz + (k >> 2);
    if (cx < 0 || cy < 0 || cz < 0 || cx >= count_.x || cy >= count_.y || cz >= count_.z) continue;
    sum += extinction_[(size_t(cz) * size_t(count_.y) + size_t(cy)) * size_t(count_.x) + size_t(cx)] *
           ((k & 1) ? f[0] : 1 - f[0]) * ((k >> 1 & 1) ? f[1] : 1 - f[1]) * ((k >> 2) ? f[2] : 1 - f[2]);
  }
  return walls_ && sum > 0 ? sum * walls_->inside(low_ + p * cell_) : sum;
}

Vec3f TracedSmoke::albedo(const Vec3f& world) const {
  const Vec3f p = (to<float>(pose_.inverse(to<double>(world))) - low_) * (1 / cell_);
  size_t c[3];
  for (int a = 0; a < 3; ++a) c[a] = size_t(std::clamp(int(std::floor(p[a])), 0, count_[a] - 1));
  return albedo_[(c[2] * size_t(count_.y) + c[1]) * size_t(count_.x) + c[0]];
}

template <class F>
void TracedSmoke::each_place(const Vec3f& from, const Vec3f& direction, float end, Sampler& random,
                             const F& f) const {
  // In boxes, along the ray: Amanatides & Woo 1987.
  const float side = cell_ * box;
  const Vec3f o = (to<float>(pose_.inverse(to<double>(from))) - low_) * (1 / side),
              d = to<float>(pose_.turn.inverse(to<double>(direction))) * (1 / side);
  float t0 = 0, t1 = end;
  for (int a = 0; a < 3; ++a) {
    const float inv = 1 / (std::abs(d[a]) > 1e-12f ? d[a] : 1e-12f);
    float near = -o[a] * inv, far = (float(count_[a]) / box - o[a]) * inv;
    if (near > far) std::swap(near, far);
    t0 = std::max(t0, near), t1 = std::min(t1, far);
  }
  if (!(t0 < t1)) return;
  Vec3i at;
  Vec3f next, step;
  Vec3i way;
  const Vec3f enter = o + d * t0;
  for (int a = 0; a < 3; ++a) {
    at[a] = std::clamp(int(std::floor(enter[a])), 0, boxes_[a] - 1);
    way[a] = d[a] >= 0 ? 1 : -1;
    step[a] = 1 / std::max(1e-12f, std::abs(d[a]));
    next[a] = std::abs(d[a]) > 1e-12f ? (float(at[a] + (way[a] > 0)) - o[a]) / d[a] : 1e30f;
  }
  float t = t0, left = -std::log(1 - random.one());  // optical depth until the next place
  while (true) {
    const int axis = next.x < next.y ? (next.x < next.z ? 0 : 2) : next.y < next.z ? 1 : 2;
    const float out = std::min(next[axis], t1);
    const float most =
        most_[(size_t(at.z) * size_t(boxes_.y) + size_t(at.y)) * size_t(boxes_.x) + size_t(at.x)];
    while (most > 0) {
      const float reach = t + left / most;
      if (reach >= out) {
        left -= (out - t) * most;
        break;
      }
      t = reach, left = -std::log(1 - random.one());
      if (!f(t, extinction((o + d * t) * float(box)) / most)) return;
    }
    t = out;
    if (out >= t1) return;
    at[axis] += way[axis], next[axis] += step[axis];
    if (at[axis] < 0 || at[axis] >= boxes_[axis]) return;
  }
}

float TracedSmoke::meet(const Vec3f& from, const Vec3f& direction, float end, Sampler& random) const {
  float met = end;
  each_place(from, direction, end, random, [&](float t, float share) {
    if (random.one() >= share) return true;
    met = t;
    return false;
  });
  return met;
}

float TracedSmoke::through(const Vec3f& from, const Vec3f& direction, float end, Sampler& random) const {
  float part = 1;
  each_place(from, direction, end, random, [&](float, float share) {
    part *= 1 - share;
    if (part < 0.05f) part = random.one() < part / 0.1f ? 0.1f : 0;  // by chance gone, or worth following
    return part > 0;
  });
  return part;
}

}  // namespace pour
