#include "picture/coarser.h"

#include "base/shelf.h"
#include "shape/decimate.h"

namespace pour {
namespace {

struct Wanted {
  std::shared_ptr<const Surface> of;
  size_t triangles;
  Coarser how;
  bool operator==(const Wanted&) const = default;
};

Surface made(const Wanted& w) {
  const Mesh& mesh = w.of->mesh;
  Mesh out;
  std::vector<Vec3f> colors;
  std::vector<int> number(mesh.points.size(), -1);
  for (std::array<int, 3> t :
       w.how == Coarser::well ? fewer_triangles(mesh, w.triangles) : roughly(mesh, w.triangles)) {
    for (int& p : t) {
      int& to = number[size_t(p)];
      if (to < 0) {
        to = int(out.points.size());
        out.points.push_back(mesh.points[size_t(p)]);
        if (!w.of->colors.empty()) colors.push_back(w.of->colors[size_t(p)]);
      }
      p = to;
    }
    out.triangles.push_back(t);
  }
  return Surface(std::move(out), std::move(colors));
}

}  // namespace

std::shared_ptr<const Surface> coarser(const std::shared_ptr<const Surface>& fine, size_t triangles,
                                       Coarser how) {
  static Shelf<Wanted, Surface> shelf(24);
  if (fine->mesh.triangles.size() <= triangles) return fine;
  const Wanted wanted{fine, triangles, how};
  return shelf.get(wanted, [&] { return made(wanted); });
}

std::shared_ptr<const std::vector<PicturePiece>> coarser(const std::vector<PicturePiece>& pieces,
                                                         size_t triangles, Coarser how) {
  auto out = std::make_shared<std::vector<PicturePiece>>(pieces);
  bool any = false;
  for (PicturePiece& p : *out) {
    const auto before = p.surface;
    p.surface = coarser(before, triangles, how);
    any = any || p.surface != before;
  }
  return any ? out : nullptr;
}

}  // namespace pour
