// A closed surface that stands in the world or moves through it.
#pragma once
#include "shape/level_set.h"

namespace pour {

struct Solid {
  /// One that stands: a level set in the world.
  explicit Solid(LevelSet s) : set(std::move(s)) {}
  /// One that moves: a level set in its own space, which is placed so at both ends of the step.
  Solid(LevelSet s, const Pose& from, const Pose& to) : set(std::move(s)), moves(true), from(from), to(to) {}
  /// All that is outside of a level set.
  static Solid around(LevelSet s) {
    Solid out(std::move(s));
    out.hollow = true;
    return out;
  }

  LevelSet set;
  double friction = 1;        // share of its own speed that liquid beside it is brought to
  double contact_angle = 0;   // of liquid that advances on it, rad; 0: it is not wetted, nor does it repel
  double receding_angle = 0;  // of liquid that draws back, rad; 0 or not less: nothing clings
  double bounce = 0;          // share of its speed that liquid which hits it is thrown back with
  double stickiness = 1;      // 0 to 1: at 0 liquid that wants to leave it does, at 1 suction holds it
  bool hollow = false;        // it is solid where the level set is not; such a one stands
  bool moves = false;
  Pose from, to;

  /// Whether the edge of a drop may stay where it is.
  bool clings() const { return receding_angle > 0 && receding_angle < contact_angle; }

  /// Where it can be at the end of the step, in lattice points of the world: all others are outside of it.
  void reach(double cell_size, Vec3i& first, Vec3i& last) const;
  /// Distances at the end of the step at the points (first + 0..n-1) · cell_size, x fastest; negative inside,
  /// exact near the surface.
  void read(const Vec3i& first, int n, double cell_size, float* out) const;
  double distance(const Vec3d& p) const {
    return moves ? set.distance(to.inverse(p)) * to.scale : hollow ? -set.distance(p) : set.distance(p);
  }
  /// Of what is at p at the end of a step of dt seconds: the chord of its way, m/s.
  Vec3d velocity(const Vec3d& p, double dt) const {
    return moves && dt > 0 ? (p - from * to.inverse(p)) / dt : Vec3d{};
  }
  /// How far its surface moves in the step at most, m.
  double farthest() const;
};

}  // namespace pour
