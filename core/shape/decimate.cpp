#include "shape/decimate.h"

#include <meshoptimizer.h>

namespace pour {

std::vector<std::array<int, 3>> fewer_triangles(const Mesh& mesh, size_t triangles) {
  constexpr float most_off = 0.02f;  // of its size
  if (mesh.triangles.size() <= triangles) return mesh.triangles;
  // Points at the same place become one, or nothing could be taken away along seams.
  const std::vector<int> place = same_places(mesh);
  std::vector<unsigned> corners;
  corners.reserve(3 * mesh.triangles.size());
  for (const auto& t : mesh.triangles)
    for (const int p : t) corners.push_back(unsigned(place[size_t(p)]));
  std::vector<unsigned> fewer(corners.size());
  const auto simplify = [&](auto&& method) {
    return method(fewer.data(), corners.data(), corners.size(), &mesh.points[0].x, mesh.points.size(),
                  sizeof(Vec3f), 3 * triangles, most_off);
  };
  size_t n = simplify([](auto... a) { return meshopt_simplify(a..., 0u, nullptr); });
  if (n > 6 * triangles) n = simplify([](auto... a) { return meshopt_simplifySloppy(a..., nullptr); });
  std::vector<std::array<int, 3>> out;
  for (size_t i = 0; i + 2 < n; i += 3) out.push_back({int(fewer[i]), int(fewer[i + 1]), int(fewer[i + 2])});
  return out;
}

std::vector<std::array<int, 3>> larger_triangles(const Mesh& mesh, double off) {
  if (mesh.triangles.empty()) return {};
  std::vector<unsigned> corners;
  corners.reserve(3 * mesh.triangles.size());
  for (const auto& t : mesh.triangles)
    for (const int p : t) corners.push_back(unsigned(p));
  std::vector<unsigned> fewer(corners.size());
  const float scale = meshopt_simplifyScale(&mesh.points[0].x, mesh.points.size(), sizeof(Vec3f));
  const size_t n = meshopt_simplify(fewer.data(), corners.data(), corners.size(), &mesh.points[0].x,
                                    mesh.points.size(), sizeof(Vec3f), 0, float(off) / scale, 0u, nullptr);
  std::vector<std::array<int, 3>> out;
  for (size_t i = 0; i + 2 < n; i += 3) out.push_back({int(fewer[i]), int(fewer[i + 1]), int(fewer[i + 2])});
  return out;
}

}  // namespace pour
