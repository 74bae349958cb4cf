#include "world/target.h"

#include <algorithm>
#include <cmath>

namespace pour {
namespace {

constexpr int across = 72;  // lattice points along the longest side of a part

/// The distance to a box, m; 0 inside.
v8 distance_to(const Box& box, const Vec3<v8>& at) {
  v8 sum{};
  for (int a = 0; a < 3; ++a) {
    const v8 d = vmax(vmax(float(box.low[a]) - at[a], at[a] - float(box.high[a])), splat(0));
    sum += d * d;
  }
  return vsqrt(sum);
}

bool any_of_eight(v8i v) {
  for (int i = 0; i < 8; ++i)
    if (v[i]) return true;
  return false;
}

}  // namespace

Target::Target(std::vector<Mesh> meshes, const Vec3d& along) : along_(along) {
  std::erase_if(meshes, [](const Mesh& m) { return m.triangles.empty(); });
  const auto place = [&](const Mesh& m) { return dot(m.bounds().center(), along); };
  std::stable_sort(meshes.begin(), meshes.end(),
                   [&](const Mesh& a, const Mesh& b) { return place(a) < place(b); });
  while (meshes.size() > size_t(most_parts)) meshes[most_parts - 1].append(meshes.back()), meshes.pop_back();
  double sum = 0;
  for (const Mesh& m : meshes) {
    const Box box = m.bounds();
    parts_.push_back({Distances(m, length(box.size()) / 8, across), box});
    volumes_.push_back(sum += std::abs(m.volume()));
  }
  for (double& v : volumes_) v = sum > 0 ? v / sum : 1;
}

Distances::There Target::operator()(const Vec3<v8>& at, v8i part) const {
  Distances::There out{splat(1e30f), {}};
  for (size_t i = 0; i < parts_.size(); ++i) {
    const v8i may = (part < 0) | (part == int(i));
    if (!any_of_eight(may & v8i(distance_to(parts_[i].box, at) < out.distance))) continue;
    const Distances::There there = parts_[i].distances(at);
    const v8i nearer = may & v8i(there.distance < out.distance);
    out.distance = choose(nearer, there.distance, out.distance);
    for (int a = 0; a < 3; ++a) out.away[a] = choose(nearer, there.away[a], out.away[a]);
  }
  return out;
}

}  // namespace pour
