#include "picture/focus.h"

#include <cmath>

namespace pour {

std::optional<Seen> seen_at(const std::vector<PicturePiece>& pieces, const View& view, float x, float y,
                            const std::string& left_out) {
  double nearest = 1e30;
  Seen seen;
  const Vec3d eye = to<double>(view.eye), way = to<double>(view.ray(x, y));
  for (const PicturePiece& piece : pieces) {
    if (!left_out.empty() && piece.id == left_out) continue;
    const Mesh& mesh = piece.surface->mesh;
    const Vec3d from = piece.pose.inverse(eye), d = piece.pose.turn.inverse(way);
    for (const auto& t : mesh.triangles) {
      const Vec3d a = to<double>(mesh.points[size_t(t[0])]);
      const Vec3d ab = to<double>(mesh.points[size_t(t[1])]) - a,
                  ac = to<double>(mesh.points[size_t(t[2])]) - a;
      const Vec3d p = cross(d, ac), s = from - a, q = cross(s, ab);
      const double det = dot(ab, p), u = dot(s, p) / det, v = dot(d, q) / det, far = dot(ac, q) / det;
      if (!(std::abs(det) > 1e-20 && u >= 0 && v >= 0 && u + v <= 1 && far > 1e-4 && far < nearest)) continue;
      nearest = far, seen.id = piece.id;
      const Vec3d out = normalized(piece.pose.turn * cross(ab, ac));
      seen.out = dot(out, way) > 0 ? out * -1 : out;
    }
  }
  if (nearest >= 1e30) return std::nullopt;
  seen.distance = nearest * dot(way, to<double>(view.forward)), seen.at = eye + way * nearest;
  return seen;
}

}  // namespace pour
