#include "shape/normals.h"

#include <algorithm>
#include <cmath>

namespace pour {
namespace {

void add_mouth(const Mouth& mouth, std::vector<NormalAt>& out) {
  const Vec3f normal = to<float>(mouth.normal());
  for (const auto& [u, v] : {std::pair{0.0, 0.0}, {0.6, 0.0}, {-0.6, 0.0}, {0.0, 0.6}, {0.0, -0.6}})
    out.push_back({to<float>(mouth.middle + mouth.along * u + mouth.across * v), normal});
}

}  // namespace

std::vector<NormalAt> normals_of(const std::vector<Body>& bodies, size_t about) {
  std::vector<NormalAt> out;
  double all = 0;
  const auto surface = [](const Body& b) -> const Mesh& { return b.sheet ? *b.sheet : b.mesh; };
  for (const Body& b : bodies)
    if (!b.mouth) all += surface(b).area();
  const double each = all / double(about);
  double passed = each / 2;  // of area since the last one
  for (const Body& b : bodies) {
    if (b.mouth) {
      add_mouth(*b.mouth, out);
      continue;
    }
    const Mesh& mesh = surface(b);
    for (const auto& t : mesh.triangles) {
      const Vec3f a = mesh.points[size_t(t[0])], ab = mesh.points[size_t(t[1])] - a,
                  ac = mesh.points[size_t(t[2])] - a, across = cross(ab, ac);
      const float twice = length(across);
      if (!(twice > 0)) continue;
      const double before = passed;
      passed += double(twice) / 2;
      // Large triangles have several, along the line from a corner to the middle of the side across.
      for (int n = 1; passed >= each; passed -= each, ++n) {
        const float share = float(std::min(1.0, (n * each - before) / (double(twice) / 2)));
        out.push_back({a + (ab + ac) * (0.5f * std::sqrt(share)), across / twice});
        if (out.size() > 4 * about) return out;
      }
    }
  }
  return out;
}

}  // namespace pour
