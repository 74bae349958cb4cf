#include "world/near_solids.h"

namespace pour {

NearSolids::NearSolids(const std::vector<Solid>& solids, double h, const Vec3i& node) {
  for (const Solid& s : solids) {
    Vec3i first, last;
    s.reach(h, first, last);
    bool reaches = true;
    for (int a = 0; a < 3; ++a) reaches = reaches && node[a] <= last[a] + 1 && node[a] + 9 >= first[a];
    if (reaches) near_.push_back({&s, s.to.inverse()});
  }
}

double NearSolids::distance(const One& n, const Vec3d& p) const {
  return n.solid->moves ? n.solid->set.distance(n.back * p) * n.solid->to.scale : n.solid->distance(p);
}

double NearSolids::distance(const Vec3d& p, double most) const {
  for (const One& n : near_) most = std::min(most, distance(n, p));
  return most;
}

const Solid* NearSolids::nearest(const Vec3d& p, double reach) const {
  const Solid* nearest = nullptr;
  for (const One& n : near_)
    if (const double d = distance(n, p); d < reach) reach = d, nearest = n.solid;
  return nearest;
}

Vec3d NearSolids::velocity(const Vec3d& p, double reach, double dt) const {
  const Solid* solid = nearest(p, reach);
  return solid ? solid->velocity(p, dt) : Vec3d{};
}

}  // namespace pour
