#include "picture/coarser.h"

#include <meshoptimizer.h>

namespace pour {

std::shared_ptr<const Surface> coarser(const std::shared_ptr<const Surface>& fine, size_t triangles) {
  constexpr float most_off = 0.02f;  // of its size
  const Mesh& mesh = fine->mesh;
  if (mesh.triangles.size() <= triangles) return fine;
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
  Mesh out;
  std::vector<Vec3f> colors;
  std::vector<int> number(mesh.points.size(), -1);
  for (size_t i = 0; i + 2 < n; i += 3) {
    std::array<int, 3> t;
    for (size_t k = 0; k < 3; ++k) {
      int& to = number[fewer[i + k]];
      if (to < 0) {
        to = int(out.points.size());
        out.points.push_back(mesh.points[fewer[i + k]]);
        if (!fine->colors.empty()) colors.push_back(fine->colors[fewer[i + k]]);
      }
      t[k] = to;
    }
    out.triangles.push_back(t);
  }
  return std::make_shared<const Surface>(std::move(out), std::move(colors));
}

}  // namespace pour
