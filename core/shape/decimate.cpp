#include "shape/decimate.h"

#include <meshoptimizer.h>

namespace pour {

namespace {

constexpr float most_off = 0.02f;  // of its size

std::vector<std::array<int, 3>> triples(const std::vector<unsigned>& corners, size_t n) {
  std::vector<std::array<int, 3>> out;
  out.reserve(n / 3);
  for (size_t i = 0; i + 2 < n; i += 3)
    out.push_back({int(corners[i]), int(corners[i + 1]), int(corners[i + 2])});
  return out;
}

/// Which point each corner is; points may count as others at their place.
std::vector<unsigned> corners_of(const Mesh& mesh, const std::vector<int>& place) {
  std::vector<unsigned> out;
  out.reserve(3 * mesh.triangles.size());
  for (const auto& t : mesh.triangles)
    for (const int p : t) out.push_back(unsigned(place.empty() ? p : place[size_t(p)]));
  return out;
}

}  // namespace

std::vector<std::array<int, 3>> fewer_triangles(const Mesh& mesh, size_t triangles) {
  if (mesh.triangles.size() <= triangles) return mesh.triangles;
  // Points at the same place become one, or nothing could be taken away along seams.
  const std::vector<unsigned> corners = corners_of(mesh, same_places(mesh));
  std::vector<unsigned> fewer(corners.size());
  const size_t n = meshopt_simplify(fewer.data(), corners.data(), corners.size(), &mesh.points[0].x,
                                    mesh.points.size(), sizeof(Vec3f), 3 * triangles, most_off, 0u, nullptr);
  return n > 6 * triangles ? roughly(mesh, triangles) : triples(fewer, n);
}

std::vector<std::array<int, 3>> roughly(const Mesh& mesh, size_t triangles) {
  if (mesh.triangles.size() <= triangles) return mesh.triangles;
  const std::vector<unsigned> corners = corners_of(mesh, {});
  std::vector<unsigned> fewer(corners.size());
  return triples(fewer,
                 meshopt_simplifySloppy(fewer.data(), corners.data(), corners.size(), &mesh.points[0].x,
                                        mesh.points.size(), sizeof(Vec3f), 3 * triangles, most_off, nullptr));
}

std::vector<std::array<int, 3>> larger_triangles(const Mesh& mesh, double off) {
  if (mesh.triangles.empty()) return {};
  const std::vector<unsigned> corners = corners_of(mesh, {});
  std::vector<unsigned> fewer(corners.size());
  const float scale = meshopt_simplifyScale(&mesh.points[0].x, mesh.points.size(), sizeof(Vec3f));
  return triples(fewer,
                 meshopt_simplify(fewer.data(), corners.data(), corners.size(), &mesh.points[0].x,
                                  mesh.points.size(), sizeof(Vec3f), 0, float(off) / scale, 0u, nullptr));
}

}  // namespace pour
