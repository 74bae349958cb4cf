// A closed triangle mesh in metres, counter-clockwise seen from outside.
#pragma once
#include <array>
#include <vector>

#include "base/vec.h"

namespace pour {

struct Mesh {
  std::vector<Vec3f> points;
  std::vector<std::array<int, 3>> triangles;

  Box bounds() const;
  /// Enclosed volume in m³ by the divergence theorem; negative if the mesh is inside out.
  double volume() const;
  /// Surface area, m².
  double area() const;
  /// Appends another mesh.
  void append(const Mesh&);
  /// Transforms every point by a pose.
  void place(const Pose&);
};

/// For each point, the index of the first point at the same position.
std::vector<int> same_places(const Mesh&);
/// Whether each edge has one triangle on either side with opposite orientation. Coincident points count as
/// one; an empty mesh is not closed.
bool is_closed(const Mesh&);
/// Connected components as lists of triangle indices, in the order of their first triangles. Coincident
/// points connect.
std::vector<std::vector<int>> surfaces_of(const Mesh&);
/// Components also separated at edges sharper than `crease` radians and where more than two triangles meet.
std::vector<std::vector<int>> sides_of(const Mesh&, float crease);
/// Number of edges with a triangle on one side only.
size_t open_edges(const Mesh&);
/// Length of open edges relative to √area.
double openness(const Mesh&);

/// Unit normals at the corners of each triangle: the area-weighted mean of triangles there that differ by
/// less than `crease` radians.
std::vector<std::array<Vec3f, 3>> corner_normals(const Mesh&, float crease);

/// A sphere about the origin, an octahedron subdivided `levels` times, scaled to the exact volume.
Mesh ball_mesh(double radius, int halvings = 4);
/// A box about the origin with the given edges.
Mesh box_mesh(const Vec3d& size);
/// A box with rounded edges and corners; `radius` is less than half of the shortest edge.
Mesh rounded_box_mesh(const Vec3d& size, double radius);

}  // namespace pour
