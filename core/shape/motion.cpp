#include "shape/motion.h"

namespace pour {

Motion::Motion(const Shot& shot) : shot_(shot), clock_(shot), first_(shot_at(shot, clock_, 0)) {
  for (size_t i = 0; i < shot.pieces.size(); ++i) {
    moves_.push_back(pour::moves(shot, shot.pieces[i]));
    start_.push_back(moves_[i] ? pose_of(first_, first_.pieces[i]) : Pose());
    any_ = any_ || moves_[i];
  }
}

Pose Motion::pose(size_t piece, const Shot& now) const {
  if (!moves_[piece]) return {};
  Pose p = pose_of(now, now.pieces[piece]);
  p.scale /= start_[piece].scale;
  return p;
}

std::vector<Pose> Motion::poses(const Shot& now) const {
  std::vector<Pose> out;
  for (size_t i = 0; i < moves_.size(); ++i) out.push_back(pose(i, now));
  return out;
}

Vec3d Motion::own(size_t piece, const Vec3d& p) const {
  if (!moves_[piece]) return p;
  return start_[piece].turn.inverse(p - start_[piece].position);
}

Mesh Motion::own(size_t piece, Mesh mesh) const {
  if (!moves_[piece]) return mesh;
  Pose start = start_[piece];
  start.scale = 1;
  mesh.place(start.inverse());
  return mesh;
}

}  // namespace pour
