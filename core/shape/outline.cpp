#include "shape/outline.h"

#include <cmath>
#include <map>

namespace pour {

std::vector<OutlineEdge> outline_of(const Mesh& mesh, float crease) {
  const std::vector<int> place = same_places(mesh);
  std::map<std::pair<int, int>, Vec3f> open;  // edges of which one side is known
  std::vector<OutlineEdge> out;
  for (const auto& t : mesh.triangles) {
    const Vec3f a = mesh.points[size_t(t[0])], b = mesh.points[size_t(t[1])], c = mesh.points[size_t(t[2])];
    const Vec3f normal = normalized(cross(b - a, c - a));
    if (normal == Vec3f{}) continue;
    for (size_t k = 0; k < 3; ++k) {
      const int from = place[size_t(t[k])], to = place[size_t(t[(k + 1) % 3])];
      const auto other = open.find({to, from});
      if (other == open.end()) {
        open[{from, to}] = normal;
        continue;
      }
      const float turn = std::acos(std::clamp(dot(normal, other->second), -1.f, 1.f));
      if (turn > 1e-3f)
        out.push_back(
            {mesh.points[size_t(from)], mesh.points[size_t(to)], {normal, other->second}, turn > crease});
      open.erase(other);
    }
  }
  return out;
}

}  // namespace pour
