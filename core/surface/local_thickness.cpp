#include "surface/local_thickness.h"

#include <atomic>
#include <cmath>

#include "base/parallel.h"

namespace pour {
namespace {

constexpr int most_radius = 10;     // of a ball that is drawn cell by cell
constexpr double most_cells = 6e7;  // of a lattice; what is larger gets a coarser one

/// A dense field over the cells of a box, x fastest.
struct Lattice {
  Vec3i low, count;  // in cells
  std::vector<float> value;

  Lattice() = default;
  Lattice(const Vec3i& l, const Vec3i& c)
      : low(l), count(c), value(size_t(c.x) * size_t(c.y) * size_t(c.z), 0.f) {}
  size_t at(int x, int y, int z) const {
    return (size_t(z) * size_t(count.y) + size_t(y)) * size_t(count.x) + size_t(x);
  }
  bool has(int x, int y, int z) const {
    return x >= 0 && y >= 0 && z >= 0 && x < count.x && y < count.y && z < count.z;
  }
};

/// The cells with points, and one more on all sides.
Lattice filled_cells(const std::vector<Vec3f>& places, float cell) {
  Vec3f low = places[0], high = low;
  for (const Vec3f& p : places) low = min(low, p), high = max(high, p);
  Vec3i first, last;
  for (int a = 0; a < 3; ++a)
    first[a] = int(std::floor(low[a] / cell)) - 1, last[a] = int(std::floor(high[a] / cell)) + 1;
  Lattice out(first, last - first + Vec3i{1, 1, 1});
  for (const Vec3f& p : places) {
    Vec3i c;
    for (int a = 0; a < 3; ++a) c[a] = int(std::floor(p[a] / cell)) - first[a];
    out.value[out.at(c.x, c.y, c.z)] = 1;
  }
  return out;
}

/// The lower envelope of parabolas over a row, in place: squares of distances, cells.
void along_row(float* f, size_t stride, int n, std::vector<float>& row, std::vector<int>& from,
               std::vector<float>& until) {
  row.resize(size_t(n)), from.resize(size_t(n)), until.resize(size_t(n) + 1);
  for (int i = 0; i < n; ++i) row[size_t(i)] = f[size_t(i) * stride];
  const auto meet = [&](int q, int p) {
    return (row[size_t(q)] + float(q) * float(q) - row[size_t(p)] - float(p) * float(p)) /
           (2.f * float(q - p));
  };
  size_t k = 0;
  from[0] = 0, until[0] = -1e20f, until[1] = 1e20f;
  for (int q = 1; q < n; ++q) {
    float s = meet(q, from[k]);
    while (k > 0 && s <= until[k]) s = meet(q, from[--k]);
    from[++k] = q, until[k] = s, until[k + 1] = 1e20f;
  }
  k = 0;
  for (int q = 0; q < n; ++q) {
    while (until[k + 1] < float(q)) ++k;
    const float d = float(q - from[k]);
    f[size_t(q) * stride] = d * d + row[size_t(from[k])];
  }
}

/// From what is filled to the radius of the largest ball around the middle of each cell, in cells; 0 where
/// nothing is.
void find_radii(Lattice& l) {
  constexpr float far = 1e9f;
  const size_t nx = size_t(l.count.x), ny = size_t(l.count.y), nz = size_t(l.count.z);
  for (float& v : l.value) v = v > 0 ? far : 0;
  const auto sweep = [&](size_t rows, const auto& start, size_t stride, int n) {
    parallel_for(rows, [&](size_t r) {
      thread_local std::vector<float> row, until;
      thread_local std::vector<int> from;
      along_row(l.value.data() + start(r), stride, n, row, from, until);
    });
  };
  sweep(
      ny * nz, [&](size_t r) { return r * nx; }, 1, l.count.x);
  sweep(
      nx * nz, [&](size_t r) { return r / nx * nx * ny + r % nx; }, nx, l.count.y);
  sweep(
      nx * ny, [&](size_t r) { return r; }, nx * ny, l.count.z);
  for (float& v : l.value) v = v > 0 ? std::sqrt(v) - 0.5f : 0;
}

/// Whether the ball around a cell lies in that of one beside it, which is drawn too.
bool is_hidden(const Lattice& l, int x, int y, int z, float r) {
  for (int k = -1; k <= 1; ++k)
    for (int j = -1; j <= 1; ++j)
      for (int i = -1; i <= 1; ++i) {
        if ((!i && !j && !k) || !l.has(x + i, y + j, z + k)) continue;
        if (l.value[l.at(x + i, y + j, z + k)] >= r + std::sqrt(float(i * i + j * j + k * k)) - 1e-3f)
          return true;
      }
  return false;
}

void raise(float& value, float to) {
  std::atomic_ref<float> shared(value);
  float now = shared.load(std::memory_order_relaxed);
  while (now < to && !shared.compare_exchange_weak(now, to, std::memory_order_relaxed)) {
  }
}

/// Each cell of `out` gets the radius of the largest ball that its middle is in. The order in which they are
/// drawn makes no difference.
void draw_balls(const Lattice& radii, Lattice& out) {
  parallel_for(size_t(radii.count.z), [&](size_t slice) {
    const int z = int(slice);
    for (int y = 0; y < radii.count.y; ++y)
      for (int x = 0; x < radii.count.x; ++x) {
        const float r = radii.value[radii.at(x, y, z)];
        if (r <= 0 || r > float(most_radius) || is_hidden(radii, x, y, z, r)) continue;
        const int reach = int(r);
        for (int k = -reach; k <= reach; ++k)
          for (int j = -reach; j <= reach; ++j)
            for (int i = -reach; i <= reach; ++i)
              if (float(i * i + j * j + k * k) < r * r && out.has(x + i, y + j, z + k))
                raise(out.value[out.at(x + i, y + j, z + k)], r);
      }
  });
}

/// Eight cells become one, with the radius of its largest ball.
Lattice coarser(const Lattice& fine) {
  const auto half = [](int v) { return v >> 1; };
  const Vec3i low{half(fine.low.x), half(fine.low.y), half(fine.low.z)},
      last = fine.low + fine.count - Vec3i{1, 1, 1};
  Lattice out(low, Vec3i{half(last.x), half(last.y), half(last.z)} - low + Vec3i{1, 1, 1});
  for (int z = 0; z < fine.count.z; ++z)
    for (int y = 0; y < fine.count.y; ++y)
      for (int x = 0; x < fine.count.x; ++x) {
        float& v = out.value[out.at(half(fine.low.x + x) - low.x, half(fine.low.y + y) - low.y,
                                    half(fine.low.z + z) - low.z)];
        v = std::max(v, 0.5f * fine.value[fine.at(x, y, z)]);
      }
  return out;
}

/// Of the balls that are too large for this lattice and all coarser ones; radii in cells of this one.
Lattice thickness_of(const Lattice& radii) {
  Lattice out(radii.low, radii.count);
  draw_balls(radii, out);
  float most = 0;
  for (const float r : radii.value) most = std::max(most, r);
  if (most <= float(most_radius)) return out;
  const Lattice more = thickness_of(coarser(radii));
  parallel_for(size_t(out.count.z), [&](size_t z) {
    for (int y = 0; y < out.count.y; ++y)
      for (int x = 0; x < out.count.x; ++x) {
        const Vec3i c{(out.low.x + x) >> 1, (out.low.y + y) >> 1, (out.low.z + int(z)) >> 1};
        float& v = out.value[out.at(x, y, int(z))];
        v = std::max(v, 2 * more.value[more.at(c.x - more.low.x, c.y - more.low.y, c.z - more.low.z)]);
      }
  });
  return out;
}

}  // namespace

std::vector<float> local_thickness(const LiquidPoints& points) {
  const std::vector<Vec3f>& places = points.place;
  std::vector<float> out(places.size(), 0.f);
  if (places.empty()) return out;
  Vec3f low = places[0], high = low;
  for (const Vec3f& p : places) low = min(low, p), high = max(high, p);
  float cell = float(points.cell_size);
  const Vec3f size = high - low;
  while ((double(size.x / cell) + 3) * (double(size.y / cell) + 3) * (double(size.z / cell) + 3) > most_cells)
    cell *= 2;
  Lattice radii = filled_cells(places, cell);
  find_radii(radii);
  const Lattice thick = thickness_of(radii);
  parallel_for(places.size() / 256 + 1, [&](size_t chunk) {
    for (size_t i = chunk * 256; i < std::min(places.size(), (chunk + 1) * 256); ++i) {
      // The mean of the filled cells around its own, without a cell's steps.
      Vec3i c;
      for (int a = 0; a < 3; ++a) c[a] = int(std::floor(places[i][a] / cell)) - thick.low[a];
      float sum = 0, count = 0;
      for (int n = 0; n < 27; ++n) {
        const int x = c.x + n % 3 - 1, y = c.y + n / 3 % 3 - 1, z = c.z + n / 9 - 1;
        if (!thick.has(x, y, z) || thick.value[thick.at(x, y, z)] <= 0) continue;
        sum += thick.value[thick.at(x, y, z)], ++count;
      }
      // A body an even number of cells thick has its middle between cells; half a cell more is the mean.
      out[i] = cell * (2 * sum / std::max(1.f, count) + 0.5f);
    }
  });
  return out;
}

}  // namespace pour
