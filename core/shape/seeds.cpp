#include "shape/seeds.h"

#include "shape/decimate.h"
#include "shape/level_set.h"

namespace pour {

void find_seeds(Body& body) {
  const Vec3d size = body.mesh.bounds().size(), middle = body.mesh.bounds().center();
  const double longest = std::max({size.x, size.y, size.z});
  if (!(longest > 0) || !(body.mesh.area() > 0)) return;
  const double thick = 2 * std::abs(body.mesh.volume()) / body.mesh.area();  // exact for a thin wall
  // Roomy places are the same in a rougher shape, which takes far less time.
  constexpr size_t rough = 50000;  // triangles
  const Mesh mesh{body.mesh.points, fewer_triangles(body.mesh, rough)};
  const LevelSet set(mesh, std::max(longest / 256, std::min(longest / 48, thick / 3)));
  struct Inside {
    Vec3d place;
    double depth;
  };
  std::vector<Inside> all;
  double deepest = 0;
  const Vec3i first = set.first(), count = set.count();
  float d[512];
  for (int z = 0; z < count.z; z += 8)
    for (int y = 0; y < count.y; y += 8)
      for (int x = 0; x < count.x; x += 8) {
        const Vec3i corner = first + Vec3i{x, y, z};
        set.read(corner, 8, d);
        for (int i = 0; i < 512; ++i) {
          if (d[i] >= 0) continue;
          all.push_back(
              {to<double>(corner + Vec3i{i & 7, i >> 3 & 7, i >> 6}) * set.cell_size(), -double(d[i])});
          deepest = std::max(deepest, all.back().depth);
        }
      }
  if (all.empty()) return;
  body.stroke = std::min(body.stroke, 2 * deepest);
  // Of the roomy places the outermost to each side, and the one next to the middle.
  const auto best = [&](SeedPlace place, const auto& cost) {
    const Inside* found = nullptr;
    for (const Inside& i : all)
      if (i.depth >= 0.7 * deepest && (!found || cost(i.place) < cost(found->place))) found = &i;
    body.seeds[int(place)] = {{found->place, found->depth}};
  };
  best(SeedPlace::low, [](const Vec3d& p) { return p.y; });
  best(SeedPlace::centre, [&](const Vec3d& p) { return length(p - middle); });
  best(SeedPlace::left, [](const Vec3d& p) { return p.x; });
  best(SeedPlace::right, [](const Vec3d& p) { return -p.x; });
  best(SeedPlace::top, [](const Vec3d& p) { return -p.y; });
  best(SeedPlace::back, [](const Vec3d& p) { return p.z; });
}

}  // namespace pour
