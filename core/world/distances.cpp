#include "world/distances.h"

#include <algorithm>
#include <cmath>

#include "base/lattice.h"
#include "base/parallel.h"
#include "shape/near_surface.h"

namespace pour {

Distances::Distances(const Mesh& mesh, double reach, int most) {
  Box box = mesh.bounds();
  if (box.empty()) box.add(Vec3d{});
  box.grow(std::max(reach, 1e-4));
  const Vec3d size = box.size();
  cell_ = float(std::max({size.x, size.y, size.z}) / most);
  low_ = to<float>(box.low);
  for (int a = 0; a < 3; ++a) count_[a] = int(std::ceil(size[a] / double(cell_))) + 1;
  values_.resize(size_t(count_.x) * size_t(count_.y) * size_t(count_.z));
  const NearSurface surface(mesh);
  const float far = float(2 * length(size));
  parallel_for(size_t(count_.y) * size_t(count_.z), [&](size_t row) {
    const int y = int(row) % count_.y, z = int(row) / count_.y;
    for (int x = 0; x < count_.x; ++x) {
      const auto near = surface.nearest(low_ + Vec3f{float(x), float(y), float(z)} * cell_, far);
      values_[row * size_t(count_.x) + size_t(x)] = near ? near->distance : far;
    }
  });
}

Distances::There Distances::operator()(const Vec3<v8>& at) const {
  Vec3<v8> p, beyond{};
  v8i index{};
  Vec3<v8> share;
  for (int a = 2; a >= 0; --a) {
    const v8 q = (at[a] - low_[a]) / cell_;
    p[a] = vmin(vmax(q, splat(0)), splat(float(count_[a] - 1) - 1e-3f));
    beyond[a] = (q - p[a]) * cell_;
    const v8 base = vfloor(p[a]);
    share[a] = p[a] - base;
    index = index * count_[a] + __builtin_convertvector(base, v8i);
  }
  const int up[3] = {1, count_.x, count_.x * count_.y};
  const Between near = between(values_, index, up, share);
  There out{near.value, near.slope};
  // Beyond the border the way back to it comes on top.
  const v8 way = vsqrt(dot(beyond, beyond));
  out.distance += way;
  const v8i outside = way > splat(0);
  for (int a = 0; a < 3; ++a)
    out.away[a] =
        choose(outside, beyond[a] + out.away[a] / cell_ * vmax(out.distance - way, splat(0)), out.away[a]);
  const v8 norm = vsqrt(dot(out.away, out.away));
  for (int a = 0; a < 3; ++a) out.away[a] /= vmax(norm, splat(1e-20f));
  return out;
}

}  // namespace pour
