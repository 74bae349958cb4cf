#include "world/source.h"

#include "shape/svg.h"

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

Vec3d SourceShape::normal(const Vec3d& p, double h) const {
  Vec3d out;
  for (int a = 0; a < 3; ++a) {
    Vec3d step;
    step[a] = h / 2;
    out[a] = to_surface(p + step) - to_surface(p - step);
  }
  return length(out) > 0 ? normalized(out) : Vec3d{};
}

Vec3d Source::color_at(const Vec3d& p) const {
  if (!colors) return color;
  const Vec3d own = colors_pose.inverse(p);
  return to<double>(colors->at(own.x, own.y));
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
