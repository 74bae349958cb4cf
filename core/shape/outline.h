// Feature edges of a closed surface, for line drawings.
#pragma once
#include "shape/mesh.h"

namespace pour {

/// An edge between two triangles that are not coplanar.
struct OutlineEdge {
  Vec3f from, to;
  Vec3f normal[2];  // unit normals of the triangles on both sides
  bool sharp = false;

  /// Whether it is drawn from a viewpoint: a sharp or a silhouette edge.
  bool shows(const Vec3f& eye) const {
    const Vec3f way = eye - from;
    return sharp || (dot(normal[0], way) > 0) != (dot(normal[1], way) > 0);
  }
};

/// Sharp edges turn by more than `crease` radians. Coincident points count as one.
std::vector<OutlineEdge> outline_of(const Mesh&, float crease = 0.5f);

}  // namespace pour
