// Meshes turned about the y axis.
#pragma once
#include <vector>

#include "shape/curve.h"
#include "shape/mesh.h"

namespace pour {

/// Turns closed outlines (x: distance from the axis, y: height, m; counter-clockwise with x to the right)
/// about the y axis. Distances are a little larger than given, so that volumes are those of true circles.
Mesh turned_mesh(const std::vector<std::vector<Vec3d>>& outlines);

/// About the origin, upright.
Mesh cylinder_mesh(double radius, double height);
/// About the origin, lying level: `radius` to the middle of the round section of `section` radius, m.
Mesh ring_mesh(double radius, double section);
/// A smooth profile from the axis to the rim, with `wall / 2` of solid on either side of it. Throws Fault
/// (Blame::shot) where nothing remains of it.
Mesh vessel_mesh(const std::vector<Vec3d>& profile, double wall);
/// All that a smooth profile goes around, between it and the axis. Throws as above.
Mesh full_mesh(const std::vector<Vec3d>& profile);

}  // namespace pour
