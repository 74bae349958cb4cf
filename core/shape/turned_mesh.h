// Solids of revolution about the y axis.
#pragma once
#include <vector>

#include "shape/curve.h"
#include "shape/mesh.h"

namespace pour {

/// Revolves closed outlines (x: distance from the axis, y: height, m; counter-clockwise with x to the right)
/// about the y axis. Radii are slightly enlarged, so that volumes match true circles.
Mesh turned_mesh(const std::vector<std::vector<Vec3d>>& outlines);

/// About the origin, upright.
Mesh cylinder_mesh(double radius, double height);
/// A torus about the origin, lying level: `radius` to the centre of the section, `section` its radius, m.
Mesh ring_mesh(double radius, double section);
/// A smooth profile from the axis to the rim, with a wall of thickness `wall` about it. Throws Fault
/// (Blame::shot) if nothing remains.
Mesh vessel_mesh(const std::vector<Vec3d>& profile, double wall);
/// The solid between a smooth profile and the axis. Throws Fault (Blame::shot) if nothing remains.
Mesh full_mesh(const std::vector<Vec3d>& profile);

}  // namespace pour
