// The way that liquid flies from where it is poured, before it meets anything but the floor.
#pragma once
#include <vector>

#include "shot/clock.h"
#include "shot/shot.h"

namespace pour {

/// Unit vector; zero for what pours outwards.
Vec3d direction_of(const Pour&);
/// Its speed along the normals of its source, m/s; below 0 against them.
double outward_of(const Pour&);

struct Arc {
  Vec3d velocity;         // with which it begins, m/s
  std::vector<Vec3d> at;  // m, from the middle of its source on: `steps` a frame
};

/// For each frame of the film from `frame` on, with slow motion as it then is, until it comes to a closed
/// bottom or for two seconds of film at most. Empty for what has no direction, no speed or no source. A fall:
/// p = p₀ + v t - g t² / 2 (Galilei), step by step where gravity changes.
Arc arc_of(const Shot&, const Pour&, double frame, int steps = 1);

/// Which way, as a unit vector, what leaves `from` at `speed` (m/s) in addition to `besides` has to go, so
/// that it comes by `target` soonest under this gravity; where it can't get there, so that it comes near it.
Vec3d way_to(const Vec3d& from, const Vec3d& target, double speed, const Vec3d& besides, double gravity);
/// Lets a pour leave in a direction of its own so that it comes by a point, m, as its source stands and moves
/// at this frame of the film. Throws Fault (Blame::shot) for one that comes out of no piece, or has no speed.
void aim_pour(Shot&, const std::string& pour, const Vec3d& target, double film_frame);

/// How long a pour pours in the whole film, s of what is filmed.
double seconds_of(const Shot&, const Clock&, const Pour&);

}  // namespace pour
