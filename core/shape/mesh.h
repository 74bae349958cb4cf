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
  /// Enclosed volume in m³ by the divergence theorem; negative where the mesh is inside out.
  double volume() const;
  /// Of the surface, m².
  double area() const;
  /// Adds another mesh behind this one's.
  void append(const Mesh&);
  /// Moves every point to pose · p.
  void place(const Pose&);
};

/// Of each point the first one at the same place.
std::vector<int> same_places(const Mesh&);
/// Whether each edge has a triangle on either side, that run against each other along it. Points at the same
/// place count as one; a mesh without triangles is not closed.
bool is_closed(const Mesh&);
/// The triangles that hang together by points at the same place, each as a list of their numbers, in the
/// order of their first ones.
std::vector<std::vector<int>> surfaces_of(const Mesh&);
/// The same, not across edges along which a mesh turns by more than `crease` radians, nor where more than two
/// triangles meet.
std::vector<std::vector<int>> sides_of(const Mesh&, float crease);
/// How many edges have a triangle on one side only.
size_t open_edges(const Mesh&);
/// How long the edges with a triangle on one side only are, as a share of the edge of a square of the mesh's
/// area.
double openness(const Mesh&);

/// Unit normals for the three corners of each triangle: the mean, by area, of the triangles that meet there
/// and turn away by less than `crease` radians.
std::vector<std::array<Vec3f, 3>> corner_normals(const Mesh&, float crease);

/// A sphere about the origin from an octahedron whose edges are halved so many times; its volume is matched
/// to the ideal one.
Mesh ball_mesh(double radius, int halvings = 4);
/// A box about the origin with the given edges.
Mesh box_mesh(const Vec3d& size);
/// The same with edges and corners rounded off; `radius` is less than half of the shortest edge.
Mesh rounded_box_mesh(const Vec3d& size, double radius);

}  // namespace pour
