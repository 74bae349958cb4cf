// Moving pieces of a shot, and their frames of reference.
#pragma once
#include <vector>

#include "shape/placed.h"
#include "shot/animate.h"

namespace pour {

/// A moving piece has a frame of reference of its own, with the scale of frame 1. A piece at rest uses the
/// world's.
class Motion {
 public:
  /// Throws as pose_of().
  explicit Motion(const Shot&);
  const Clock& clock() const { return clock_; }
  /// The shot at frame 1.
  const Shot& first() const { return first_; }
  Shot at(double time) const { return shot_at(shot_, clock_, time); }
  bool any() const { return any_; }
  bool moves(size_t piece) const { return moves_[piece]; }
  /// Pose of a piece's frame of reference in the world; `now` is the shot at that time.
  Pose pose(size_t piece, const Shot& now) const;
  /// Poses of all pieces.
  std::vector<Pose> poses(const Shot& now) const;
  /// Transforms a pose in the world at frame 1 into a piece's frame of reference.
  Mesh own(size_t piece, Mesh) const;
  Vec3d own(size_t piece, const Vec3d&) const;

 private:
  Shot shot_;
  Clock clock_;
  Shot first_;
  std::vector<char> moves_;
  std::vector<Pose> start_;
  bool any_ = false;
};

}  // namespace pour
