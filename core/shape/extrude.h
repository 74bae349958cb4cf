// Extrusion of flat shapes: a closed bevelled mesh for each connected part.
#pragma once
#include <vector>

#include "shape/mesh.h"

namespace pour {

/// Closed polygons in metres, solid on the left of each edge: outer rings
/// counter-clockwise, holes clockwise. They do not cross.
struct Outline {
  struct Ring {
    std::vector<Vec3d> points;  // z = 0
  };
  struct Part {  // one connected piece; the dot of an i is a separate part
    Ring outer;
    std::vector<Ring> holes;
    double area() const;  // m²
  };
  std::vector<Part> parts;  // from left to right
};

/// One closed, outward oriented mesh for each part, centred on z = 0.
std::vector<Mesh> extrude(const Outline&, double depth, double bevel);

}  // namespace pour
