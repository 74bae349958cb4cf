#include "core/cgal_mesh.h"

#include <CGAL/AABB_face_graph_triangle_primitive.h>
#include <CGAL/AABB_traits.h>
#include <CGAL/AABB_tree.h>
#include <CGAL/boost/graph/helpers.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Polygon_mesh_processing/measure.h>
#include <CGAL/Side_of_triangle_mesh.h>
#include <CGAL/Surface_mesh.h>

#include <cmath>
#include <vector>

namespace pour {
namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Surface = CGAL::Surface_mesh<Kernel::Point_3>;
using Primitive = CGAL::AABB_face_graph_triangle_primitive<Surface>;

Surface surface_of(const Mesh& m) {
  Surface s;
  std::vector<Surface::Vertex_index> v;
  for (const Vec3f& p : m.points) v.push_back(s.add_vertex({p.x, p.y, p.z}));
  for (const auto& t : m.triangles) s.add_face(v[size_t(t[0])], v[size_t(t[1])], v[size_t(t[2])]);
  return s;
}

}  // namespace

struct CgalMesh::Parts {
  explicit Parts(const Mesh& m) : surface(surface_of(m)) {}

  Surface surface;
  // Made when they are first asked for.
  std::unique_ptr<CGAL::AABB_tree<CGAL::AABB_traits<Kernel, Primitive>>> tree;
  std::unique_ptr<CGAL::Side_of_triangle_mesh<Surface, Kernel>> side;
};

CgalMesh::CgalMesh(const Mesh& m) : parts_(std::make_unique<Parts>(m)) {}
CgalMesh::~CgalMesh() = default;

size_t CgalMesh::faces() const { return parts_->surface.number_of_faces(); }
bool CgalMesh::is_closed() const { return CGAL::is_closed(parts_->surface); }
double CgalMesh::volume() const {
  return CGAL::to_double(CGAL::Polygon_mesh_processing::volume(parts_->surface));
}

bool CgalMesh::is_inside(const Vec3d& p) const {
  if (!parts_->side) parts_->side.reset(new CGAL::Side_of_triangle_mesh<Surface, Kernel>(parts_->surface));
  return (*parts_->side)({p.x, p.y, p.z}) == CGAL::ON_BOUNDED_SIDE;
}

double CgalMesh::distance(const Vec3d& p) const {
  auto& tree = parts_->tree;
  if (!tree) {
    const auto faces = parts_->surface.faces();
    tree = std::make_unique<CGAL::AABB_tree<CGAL::AABB_traits<Kernel, Primitive>>>(faces.begin(), faces.end(),
                                                                                   parts_->surface);
    tree->accelerate_distance_queries();
  }
  const double d = std::sqrt(CGAL::to_double(tree->squared_distance(Kernel::Point_3(p.x, p.y, p.z))));
  return is_inside(p) ? -d : d;
}

}  // namespace pour
