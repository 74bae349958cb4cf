#include "surface/kernels.h"

#include <numbers>

#include "base/parallel.h"
#include "base/simd.h"

namespace pour {
namespace {

constexpr float wide = 1.6f;    // of a kernel in the bulk, cells
constexpr float narrow = 0.9f;  // of one on its own
constexpr float around = 1.3f;  // how far neighbours count, cells
constexpr float full = 36.8f;   // weights of neighbours in the bulk
constexpr float plenty = 30;    // of one that is spread as widely as those in the bulk
constexpr float few = 3;        // of one in a drop
constexpr float apart = 1.6f;   // how far it is from all that is no drop, cells
constexpr float drawn = 0.4f;   // towards the middle of its neighbours
constexpr float roundness = 0.08f;
constexpr float thinnest = 1.0f, thickest = 1.1f;  // density at a particle

/// Of a bulk: the mean square of a coordinate within `around`, under the weights 1 - (d/r)³.
constexpr float bulk_variance = 0.15f * around * around;

/// Whether each cell of a block is within two cells of one that is empty.
std::array<bool, 512> near_surface(const Bins& bins, const Bins::Block& block) {
  constexpr int n = 12;
  std::array<bool, n * n * n> empty;
  for (int z = 0, i = 0; z < n; ++z)
    for (int y = 0; y < n; ++y)
      for (int x = 0; x < n; ++x, ++i)
        empty[size_t(i)] = bins.count(block.at * Bins::side + Vec3i{x - 2, y - 2, z - 2}) == 0;
  const auto spread = [&](int step) {
    const auto was = empty;
    for (int i = 0; i < n * n * n; ++i) {
      if (const int at = i / step % n; at < 2 || at > n - 3) continue;
      for (int k = -2; k <= 2; ++k) empty[size_t(i)] = empty[size_t(i)] || was[size_t(i + k * step)];
    }
  };
  spread(1), spread(n), spread(n * n);
  std::array<bool, 512> out;
  for (int i = 0; i < 512; ++i)
    out[size_t(i)] = empty[size_t(((i / 64 + 2) * n + i / 8 % 8 + 2) * n + i % 8 + 2)];
  return out;
}

/// The kernel whose square extents along the axes, and their products, are these.
Kernel shaped(const Vec3f& at, const float (&c)[6], float volume) {
  Kernel k;
  const float xx = c[1] * c[2] - c[4] * c[4], yy = c[0] * c[2] - c[5] * c[5], zz = c[0] * c[1] - c[3] * c[3];
  const float xy = c[4] * c[5] - c[3] * c[2], yz = c[3] * c[5] - c[0] * c[4], zx = c[3] * c[4] - c[1] * c[5];
  const float determinant = c[0] * xx + c[3] * xy + c[5] * zx, less = 1 / determinant;
  k.at = at;
  k.m[0] = xx * less, k.m[1] = yy * less, k.m[2] = zz * less;
  k.m[3] = xy * less, k.m[4] = yz * less, k.m[5] = zx * less;
  k.reach = {std::sqrt(c[0]), std::sqrt(c[1]), std::sqrt(c[2])};
  constexpr float whole = 315 / (64 * std::numbers::pi_v<float>);  // one over the integral of (1 - q²)³
  k.most = whole * volume / std::sqrt(determinant);
  return k;
}

Kernel round(const Vec3f& at, float radius, float volume) {
  const float r = radius * radius;
  return shaped(at, {r, r, r, 0, 0, 0}, volume);
}

/// The particles around one: sums of weights, of places, and of their squares and products.
struct Company {
  float weights = 0;
  Vec3f mean;
  float squares[6] = {};
};

Company company_of(const Bins& bins, const Vec3f& at) {
  const float r = around * bins.cell();
  const float *x = bins.axes()[0].data(), *y = bins.axes()[1].data(), *z = bins.axes()[2].data();
  const v8 less = splat(1 / (r * r)), zero = splat(0), one = splat(1);
  v8 all[10];
  for (v8& v : all) v = zero;
  bins.runs_near(at, r, [&](uint32_t first, uint32_t end) {
    for (uint32_t i = first; i < end; i += 8) {
      const v8 dx = load(x + i) - splat(at.x), dy = load(y + i) - splat(at.y), dz = load(z + i) - splat(at.z);
      const v8 part = (dx * dx + dy * dy + dz * dz) * less;
      const v8i own = v8i{0, 1, 2, 3, 4, 5, 6, 7} < int32_t(end - i);
      const v8 w = choose(own, vmax(zero, one - part * vsqrt(part)), zero);
      const v8 wx = w * dx, wy = w * dy, wz = w * dz;
      all[0] += w, all[1] += wx, all[2] += wy, all[3] += wz;
      all[4] += wx * dx, all[5] += wy * dy, all[6] += wz * dz;
      all[7] += wx * dy, all[8] += wy * dz, all[9] += wz * dx;
    }
  });
  const auto sum = [&](int k) {
    const v8& v = all[k];
    return ((v[0] + v[4]) + (v[1] + v[5])) + ((v[2] + v[6]) + (v[3] + v[7]));
  };
  Company out{sum(0), {sum(1), sum(2), sum(3)}, {}};
  for (int k = 0; k < 6; ++k) out.squares[k] = sum(4 + k);
  return out;
}

/// Shaped as the particles around it lie.
Kernel fitted(const Bins& bins, size_t self, float& neighbours) {
  const float h = bins.cell();
  const Vec3f& at = bins.places()[self];
  const Company near = company_of(bins, at);
  const Vec3f mean = near.mean / near.weights;
  neighbours = near.weights - 1;
  const float company = std::min(1.f, neighbours / plenty);  // none to plenty
  const float radius = (narrow + (wide - narrow) * company * (2 - company)) * h;
  const float scale = company * (1 - roundness) * radius * radius / (bulk_variance * h * h);
  const float own[6] = {mean.x * mean.x, mean.y * mean.y, mean.z * mean.z,
                        mean.x * mean.y, mean.y * mean.z, mean.z * mean.x};
  float c[6];
  for (int k = 0; k < 6; ++k) c[k] = scale * (near.squares[k] / near.weights - own[k]);
  for (int k = 0; k < 3; ++k) c[k] += (1 - company * (1 - roundness)) * radius * radius;
  return shaped(at + mean * (drawn * company), c, h * h * h / 8);
}

}  // namespace

Kernels::Kernels(const Bins& bins) : of(bins.places().size()), place(bins.places().size()) {
  const float h = bins.cell();
  const auto in_blocks = [&](const auto& f) {
    parallel_for(
        bins.blocks().size(),
        [&](size_t b) {
          for (uint32_t i = bins.blocks()[b].start.front(); i < bins.blocks()[b].start.back(); ++i) f(i);
        },
        1);
  };
  std::vector<float> neighbours(of.size(), full);
  parallel_for(
      bins.blocks().size(),
      [&](size_t b) {
        const auto& start = bins.blocks()[b].start;
        const auto near = near_surface(bins, bins.blocks()[b]);
        for (size_t c = 0; c < near.size(); ++c)
          for (uint32_t i = start[c]; i < start[c + 1]; ++i) {
            place[i] = near[c] ? Place::shallow : Place::deep;
            of[i] =
                near[c] ? fitted(bins, i, neighbours[i]) : round(bins.places()[i], wide * h, h * h * h / 8);
          }
      },
      1);
  std::vector<float> most(of.size());
  in_blocks([&](size_t i) {
    most[i] = of[i].most;
    if (place[i] == Place::deep) return;
    float density = std::max(1.f, neighbours[i] / full);
    if (neighbours[i] < 0.6f * full) {  // its shape counts
      density = 0;
      bins.near(of[i].at, 1.1f * h, [&](size_t k) { density += of[k].density(of[i].at); });
    }
    most[i] *= std::min(6.f, std::clamp(density, thinnest, thickest) / density);
    if (neighbours[i] >= few) return;
    bool all = true;
    bins.near(bins.places()[i], apart * h, [&](size_t k) {
      all = all && (neighbours[k] < few || length(bins.places()[k] - bins.places()[i]) > apart * h);
    });
    if (all) place[i] = Place::drop;
  });
  for (size_t i = 0; i < of.size(); ++i) of[i].most = most[i];
}

}  // namespace pour
