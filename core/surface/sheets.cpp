#include "surface/sheets.h"

#include <openvdb/math/Mat3.h>

#include <cmath>
#include <optional>
#include <unordered_set>

#include "base/parallel.h"
#include "surface/bins.h"

namespace pour {
namespace {

constexpr float close = 0.8f;      // what is nearer has no gap between it, cells
constexpr float same = 0.4f;       // two new points that are nearer become one, cells
constexpr uint32_t full = 80;      // particles in the 27 cells around one that is not in a thin sheet
constexpr size_t fewest = 6;       // particles that show a sheet, itself among them
constexpr size_t in_line = 3;      // that show a thread
constexpr double thin = 0.08;      // of the largest variance, across what is thin
constexpr double straight = 0.02;  // the same of a thread
constexpr float along = 0.35f;     // how far out of a sheet's plane a gap may lead
constexpr float even = 0.7f;       // how alike two parts of a sheet are turned
constexpr double widest_look = 4;  // cells

/// The neighbourhood of a particle is flat, across `out`, or elongated, along `out`.
struct Thin {
  Vec3f out;
  bool thread;
  bool leads(const Vec3f& way) const {
    const float part = std::abs(dot(out, way));
    return thread ? part > even : part < along;
  }
  bool goes_on_in(const Thin& o) const { return thread == o.thread && std::abs(dot(out, o.out)) > even; }
};

bool has_room(const Bins& bins, const Vec3f& at) {
  Vec3i cell;
  for (int k = 0; k < 3; ++k) cell[k] = int(std::floor(at[k] / bins.cell()));
  uint32_t sum = 0;
  for (int n = 0; n < 27; ++n) sum += bins.count(cell + Vec3i{n % 3 - 1, n / 3 % 3 - 1, n / 9 - 1});
  return sum < full;
}

std::optional<Thin> shape_around(const Bins& bins, const Vec3f& at, float reach) {
  using Matrix = openvdb::math::Mat3<double>;
  using Vector = openvdb::math::Vec3<double>;
  size_t count = 0;
  double sum = 0;
  Vector mean(0, 0, 0);
  Matrix squares = Matrix::zero();
  bins.near(at, reach, [&](size_t k) {
    const Vec3f d = bins.places()[k] - at;
    const float far = dot(d, d) / (reach * reach);
    if (far >= 1) return;
    const double w = 1 - double(far * std::sqrt(far));
    const Vector v(double(d.x), double(d.y), double(d.z));
    sum += w, mean += w * v, squares += openvdb::math::outerProduct(v, v) * w, ++count;
  });
  if (count < in_line) return {};
  mean /= sum;
  const Matrix variance = squares * (1 / sum) - openvdb::math::outerProduct(mean, mean);
  Matrix ways;
  Vector size;
  if (!openvdb::math::diagonalizeSymmetricMatrix(variance, ways, size)) return {};
  int low = 0, high = 0;
  for (int k = 1; k < 3; ++k) low = size[k] < size[low] ? k : low, high = size[k] >= size[high] ? k : high;
  if (low == high || size[low] > thin * size[high]) return {};
  const bool thread = size[3 - low - high] < straight * size[high];
  if (!thread && count < fewest) return {};
  const Vector out = ways.col(thread ? high : low);
  return Thin{to<float>(Vec3d{out.x(), out.y(), out.z()}), thread};
}

struct Gap {
  uint32_t one, other;
  Vec3f middle;
};

/// Whether nothing else lies in the ball that two points span.
bool is_empty(const Bins& bins, const Gap& gap, float width) {
  bool empty = true;
  bins.near(gap.middle, width / 2, [&](size_t k) {
    if (k == gap.one || k == gap.other) return;
    const Vec3f d = bins.places()[k] - gap.middle;
    empty = empty && dot(d, d) > 0.98f * width * width / 4;
  });
  return empty;
}

std::vector<Gap> gaps_of(const Bins& bins, float widest) {
  const std::vector<Vec3f>& places = bins.places();
  constexpr size_t chunk = 512;
  const size_t n = places.size(), chunks = (n + chunk - 1) / chunk;
  std::vector<std::optional<Thin>> shape(n);
  const auto each = [&](const auto& f) {
    parallel_for(
        chunks,
        [&](size_t k) {
          for (size_t i = k * chunk; i < std::min(n, (k + 1) * chunk); ++i) f(k, i);
        },
        1);
  };
  each([&](size_t, size_t i) {
    if (has_room(bins, places[i])) shape[i] = shape_around(bins, places[i], widest);
  });
  std::vector<std::vector<Gap>> found(chunks);
  each([&](size_t k, size_t i) {
    if (!shape[i]) return;
    bins.near(places[i], widest, [&](size_t j) {
      if (j <= i || !shape[j] || !shape[i]->goes_on_in(*shape[j])) return;
      const Vec3f way = places[j] - places[i];
      const float width = length(way);
      if (width < close * bins.cell() || width > widest) return;
      if (!shape[i]->leads(way / width) || !shape[j]->leads(way / width)) return;
      const Gap gap{uint32_t(i), uint32_t(j), (places[i] + places[j]) * 0.5f};
      if (is_empty(bins, gap, width)) found[k].push_back(gap);
    });
  });
  std::vector<Gap> all;
  for (const auto& of_chunk : found) all.insert(all.end(), of_chunk.begin(), of_chunk.end());
  return all;
}

}  // namespace

void close_sheets(LiquidPoints& points, double widest) {
  const double h = points.cell_size, width = std::min(widest, widest_look * h);
  // Each time gaps become half as wide.
  for (double left = width; left > double(close) * h; left /= 2) {
    const Bins bins(points.place, float(h));
    std::unordered_set<uint64_t> taken;
    for (const Gap& gap : gaps_of(bins, float(width))) {
      uint64_t key = 0;
      for (int k = 0; k < 3; ++k)
        key = key << 21 | (uint64_t(int64_t(std::floor(gap.middle[k] / (same * float(h))))) & 0x1fffff);
      if (taken.insert(key).second)
        add_between(points, bins.order()[gap.one], bins.order()[gap.other], gap.middle);
    }
    if (taken.empty()) return;
  }
}

void close_sheets(LiquidPoints& points, const SkinSettings& settings) {
  constexpr double usual = 2.5;  // cells, where the shot says nothing
  close_sheets(points, settings.sheets > 0 ? settings.sheets : usual * points.cell_size);
}

}  // namespace pour
