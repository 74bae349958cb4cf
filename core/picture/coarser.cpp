#include "picture/coarser.h"

#include "shape/decimate.h"

namespace pour {

std::shared_ptr<const Surface> coarser(const std::shared_ptr<const Surface>& fine, size_t triangles) {
  const Mesh& mesh = fine->mesh;
  if (mesh.triangles.size() <= triangles) return fine;
  Mesh out;
  std::vector<Vec3f> colors;
  std::vector<int> number(mesh.points.size(), -1);
  for (std::array<int, 3> t : fewer_triangles(mesh, triangles)) {
    for (int& p : t) {
      int& to = number[size_t(p)];
      if (to < 0) {
        to = int(out.points.size());
        out.points.push_back(mesh.points[size_t(p)]);
        if (!fine->colors.empty()) colors.push_back(fine->colors[size_t(p)]);
      }
      p = to;
    }
    out.triangles.push_back(t);
  }
  return std::make_shared<const Surface>(std::move(out), std::move(colors));
}

}  // namespace pour
