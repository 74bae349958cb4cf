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

/// How long a pour pours in the whole film, s of what is filmed.
double seconds_of(const Shot&, const Clock&, const Pour&);

}  // namespace pour
