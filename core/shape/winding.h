// Winding numbers: inside and outside of any mesh, closed or not.
#pragma once
#include <cstdint>
#include <vector>

#include "shape/mesh.h"

namespace pour {

/// The generalised winding number (Jacobson, Kavan & Sorkine-Hornung 2013): 1 inside of a closed,
/// outward-facing mesh, 0 outside, in between near holes; above ½ counts as inside. Far parts of the mesh
/// count by their first two moments (Barill, Dickson, Schmidt, Levin & Jacobson, “Fast Winding Numbers for
/// Soups and Clouds”, 2018). Immutable.
class WindingNumber {
 public:
  explicit WindingNumber(const Mesh&);
  double at(const Vec3d&) const;

 private:
  struct Node {
    Vec3d middle, normal;         // mean range of its triangles by area; sum of areas times normals
    double first[9] = {};         // sum of (x - middle) times the normal, row by row
    double radius = 0;            // about the middle
    uint32_t begin = 0, end = 0;  // of its triangles
    uint32_t child = 0;           // first of two children; 0: leaf
  };
  struct Triangle {
    Vec3d a, b, c;
  };
  void build(uint32_t node, uint32_t begin, uint32_t end);
  void sum_up(Node&) const;
  std::vector<Triangle> triangles_;
  std::vector<Node> nodes_;
};

}  // namespace pour
