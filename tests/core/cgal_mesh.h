// Our meshes as CGAL sees them. Its headers take ten seconds a file: they stay in cgal_mesh.cpp.
#pragma once
#include <memory>

#include "shape/mesh.h"

namespace pour {

class CgalMesh {
 public:
  explicit CgalMesh(const Mesh&);
  ~CgalMesh();
  /// Of those that CGAL took: a face whose edge already has two is refused.
  size_t faces() const;
  bool is_closed() const;
  /// m³, positive where faces turn outwards.
  double volume() const;
  /// Of a closed mesh, by ray shooting.
  bool is_inside(const Vec3d&) const;
  /// m to the nearest triangle, negative inside.
  double distance(const Vec3d&) const;

 private:
  struct Parts;
  std::unique_ptr<Parts> parts_;
};

}  // namespace pour
