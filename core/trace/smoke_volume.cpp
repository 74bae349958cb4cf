#include "trace/smoke_volume.h"
#include "base/light.h"

#include <cmath>

#include "base/noise.h"
#include "base/parallel.h"
#include "picture/smoke_look.h"

namespace pour {
namespace {

constexpr float noise_most = 1.2f;

float single(float color) {
  const float a = std::clamp(color, 0.f, 0.98f);
  return 1 - std::exp(-5.09406f * a + 2.61188f * a * a - 4.31805f * a * a * a);
}

}  // namespace

Vec3f single_albedo(const Vec3f& color) { return {single(color.x), single(color.y), single(color.z)}; }

TracedSmoke::TracedSmoke(SmokeWalls::Sealed sealed, const SmokeOptics& optics)
    : pose_(sealed.smoke.pose),
      cell_(float(sealed.smoke.cell_size)),
      count_(sealed.smoke.count),
      optics_(optics),
      walls_(sealed.mask) {
  const SmokeVolume& s = sealed.smoke;
  low_ = to<float>(s.low) * cell_;
  const size_t n = s.density.size();
  if (!n || optics.thickness <= 0) return;
  extinction_.resize(n), albedo_.resize(n);
  if (largest(optics.shine) > 0) shine_.resize(n);
  const bool flows = (optics.span > 0 || optics.breakup > 0) && s.velocity.size() == n;
  if (flows) velocity_.resize(n);
  parallel_for(n / 256 + 1, [&](size_t chunk) {
    for (size_t i = chunk * 256; i < std::min(n, (chunk + 1) * 256); ++i) {
      extinction_[i] = std::isfinite(s.density[i]) ? std::max(0.f, optics.thickness * s.density[i]) : 0;
      albedo_[i] = single_albedo({s.color[3 * i], s.color[3 * i + 1], s.color[3 * i + 2]});
      for (int c = 0; c < 3; ++c) albedo_[i][c] /= optics.tint[c];
      const float warmth = s.warmth.empty() ? 0 : s.warmth[i];
      if (!shine_.empty())
        shine_[i] = part_by(optics.shine_by, s.density[i] / optics.far_density, warmth / optics.far_heat, 1);
      if (flows) velocity_[i] = to<float>(pose_.turn.inverse(to<double>(s.velocity[i]))) * (1 / cell_);
    }
  });
  if (flows) carry_velocity_on();
  set_most();
}

/// Into cells without smoke, which know none: the mean of the boxes around, for smoke may move there.
void TracedSmoke::carry_velocity_on() {
  const Vec3i boxes{(count_.x + box - 1) / box, (count_.y + box - 1) / box, (count_.z + box - 1) / box};
  struct Sum {
    Vec3f velocity;
    float cells = 0;
  };
  std::vector<Sum> own(size_t(boxes.x) * size_t(boxes.y) * size_t(boxes.z));
  const auto at = [](const Vec3i& n, int x, int y, int z) {
    return (size_t(z) * size_t(n.y) + size_t(y)) * size_t(n.x) + size_t(x);
  };
  const auto each_cell = [&](size_t b, const auto& f) {
    const Vec3i from =
        Vec3i{int(b) % boxes.x, int(b) / boxes.x % boxes.y, int(b) / (boxes.x * boxes.y)} * box;
    const Vec3i to = min(from + Vec3i{box, box, box}, count_);
    for (int z = from.z; z < to.z; ++z)
      for (int y = from.y; y < to.y; ++y)
        for (int x = from.x; x < to.x; ++x) f(at(count_, x, y, z));
  };
  parallel_for(own.size(), [&](size_t b) {
    each_cell(b, [&](size_t i) {
      if (extinction_[i] > 0) own[b].velocity += velocity_[i], own[b].cells += 1;
    });
  });
  parallel_for(own.size(), [&](size_t b) {
    const Vec3i here{int(b) % boxes.x, int(b) / boxes.x % boxes.y, int(b) / (boxes.x * boxes.y)};
    Sum sum;
    for (int k = 0; k < 27; ++k) {
      const Vec3i n = here + Vec3i{k % 3 - 1, k / 3 % 3 - 1, k / 9 - 1};
      if (n.x < 0 || n.y < 0 || n.z < 0 || n.x >= boxes.x || n.y >= boxes.y || n.z >= boxes.z) continue;
      const Sum& s = own[at(boxes, n.x, n.y, n.z)];
      sum.velocity += s.velocity, sum.cells += s.cells;
    }
    if (sum.cells > 0)
      each_cell(b, [&](size_t i) {
        if (extinction_[i] <= 0) velocity_[i] = sum.velocity / sum.cells;
      });
  });
}

/// Majorant of each box, including smoke moved there by motion or noise.
void TracedSmoke::set_most() {
  float fastest = 0;
  if (optics_.span > 0)
    for (const Vec3f& v : velocity_) fastest = std::max(fastest, length(v));
  const int more = 1 + int(std::ceil(fastest * optics_.span / 2 + optics_.breakup / cell_ * noise_most));
  pad_ = more > 1 ? (more + box - 1) / box : 0;
  for (int a = 0; a < 3; ++a) boxes_[a] = (count_[a] + box - 1) / box + 2 * pad_;
  most_.assign(size_t(boxes_.x) * size_t(boxes_.y) * size_t(boxes_.z), 0);
  parallel_for(most_.size(), [&](size_t b) {
    const Vec3i at = Vec3i{int(b) % boxes_.x, int(b) / boxes_.x % boxes_.y, int(b) / (boxes_.x * boxes_.y)} -
                     Vec3i{pad_, pad_, pad_};
    float most = 0;
    for (int z = std::max(0, at.z * box - more); z < std::min(count_.z, at.z * box + box + more); ++z)
      for (int y = std::max(0, at.y * box - more); y < std::min(count_.y, at.y * box + box + more); ++y) {
        const float* row = extinction_.data() + (size_t(z) * size_t(count_.y) + size_t(y)) * size_t(count_.x);
        for (int x = std::max(0, at.x * box - more); x < std::min(count_.x, at.x * box + box + more); ++x)
          most = std::max(most, row[x]);
      }
    most_[b] = most;
  });
}

float TracedSmoke::cells(const Vec3f& p) const {
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
  return sum;
}

/// The noise drifts with the smoke for a while and then begins anew; two of them take turns so that this is
/// never seen (Neyret 2003, "Advected textures").
Vec3f TracedSmoke::broken_up(const Vec3f& p, const Vec3f& velocity) const {
  constexpr float period = 0.6f;  // s
  Vec3f by;
  for (int layer = 0; layer < 2; ++layer) {
    const float turn = optics_.clock / period + 0.5f * float(layer), part = turn - std::floor(turn);
    const Vec3f at = (low_ + (p - velocity * (part * period)) * cell_) * (1 / optics_.breakup_size);
    const auto seed = uint32_t(layer + 2 * (int(std::floor(turn)) & 1023));
    by += Vec3f{flow_noise(at, 0, 3 * seed).value, flow_noise(at, 0, 3 * seed + 1).value,
                flow_noise(at, 0, 3 * seed + 2).value} *
          (1 - std::abs(2 * part - 1));
  }
  for (int a = 0; a < 3; ++a) by[a] = std::clamp(by[a], -noise_most, noise_most);
  return p + by * (optics_.breakup / cell_);
}

Vec3f TracedSmoke::from_where(const Vec3f& p, float time) const {
  Vec3f at = p;
  if (optics_.span > 0 && !velocity_.empty()) at = p - velocity_[cell_at(p)] * ((time - 0.5f) * optics_.span);
  if (optics_.breakup > 0) at = broken_up(at, velocity_.empty() ? Vec3f{} : velocity_[cell_at(at)]);
  return at;
}

float TracedSmoke::extinction(const Vec3f& p, float time) const {
  const float sum = cells(from_where(p, time));
  return walls_ && sum > 0 ? sum * walls_->inside(low_ + p * cell_) : sum;
}

size_t TracedSmoke::cell_at(const Vec3f& p) const {
  size_t c[3];
  for (int a = 0; a < 3; ++a) c[a] = size_t(std::clamp(int(std::floor(p[a])), 0, count_[a] - 1));
  return (c[2] * size_t(count_.y) + c[1]) * size_t(count_.x) + c[0];
}

size_t TracedSmoke::met_cell(const Vec3f& world, float time) const {
  return cell_at(from_where((to<float>(pose_.inverse(to<double>(world))) - low_) * (1 / cell_), time));
}

Vec3f TracedSmoke::albedo(const Vec3f& at, float time) const { return albedo_[met_cell(at, time)]; }

Vec3f TracedSmoke::shine(const Vec3f& at, float time) const {
  return optics_.shine * shine_[met_cell(at, time)];
}

template <class F>
void TracedSmoke::each_place(const Vec3f& from, const Vec3f& direction, float end, float time,
                             Sampler& random, const F& f) const {
  // In boxes, along the ray: Amanatides & Woo 1987.
  const float side = cell_ * box;
  const float pad = float(pad_);
  const Vec3f o = (to<float>(pose_.inverse(to<double>(from))) - low_) * (1 / side) + Vec3f{pad, pad, pad},
              d = to<float>(pose_.turn.inverse(to<double>(direction))) * (1 / side);
  float t0 = 0, t1 = end;
  for (int a = 0; a < 3; ++a) {
    const float inv = 1 / (std::abs(d[a]) > 1e-12f ? d[a] : 1e-12f);
    float near = -o[a] * inv, far = (float(count_[a]) / box + 2 * pad - o[a]) * inv;
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
      if (!f(t, extinction((o + d * t - Vec3f{pad, pad, pad}) * float(box), time) / most)) return;
    }
    t = out;
    if (out >= t1) return;
    at[axis] += way[axis], next[axis] += step[axis];
    if (at[axis] < 0 || at[axis] >= boxes_[axis]) return;
  }
}

float TracedSmoke::meet(const Vec3f& from, const Vec3f& direction, float end, float time,
                        Sampler& random) const {
  float met = end;
  each_place(from, direction, end, time, random, [&](float t, float share) {
    if (random.one() >= share) return true;
    met = t;
    return false;
  });
  return met;
}

float TracedSmoke::through(const Vec3f& from, const Vec3f& direction, float end, float time,
                           Sampler& random) const {
  float part = 1;
  each_place(from, direction, end, time, random, [&](float, float share) {
    part *= 1 - share;
    if (part < 0.05f) part = random.one() < part / 0.1f ? 0.1f : 0;  // by chance gone, or worth following
    return part > 0;
  });
  return part;
}

}  // namespace pour
