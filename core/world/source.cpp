#include "world/source.h"

#include <cmath>

#include "base/noise.h"

namespace pour {

SourceShape SourceShape::ball(const Vec3d& center, double radius) {
  SourceShape s;
  s.center = center, s.radius = radius, s.area_by_volume = 3 / radius;
  s.bounds.add(center);
  s.bounds.grow(radius);
  s.own = s.bounds;
  return s;
}

SourceShape SourceShape::nowhere(const Box& box, double away) {
  SourceShape s;
  s.bounds = s.own = box, s.away = away;
  return s;
}

SourceShape SourceShape::surface(LevelSet set, const Box& bounds, double area_by_volume, const Pose& pose) {
  SourceShape s;
  s.set = std::move(set), s.own = bounds, s.area_by_volume = area_by_volume;
  return s.placed(pose);
}

SourceShape SourceShape::shell_of(double thickness) const {
  SourceShape s = *this;
  if (thickness > 0) s.shell = thickness, s.area_by_volume = std::max(area_by_volume, 1 / thickness);
  return s;
}

SourceShape SourceShape::along(std::shared_ptr<const NearSurface> surface) const {
  SourceShape s = *this;
  s.sheet = std::move(surface);
  return s;
}

Vec3d SourceShape::normal(const Vec3d& p, double h) const {
  if (sheet) {
    const double far = length(own.size());
    const auto place = sheet->nearest(to<float>(pose.inverse(p)), float(far));
    return place ? normalized(pose.turn * to<double>(place->out)) : Vec3d{};
  }
  Vec3d out;
  for (int a = 0; a < 3; ++a) {
    Vec3d step;
    step[a] = h / 2;
    out[a] = to_surface(p + step) - to_surface(p - step);
  }
  return length(out) > 0 ? normalized(out) : Vec3d{};
}

Vec3d Palette::at(const Vec3d& own) const {
  const auto between = [](const Vec3d& a, const Vec3d& b, double t) { return a + (b - a) * t; };
  // Noise is within ±0.1 for a third of all places; edges of patches are this wide in it.
  constexpr double third = 0.1, edge = 0.03;
  constexpr uint32_t seed = 211;
  switch (by) {
    case By::piece:
      if (of_piece) return to<double>(of_piece->at(own));
      break;
    case By::patches: {
      const double n = double(flow_noise(to<float>(own / patch_size), 0, seed).value);
      const auto over = [&](double limit) { return std::clamp((n - limit) / edge + 0.5, 0.0, 1.0); };
      return between(between(colors[1], colors[0], over(-third)), colors[2], over(third));
    }
    case By::ramp:
      return between(colors[0], colors[1],
                     std::clamp(dot(own - low, way) / std::max(dot(way, way), 1e-18), 0.0, 1.0));
    case By::one:
      break;
  }
  return colors[0];
}

Vec3d Source::color_at(const Vec3d& p) const {
  return palette.by == Palette::By::one ? palette.colors[0] : palette.at(own.inverse(p));
}

Vec3d turned_off(const Vec3d& v, double off, double around) {
  const double size = length(v);
  if (off == 0 || size == 0) return v;
  const Vec3d d = v / size, side = std::abs(d.y) < 0.9 ? Vec3d{0, 1, 0} : Vec3d{1, 0, 0};
  const Vec3d x = normalized(cross(side, d)), y = cross(d, x);
  return (d * std::cos(off) + (x * std::cos(around) + y * std::sin(around)) * std::sin(off)) * size;
}

Vec3d Source::velocity_at(const Vec3d& p, double cell_size, double time) const {
  Vec3d v = velocity;
  if (shape.faces() && outwards != 0) v += shape.normal(p, cell_size) * outwards;
  if (spread > 0) {
    // Two noises are as far off as this nearly everywhere.
    constexpr double most = 0.5;
    const Vec3f q = to<float>(own.inverse(p) / patch_size);
    const float turn = float(time * patch_rate);
    const double a = double(flow_noise(q, turn, 311 + patch_seed).value),
                 b = double(flow_noise(q, turn, 733 + patch_seed).value);
    v = turned_off(v, spread * std::min(1.0, std::hypot(a, b) / most), std::atan2(b, a));
  }
  return v + motion;
}

double Source::patch(const Vec3d& p, double time) const {
  if (patchiness <= 0) return 1;
  const Vec3f q = to<float>(own.inverse(p) / patch_size);
  const double n = 0.5 + 1.2 * double(flow_noise(q, float(time * patch_rate), 98 + patch_seed).value);
  return 1 - patchiness * (1 - std::clamp(n, 0.0, 1.0));
}

SourceShape SourceShape::placed(const Pose& p) const {
  SourceShape s = *this;
  s.area_by_volume = area_by_volume / p.scale;
  if (set.empty()) {
    s = ball(p * center, radius * p.scale);
    return s;
  }
  s.pose = p * pose;
  s.bounds = {};
  for (int i = 0; i < 8; ++i)
    s.bounds.add(s.pose * Vec3d{i & 1 ? own.high.x : own.low.x, i & 2 ? own.high.y : own.low.y,
                                i & 4 ? own.high.z : own.low.z});
  return s;
}

}  // namespace pour
