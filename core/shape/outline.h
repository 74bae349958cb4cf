// The edges by which a closed surface is drawn as lines.
#pragma once
#include "shape/mesh.h"

namespace pour {

/// An edge of a mesh between two triangles that don't lie in one plane.
struct OutlineEdge {
  Vec3f from, to;
  Vec3f normal[2];  // of the triangles on both sides, of length 1
  bool sharp = false;

  /// Whether it belongs to what is seen from a point: a sharp edge, or one where the surface turns away.
  bool shows(const Vec3f& eye) const {
    const Vec3f way = eye - from;
    return sharp || (dot(normal[0], way) > 0) != (dot(normal[1], way) > 0);
  }
};

/// Edges that are sharp turn by more than `crease` radians. Points at the same place count as one.
std::vector<OutlineEdge> outline_of(const Mesh&, float crease = 0.5f);

}  // namespace pour
