#include "shape/curve.h"

#include <cmath>
#include <numbers>

namespace pour {
namespace {

constexpr int pieces = 24;  // of the curve between two points

Vec3d between(const Vec3d p[4], double u) {
  // Barry & Goldman's pyramid with knots at the square roots of the distances.
  double t[4] = {0};
  for (int i = 1; i < 4; ++i) t[i] = t[i - 1] + std::sqrt(std::max(length(p[i] - p[i - 1]), 1e-12));
  const double x = t[1] + u * (t[2] - t[1]);
  const auto mix = [&](const Vec3d& a, const Vec3d& b, double ta, double tb) {
    return a * ((tb - x) / (tb - ta)) + b * ((x - ta) / (tb - ta));
  };
  const Vec3d a0 = mix(p[0], p[1], t[0], t[1]), a1 = mix(p[1], p[2], t[1], t[2]),
              a2 = mix(p[2], p[3], t[2], t[3]);
  const Vec3d b0 = mix(a0, a1, t[0], t[2]), b1 = mix(a1, a2, t[1], t[3]);
  return mix(b0, b1, t[1], t[2]);
}

}  // namespace

Curve::Curve(const std::vector<Vec3d>& given, bool closed, const std::vector<double>& sizes) {
  std::vector<Vec3d> p;
  std::vector<double> size;
  for (size_t i = 0; i < given.size(); ++i)
    if (p.empty() || pour::length(given[i] - p.back()) > 1e-9)
      p.push_back(given[i]), size.push_back(i < sizes.size() ? sizes[i] : 1);
  if (closed && p.size() > 1 && pour::length(p.front() - p.back()) <= 1e-9) p.pop_back(), size.pop_back();
  closed_ = closed && p.size() > 2;
  if (p.empty()) p.push_back({}), size.push_back(1);
  if (p.size() == 1) p.push_back(p[0] + Vec3d{1e-6, 0, 0}), size.push_back(size[0]);
  const int n = int(p.size()), spans = closed_ ? n : n - 1;
  const auto point = [&](int i) {
    if (closed_) return p[size_t((i % n + n) % n)];
    if (i < 0) return p[0] * 2 - p[1];
    if (i >= n) return p[size_t(n - 1)] * 2 - p[size_t(n - 2)];
    return p[size_t(i)];
  };
  for (int s = 0; s < spans; ++s) {
    const Vec3d four[4] = {point(s - 1), point(s), point(s + 1), point(s + 2)};
    const double from = size[size_t(s)], to = size[size_t((s + 1) % n)];
    for (int i = 0; i < pieces; ++i) {
      const double t = double(i) / pieces;
      line_.push_back(between(four, t)), sizes_.push_back(from + (to - from) * t * t * (3 - 2 * t));
    }
  }
  line_.push_back(point(spans)), sizes_.push_back(size[size_t(spans % n)]);
  lengths_.assign(1, 0);
  for (size_t i = 1; i < line_.size(); ++i)
    lengths_.push_back(lengths_.back() + pour::length(line_[i] - line_[i - 1]));
}

std::pair<size_t, double> Curve::find(double share) const {
  share = closed_ ? share - std::floor(share) : std::clamp(share, 0.0, 1.0);
  const double at = share * length();
  const size_t i = size_t(std::clamp<std::ptrdiff_t>(
      std::upper_bound(lengths_.begin(), lengths_.end(), at) - lengths_.begin() - 1, 0,
      std::ptrdiff_t(line_.size()) - 2));
  const double step = lengths_[i + 1] - lengths_[i];
  return {i, step > 0 ? (at - lengths_[i]) / step : 0};
}

Vec3d Curve::at(double share) const {
  const auto [i, t] = find(share);
  return line_[i] * (1 - t) + line_[i + 1] * t;
}

double Curve::size(double share) const {
  const auto [i, t] = find(share);
  return sizes_[i] * (1 - t) + sizes_[i + 1] * t;
}

Vec3d Curve::tangent(double share) const {
  // Over two pieces of the line, so that it turns evenly.
  const double step = 1.0 / double(line_.size() - 1);
  const Vec3d way = at(closed_ ? share + step : std::min(share + step, 1.0)) -
                    at(closed_ ? share - step : std::max(share - step, 0.0));
  return pour::length(way) > 0 ? normalized(way) : Vec3d{1, 0, 0};
}

Mesh tube_mesh(const Curve& curve, double radius) {
  constexpr int around = 24, cap = 6;
  const std::vector<Vec3d>& line = curve.line();
  const size_t n = curve.closed() ? line.size() - 1 : line.size();
  // So that the polygon's area is the circle's.
  const double grown = std::sqrt(2 * std::numbers::pi / (around * std::sin(2 * std::numbers::pi / around)));
  const double first = radius * curve.sizes().front(), last = radius * curve.sizes().back();
  Mesh m;
  Vec3d side{};  // carried along, so that the tube does not twist
  const auto way_at = [&](size_t i) {
    const size_t last = line.size() - 1;
    const Vec3d &a = i                ? line[i - 1]
                     : curve.closed() ? line[last - 1]
                                      : line[0],
                &b = i < last ? line[i + 1] : line[last];
    return normalized(b - a);
  };
  const auto ring = [&](const Vec3d& middle, const Vec3d& way, double size) {
    side = side - way * dot(side, way);
    if (length(side) < 1e-9) side = std::abs(way.y) < 0.9 ? cross(way, {0, 1, 0}) : cross(way, {1, 0, 0});
    side = normalized(side);
    const Vec3d up = cross(way, side);
    for (int k = 0; k < around; ++k) {
      const double a = 2 * std::numbers::pi * k / around;
      m.points.push_back(to<float>(middle + (side * std::cos(a) + up * std::sin(a)) * size));
    }
  };
  const auto join = [&](int first, int second) {
    for (int k = 0; k < around; ++k) {
      const int a = first + k, b = first + (k + 1) % around, c = second + k, d = second + (k + 1) % around;
      m.triangles.push_back({a, b, d}), m.triangles.push_back({a, d, c});
    }
  };
  const auto pole = [&](const Vec3d& at, int first, bool start) {
    const int top = int(m.points.size());
    m.points.push_back(to<float>(at));
    for (int k = 0; k < around; ++k) {
      const int a = first + k, b = first + (k + 1) % around;
      if (start)
        m.triangles.push_back({top, b, a});
      else
        m.triangles.push_back({top, a, b});
    }
  };
  if (!curve.closed())
    for (int k = 1; k < cap; ++k) {
      const double a = std::numbers::pi / 2 * k / cap;
      ring(line.front() - way_at(0) * (first * std::cos(a)), way_at(0), first * grown * std::sin(a));
    }
  for (size_t i = 0; i < n; ++i) ring(line[i], way_at(i), radius * curve.sizes()[i] * grown);
  if (!curve.closed())
    for (int k = cap - 1; k > 0; --k) {
      const double a = std::numbers::pi / 2 * k / cap;
      ring(line.back() + way_at(n - 1) * (last * std::cos(a)), way_at(n - 1), last * grown * std::sin(a));
    }
  const int rings = int(m.points.size()) / around;
  for (int i = 0; i + 1 < rings; ++i) join(i * around, (i + 1) * around);
  if (curve.closed()) {
    // The frame has rotated around the loop: the last ring is joined to the nearest points of the first.
    int shift = 0;
    float least = 1e30f;
    for (int k = 0; k < around; ++k) {
      const Vec3f d = m.points[size_t((rings - 1) * around)] - m.points[size_t(k)];
      if (const float l = dot(d, d); l < least) least = l, shift = k;
    }
    for (int k = 0; k < around; ++k) {
      const int last = (rings - 1) * around, a = last + k, b = last + (k + 1) % around,
                c = (k + shift) % around, d = (k + 1 + shift) % around;
      m.triangles.push_back({a, b, d}), m.triangles.push_back({a, d, c});
    }
  } else {
    pole(line.front() - way_at(0) * first, 0, true);
    pole(line.back() + way_at(n - 1) * last, (rings - 1) * around, false);
  }
  return m;
}

}  // namespace pour
