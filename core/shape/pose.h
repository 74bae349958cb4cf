// Where a piece stands.
#pragma once
#include "base/vec.h"
#include "shot/shot.h"

namespace pour {

/// Of a piece of a shot, with the path that it goes along and the pieces that it belongs to. Throws Fault
/// (Blame::shot) where pieces belong to each other in a circle, or a path is none.
Pose pose_of(const Shot&, const Piece&);

/// Angles that Rotation::euler() turns into the same again: of the many, those nearest to these.
Vec3d angles_of(const Rotation&, const Vec3d& near = {});

/// Throws Fault (Blame::shot) where pieces move with each other in a circle. One that is not in the set is no
/// matter here.
void refuse_circles(const Shot&);

}  // namespace pour
