#include "shape/pose.h"

#include <cmath>
#include <numbers>

#include "base/error.h"
#include "base/text.h"

namespace pour {
namespace {

/// x along the way, y as far up as that allows.
Rotation along(const Vec3d& way) {
  Vec3d side = cross(way, {0, 1, 0});
  side = length(side) > 1e-6 ? normalized(side) : Vec3d{0, 0, 1};
  const Vec3d up = cross(side, way);
  Rotation r;  // its columns are way, up, side
  for (int a = 0; a < 3; ++a) r.row[a] = {way[a], up[a], side[a]};
  return r;
}

Fault circle(const Piece& piece) {
  return shot_fault(filled("Piece “{name}”", {{"name", piece.name}}), "moves with itself, by way of others.",
                    "Let one of them belong to none, or take away its path.");
}

Pose pose_within(const Shot& shot, const Piece& piece, size_t depth) {
  if (depth > shot.pieces.size()) throw circle(piece);
  Pose pose{Rotation::euler(piece.turn), piece.position, piece.scale};
  if (!piece.path.id.empty()) {
    const Piece* path = shot.piece(piece.path.id);
    const Tube* tube = path ? std::get_if<Tube>(&path->shape) : nullptr;
    if (!tube)
      throw shot_fault(filled("Piece “{name}”", {{"name", piece.name}}),
                       path ? filled("goes along “{name}”, which is no tube.", {{"name", path->name}})
                            : filled("goes along “{id}”, which is not in the set.", {{"id", piece.path.id}}),
                       "Choose a tube for its path, or none.");
    const Curve curve = tube->curve();
    const Pose on_path = pose_within(shot, *path, depth + 1);
    Pose at{{}, on_path * curve.at(piece.along), 1};
    if (piece.turns_along) at.turn = along(normalized(on_path.turn * curve.tangent(piece.along)));
    return at * pose;  // a path brings the parent of its own
  }
  if (piece.parent.id.empty()) return pose;
  const Piece* parent = shot.piece(piece.parent.id);
  if (!parent)
    throw shot_fault(filled("Piece “{name}”", {{"name", piece.name}}),
                     filled("belongs to “{id}”, which is not in the set.", {{"id", piece.parent.id}}),
                     "Choose another piece, or none.");
  return pose_within(shot, *parent, depth + 1) * pose;
}

}  // namespace

Pose pose_of(const Shot& shot, const Piece& piece) { return pose_within(shot, piece, 0); }

Vec3d angles_of(const Rotation& r, const Vec3d& near) {
  constexpr double half = std::numbers::pi;
  const double sy = std::clamp(-r.row[2].x, -1.0, 1.0), y = std::asin(sy);
  // Upright the first and the last axis are one.
  const bool upright = std::abs(sy) > 1 - 1e-9;
  const Vec3d one = upright
                        ? Vec3d{std::atan2(-r.row[1].z, r.row[1].y), y, 0}
                        : Vec3d{std::atan2(r.row[2].y, r.row[2].z), y, std::atan2(r.row[1].x, r.row[0].x)};
  const auto moved_near = [&](Vec3d a) {
    for (int k = 0; k < 3; ++k) a[k] = near[k] + std::remainder(a[k] - near[k], 2 * half);
    return a;
  };
  const Vec3d first = moved_near(one), second = moved_near({one.x + half, half - one.y, one.z + half});
  return upright || length(first - near) <= length(second - near) ? first : second;
}

void refuse_circles(const Shot& shot) {
  for (const Piece& first : shot.pieces) {
    const Piece* p = &first;
    for (size_t steps = 0; p; ++steps) {
      if (steps > shot.pieces.size()) throw circle(first);
      const std::string& next = p->path.id.empty() ? p->parent.id : p->path.id;
      p = next.empty() ? nullptr : shot.piece(next);
    }
  }
}

}  // namespace pour
