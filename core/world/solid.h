// A closed surface, at rest or moving.
#pragma once
#include "shape/level_set.h"

namespace pour {

struct Solid {
  /// A solid at rest: a level set in the world.
  explicit Solid(LevelSet s) : set(std::move(s)) {}
  /// A moving solid: a level set in its own frame of reference, with its pose at both ends of the step.
  Solid(LevelSet s, const Pose& from, const Pose& to) : set(std::move(s)), moves(true), from(from), to(to) {}
  /// The solid outside of a level set.
  static Solid around(LevelSet s) {
    Solid out(std::move(s));
    out.hollow = true;
    return out;
  }

  LevelSet set;
  double friction = 1;        // share of the relative speed that it takes from adjacent liquid
  double contact_angle = 0;   // advancing, rad; 0: no wetting effect
  double receding_angle = 0;  // receding, rad; 0 or not smaller than advancing: nothing clings
  double bounce = 0;          // share of its speed with which liquid is thrown back
  double stickiness = 1;      // 0 to 1; at 0 liquid may leave freely, at 1 suction holds it
  bool hollow = false;        // solid outside of its level set; always at rest
  bool moves = false;
  Pose from, to;

  /// Whether drops can cling to it.
  bool clings() const { return receding_angle > 0 && receding_angle < contact_angle; }

  /// Bounds at the end of the step, in lattice points of the world.
  void reach(double cell_size, Vec3i& first, Vec3i& last) const;
  /// Distances at the end of the step at the points (first + 0..n-1) · cell_size, x fastest; negative inside,
  /// exact near the surface.
  void read(const Vec3i& first, int n, double cell_size, float* out) const;
  double distance(const Vec3d& p) const {
    return moves ? set.distance(to.inverse(p)) * to.scale : hollow ? -set.distance(p) : set.distance(p);
  }
  /// Velocity over a step of dt seconds of the point that ends at p: the chord of its path, m/s.
  Vec3d velocity(const Vec3d& p, double dt) const {
    return moves && dt > 0 ? (p - from * to.inverse(p)) / dt : Vec3d{};
  }
  /// Largest displacement of its surface in the step, m.
  double farthest() const;
};

}  // namespace pour
