#include "shape/spots.h"

#include <algorithm>
#include <cmath>

#include "base/parallel.h"

namespace pour {

double distance_inside(const Outline::Part& part, double x, double y) {
  double nearest = 1e300;
  bool inside = false;
  const auto ring = [&](const Outline::Ring& r) {
    for (size_t i = 0, n = r.points.size(); i < n; ++i) {
      const Vec3d &a = r.points[i], &b = r.points[(i + 1) % n];
      const double ex = b.x - a.x, ey = b.y - a.y, px = x - a.x, py = y - a.y;
      const double t = std::clamp((px * ex + py * ey) / std::max(ex * ex + ey * ey, 1e-300), 0.0, 1.0);
      const double qx = px - t * ex, qy = py - t * ey;
      nearest = std::min(nearest, qx * qx + qy * qy);
      if ((a.y > y) != (b.y > y) && x < a.x + (y - a.y) / (b.y - a.y) * ex) inside = !inside;
    }
  };
  ring(part.outer);
  for (const auto& h : part.holes) ring(h);
  return inside ? std::sqrt(nearest) : -std::sqrt(nearest);
}

namespace {

// The inside of a part on a regular grid, at least eight samples to a common stroke.
struct Samples {
  struct Sample {
    double x, y, distance;  // m; to the nearest outline, negative outside
  };
  int nx, ny;
  std::vector<Sample> all;   // row by row, from below
  double common_stroke = 0;  // m: a long band's area by half its outline

  explicit Samples(const Outline::Part& part) {
    Box b;
    for (const Vec3d& p : part.outer.points) b.add(p);
    double length = 0, edges = 0;
    const auto measure = [&](const Outline::Ring& r) {
      edges += double(r.points.size());
      for (size_t i = 0, n = r.points.size(); i < n; ++i)
        length += pour::length(r.points[(i + 1) % n] - r.points[i]);
    };
    measure(part.outer);
    for (const auto& h : part.holes) measure(h);
    const Vec3d size = b.size();
    common_stroke = 2 * part.area() / length;
    // Each sample looks at each edge: an outline of very many gets fewer.
    const double most = std::clamp(3e7 / edges, 1000.0, 60000.0);
    const double step = std::max(std::min(std::max(size.x, size.y) / 56, common_stroke / 8),
                                 std::sqrt(size.x * size.y / most));
    nx = std::max(3, int(size.x / step)), ny = std::max(3, int(size.y / step));
    all.resize(size_t(nx) * size_t(ny));
    parallel_for(size_t(ny), [&](size_t j) {
      for (int i = 0; i < nx; ++i) {
        const double x = b.low.x + (i + 0.5) * size.x / nx, y = b.low.y + (double(j) + 0.5) * size.y / ny;
        all[j * size_t(nx) + size_t(i)] = {x, y, distance_inside(part, x, y)};
      }
    });
  }
};

using SampleList = std::vector<int>;

// The best of some samples for a seed, by a cost in metres; of equal places the roomier one.
template <class Cost>
Spot best_spot(const Samples& samples, const SampleList& among, const Cost& cost) {
  double widest = 0, least = 1e300;
  for (const int i : among) widest = std::max(widest, samples.all[size_t(i)].distance);
  Spot best;
  for (const int i : among) {
    const auto& s = samples.all[size_t(i)];
    const double c = cost(s) - 0.3 * s.distance;
    if (s.distance >= 0.7 * widest && c < least) best = {{s.x, s.y, 0}, s.distance}, least = c;
  }
  return best;
}

// The feet of a shape: it is flooded from below, and where two pools meet that are both deeper than
// `depth`, each was a foot (persistence of the minima of height: Edelsbrunner, Letscher & Zomorodian 2002).
std::vector<SampleList> feet(const Samples& samples, double depth) {
  struct Pool {
    double low, high;
    SampleList inside, foot;  // all of it; what it was before it met another foot
  };
  std::vector<int> parent(samples.all.size(), -1);  // -1: dry
  std::vector<Pool> pools(samples.all.size());
  const auto root = [&](int i) {
    while (parent[size_t(i)] != i) i = parent[size_t(i)] = parent[size_t(parent[size_t(i)])];
    return i;
  };
  std::vector<SampleList> out;
  const auto end = [&](Pool& p) { out.push_back(p.foot.empty() ? std::move(p.inside) : std::move(p.foot)); };
  for (int i = 0; i < int(samples.all.size()); ++i) {  // rows from below are sorted by height
    const auto& s = samples.all[size_t(i)];
    if (s.distance <= 0) continue;
    parent[size_t(i)] = i;
    pools[size_t(i)] = {s.y, s.y, {i}, {}};
    const int x = i % samples.nx;
    const int neighbours[] = {x > 0 ? i - 1 : -1, i - samples.nx, x > 0 ? i - samples.nx - 1 : -1,
                              x + 1 < samples.nx ? i - samples.nx + 1 : -1};
    for (const int n : neighbours) {
      if (n < 0 || parent[size_t(n)] < 0) continue;
      int a = root(n), b = root(i);
      if (a == b) continue;
      if (pools[size_t(b)].low < pools[size_t(a)].low) std::swap(a, b);
      Pool &deep = pools[size_t(a)], &other = pools[size_t(b)];
      if (s.y - other.low > depth) {
        end(other);
        if (deep.foot.empty()) deep.foot = deep.inside;
      }
      if (deep.inside.size() < other.inside.size()) std::swap(deep.inside, other.inside);
      deep.inside.insert(deep.inside.end(), other.inside.begin(), other.inside.end());
      deep.high = s.y;
      other = {};
      parent[size_t(b)] = a;
    }
  }
  // Parts connected only by hairs between samples stay separate, each with its own foot.
  Pool* largest = nullptr;
  for (size_t i = 0; i < pools.size(); ++i) {
    if (parent[i] != int(i)) continue;
    if (!largest || pools[i].inside.size() > largest->inside.size()) largest = &pools[i];
    if (pools[i].high - pools[i].low > depth) end(pools[i]);
  }
  if (out.empty() && largest) end(*largest);
  return out;
}

}  // namespace

Spots find_spots(const Outline::Part& part, double letter_size) {
  const Samples samples(part);
  Spots out;
  SampleList all;
  Box box;
  for (int i = 0; i < int(samples.all.size()); ++i) {
    const auto& s = samples.all[size_t(i)];
    if (s.distance <= 0) continue;
    out.stroke = std::max(out.stroke, 2 * s.distance);
    all.push_back(i), box.add(Vec3d{s.x, s.y, 0});
  }
  using Sample = Samples::Sample;
  const Vec3d c = box.center();
  for (const SampleList& foot : feet(samples, 0.7 * samples.common_stroke)) {
    Box b;
    for (const int i : foot) b.add(Vec3d{samples.all[size_t(i)].x, 0, 0});
    out.low.push_back(best_spot(
        samples, foot, [x = b.center().x](const Sample& s) { return s.y + 0.2 * std::abs(s.x - x); }));
  }
  std::sort(out.low.begin(), out.low.end(),
            [](const Spot& a, const Spot& b) { return a.center.x < b.center.x; });
  const int letters = std::max(1, int(std::lround(box.size().x / (1.3 * letter_size))));
  for (int k = 0; k < letters; ++k) {
    const double width = box.size().x / letters, x = box.low.x + (k + 0.5) * width;
    SampleList stretch;
    for (const int i : all)
      if (std::abs(samples.all[size_t(i)].x - x) <= width / 2) stretch.push_back(i);
    if (stretch.empty()) continue;
    out.centre.push_back(
        best_spot(samples, stretch, [x, y = c.y](const Sample& s) { return std::hypot(s.x - x, s.y - y); }));
  }
  out.left = best_spot(samples, all, [&](const Sample& s) { return s.x + 0.2 * std::abs(s.y - c.y); });
  out.right = best_spot(samples, all, [&](const Sample& s) { return -s.x + 0.2 * std::abs(s.y - c.y); });
  out.top = best_spot(samples, all, [&](const Sample& s) { return -s.y + 0.2 * std::abs(s.x - c.x); });
  return out;
}

void add_seeds(Body& body, const Spots& spots, double depth, double most) {
  const auto add = [&](SeedPlace place, const Spot& spot, double z = 0, double deep = 0.5) {
    const double room = std::min({spot.radius, deep * depth, most});
    body.seeds[int(place)].push_back({{spot.center.x, spot.center.y, z < 0 ? room - depth / 2 : 0}, room});
  };
  for (const Spot& s : spots.low) add(SeedPlace::low, s);
  for (const Spot& s : spots.centre) add(SeedPlace::centre, s), add(SeedPlace::back, s, -1, 0.25);
  add(SeedPlace::left, spots.left), add(SeedPlace::right, spots.right), add(SeedPlace::top, spots.top);
}

}  // namespace pour
