// Which pieces of a shot move, and the spaces in which those that do stand still.
#pragma once
#include <vector>

#include "shape/placed.h"
#include "shot/animate.h"

namespace pour {

/// A piece that moves has a space of its own, as large as it is at frame 1; that of one that stands is the
/// world.
class Motion {
 public:
  /// Throws what pose_of() throws for pieces that move.
  explicit Motion(const Shot&);
  const Clock& clock() const { return clock_; }
  /// The shot at its first frame.
  const Shot& first() const { return first_; }
  Shot at(double time) const { return shot_at(shot_, clock_, time); }
  bool any() const { return any_; }
  bool moves(size_t piece) const { return moves_[piece]; }
  /// Of the space of a piece in the world, at a time at which the shot is `now`.
  Pose pose(size_t piece, const Shot& now) const;
  /// The same of all pieces.
  std::vector<Pose> poses(const Shot& now) const;
  /// What stands in the world at frame 1, in the space of a piece.
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
