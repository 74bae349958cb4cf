// Poses of pieces.
#pragma once
#include "base/vec.h"
#include "shot/shot.h"

namespace pour {

/// Pose of a piece, with its path and parents applied. Throws Fault (Blame::shot) if pieces are attached in a
/// circle or its path is not a tube.
Pose pose_of(const Shot&, const Piece&);

/// Euler angles of a rotation, the solution nearest to given angles.
Vec3d angles_of(const Rotation&, const Vec3d& near = {});

/// Throws Fault (Blame::shot) if pieces are attached in a circle. Ignores missing parents.
void refuse_circles(const Shot&);

}  // namespace pour
