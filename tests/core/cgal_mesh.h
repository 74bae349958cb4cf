// Our meshes as CGAL sees them.
#pragma once
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Surface_mesh.h>

#include <vector>

#include "shape/mesh.h"

namespace pour {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using CgalSurface = CGAL::Surface_mesh<Kernel::Point_3>;

inline CgalSurface to_cgal(const Mesh& m) {
  CgalSurface s;
  std::vector<CgalSurface::Vertex_index> v;
  for (const Vec3f& p : m.points) v.push_back(s.add_vertex({p.x, p.y, p.z}));
  for (const auto& t : m.triangles) s.add_face(v[size_t(t[0])], v[size_t(t[1])], v[size_t(t[2])]);
  return s;
}

}  // namespace pour
