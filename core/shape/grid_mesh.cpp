#include "shape/grid_mesh.h"

#include <openvdb/tools/MeshToVolume.h>
#include <openvdb/tools/VolumeToMesh.h>

namespace pour {

Mesh mesh_of(const openvdb::FloatGrid& field, double value) {
  std::vector<openvdb::Vec3s> points;
  std::vector<openvdb::Vec3I> triangles;
  std::vector<openvdb::Vec4I> quads;
  openvdb::tools::volumeToMesh(field, points, triangles, quads, value, 0.0);
  Mesh mesh;
  for (const auto& p : points) mesh.points.push_back({p.x(), p.y(), p.z()});
  // OpenVDB's are clockwise.
  for (const auto& t : triangles) mesh.triangles.push_back({int(t[0]), int(t[2]), int(t[1])});
  for (const auto& q : quads) {
    mesh.triangles.push_back({int(q[0]), int(q[2]), int(q[1])});
    mesh.triangles.push_back({int(q[0]), int(q[3]), int(q[2])});
  }
  return mesh;
}

namespace {

/// The mesh as OpenVDB reads it, in cells: rounded to floats, so that what lies on the lattice stays there.
struct Triangles {
  const Mesh& mesh;
  double cell_size;
  size_t polygonCount() const { return mesh.triangles.size(); }
  size_t pointCount() const { return mesh.points.size(); }
  size_t vertexCount(size_t) const { return 3; }
  void getIndexSpacePoint(size_t polygon, size_t corner, openvdb::Vec3d& p) const {
    const Vec3f& v = mesh.points[size_t(mesh.triangles[polygon][corner])];
    p = openvdb::Vec3s(openvdb::Vec3d(v.x, v.y, v.z) * (1 / cell_size));
  }
};

}  // namespace

openvdb::FloatGrid::Ptr grid_of(const Mesh& mesh, double cell_size, float band, bool inside) {
  openvdb::initialize();
  // Without the renormalization, which would move the surface by up to a third of a cell.
  return openvdb::tools::meshToVolume<openvdb::FloatGrid>(
      Triangles{mesh, cell_size}, *openvdb::math::Transform::createLinearTransform(cell_size), band, band,
      inside ? openvdb::tools::DISABLE_RENORMALIZATION : openvdb::tools::UNSIGNED_DISTANCE_FIELD);
}

}  // namespace pour
