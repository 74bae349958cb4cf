#include "world/solid.h"

#include <cmath>

namespace pour {
namespace {

/// The corners of the box that holds the inside, in the solid's own space.
template <class F>
void each_corner(const LevelSet& set, const F& f) {
  const Vec3d low = to<double>(set.first()) * set.cell_size(),
              high = to<double>(set.first() + set.count()) * set.cell_size();
  for (int i = 0; i < 8; ++i)
    f(Vec3d{i & 1 ? high.x : low.x, i & 2 ? high.y : low.y, i & 4 ? high.z : low.z});
}

}  // namespace

void Solid::reach(double h, Vec3i& first, Vec3i& last) const {
  if (hollow) {
    constexpr int far = 1 << 28;
    first = {-far, -far, -far}, last = {far, far, far};
    return;
  }
  if (!moves) {
    first = set.first(), last = set.first() + set.count();
    return;
  }
  Box box;
  each_corner(set, [&](const Vec3d& p) { box.add(to * p); });
  for (int a = 0; a < 3; ++a)
    first[a] = int(std::floor(box.low[a] / h)), last[a] = int(std::ceil(box.high[a] / h));
}

void Solid::read(const Vec3i& first, int n, double h, float* out) const {
  if (!moves) {
    set.read(first, n, out);
    for (int i = 0; hollow && i < n * n * n; ++i) out[i] = -out[i];
    return;
  }
  const Pose back = to.inverse();
  const Vec3d step = back.turn * Vec3d{h, 0, 0} * back.scale;
  for (int z = 0; z < n; ++z)
    for (int y = 0; y < n; ++y) {
      Vec3d p = back * (Vec3d{double(first.x), double(first.y + y), double(first.z + z)} * h);
      for (int x = 0; x < n; ++x, p += step) *out++ = float(set.distance(p) * to.scale);
    }
}

double Solid::farthest() const {
  double most = 0;
  if (moves) each_corner(set, [&](const Vec3d& p) { most = std::max(most, length(to * p - from * p)); });
  return most;
}

}  // namespace pour
