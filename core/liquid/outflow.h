// Outflow of liquid from a flat mouth.
#pragma once
#include <algorithm>
#include <cmath>

#include "world/source.h"

namespace pour {

struct Outflow {
  double rate = 0;   // m³/s; 0: none
  Vec3d way;         // a unit vector
  double speed = 0;  // m/s along it, relative to the source
  double width = 1;  // filled share of the mouth's width, given by rate and speed
};

/// Outflow of a source with a mouth at the start of a step. If the rate does not fit through the mouth at its
/// speed, the speed is raised.
inline Outflow outflow_of(const Source& source) {
  const Mouth& mouth = *source.mouth[0];
  Outflow o;
  o.speed = length(source.velocity);
  o.way = o.speed > 0 ? source.velocity / o.speed : mouth.normal();
  const double area = mouth.area(), rate = source.rate > 0 ? source.rate : area * o.speed;
  if (!(area > 0) || !(rate > 0)) return o;
  o.rate = rate, o.speed = std::max(o.speed, rate / area), o.width = std::sqrt(rate / (area * o.speed));
  return o;
}

/// Whether a point is in the filled part of a mouth, within a distance before or behind it, m.
inline bool is_in_mouth(const Mouth& m, const Outflow& o, const Vec3d& p, double beside) {
  const Vec3d off = p - m.middle;
  const double far = dot(off, o.way);
  if (std::abs(far) > beside) return false;
  const Vec3d flat = off - o.way * far;
  const double a = dot(flat, m.along) / dot(m.along, m.along) / o.width,
               b = dot(flat, m.across) / dot(m.across, m.across) / o.width;
  return m.round ? a * a + b * b <= 1 : std::abs(a) <= 1 && std::abs(b) <= 1;
}

}  // namespace pour
