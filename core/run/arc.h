// The way that liquid flies from where it is poured, before it meets anything but the floor.
#pragma once
#include <vector>

#include "shot/shot.h"

namespace pour {

/// Unit vector; zero for what pours outwards.
Vec3d direction_of(const Pour&);

/// Places in m, from the middle of its source on: one for each frame of the film from `frame` on, with slow
/// motion as it then is, until it comes to a closed bottom or for two seconds of film at most. Empty for what
/// has no direction, no speed or no source. A fall: p = p₀ + v t - g t² / 2 (Galilei).
std::vector<Vec3d> arc_of(const Shot&, const Pour&, double frame);

}  // namespace pour
