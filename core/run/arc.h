// The predicted path of poured liquid, without obstacles except the floor.
#pragma once
#include <vector>

#include "shot/clock.h"
#include "shot/shot.h"

namespace pour {

/// Direction of a pour as a unit vector; zero if it pours outwards.
Vec3d direction_of(const Pour&);
/// Speed along the normals of its source, m/s; negative against them.
double outward_of(const Pour&);

struct Arc {
  Vec3d velocity;         // initial, m/s
  std::vector<Vec3d> at;  // m, from the centre of the source; `steps` points a frame
};

/// The path from film frame `frame` on, in slow motion as set, until a closed bottom or for two seconds of
/// film. Empty without a direction, speed or source. Free fall p = p₀ + v t - g t² / 2 (Galilei), in steps if
/// gravity is animated.
Arc arc_of(const Shot&, const Pour&, double frame, int steps = 1);

/// Direction, as a unit vector, in which fluid leaving `from` at `speed` (m/s), in addition to the velocity
/// `besides`, passes `target` soonest under this gravity, or comes nearest to it if it cannot reach it.
Vec3d way_to(const Vec3d& from, const Vec3d& target, double speed, const Vec3d& besides, double gravity);
/// Aims a pour at a point (m), with its source as it is at a film frame. Throws Fault (Blame::shot) if its
/// source is not a piece or it has no speed.
void aim_pour(Shot&, const std::string& pour, const Vec3d& target, double film_frame);

/// Total pouring time over the film, s of shot time.
double seconds_of(const Shot&, const Clock&, const Pour&);

}  // namespace pour
