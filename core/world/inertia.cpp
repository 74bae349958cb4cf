#include "world/inertia.h"

#include <cmath>

namespace pour {

Inertia inertia_of(const Room& room, double gravity) {
  Inertia out;
  const Pose& pose = room.from;
  out.pull = pose.turn.inverse(Vec3d{0, -gravity, 0} - room.acceleration);
  out.spin = room.spin;
  const Vec3d &w = room.spin, &e = room.spin_rate;
  const Rotation euler{{{0, e.z, -e.y}, {-e.z, 0, e.x}, {e.y, -e.x, 0}}};  // -(dω/dt) × p
  out.push_by_place = euler;
  for (int a = 0; a < 3; ++a)
    for (int b = 0; b < 3; ++b)
      out.pull_by_place.row[a][b] = euler.row[a][b] - w[a] * w[b] + (a == b ? dot(w, w) : 0);
  return out;
}

double most_pull(const Room& r, double gravity) {
  if (!r.moves) return std::abs(gravity);
  const double far =
      length(max(to<double>(r.inside.first()) * -1, to<double>(r.inside.first() + r.inside.count()))) *
      r.inside.cell_size();
  return std::abs(gravity) + length(r.acceleration) + (dot(r.spin, r.spin) + length(r.spin_rate)) * far;
}

}  // namespace pour
