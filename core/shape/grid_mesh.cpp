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

openvdb::FloatGrid::Ptr grid_of(const Mesh& mesh, double cell_size, float band, bool inside) {
  openvdb::initialize();
  // In cells, rounded to floats, so that points on the lattice stay on it.
  std::vector<openvdb::Vec3s> points;
  points.reserve(mesh.points.size());
  for (const Vec3f& p : mesh.points)
    points.emplace_back(openvdb::Vec3s(openvdb::Vec3d(p.x, p.y, p.z) * (1 / cell_size)));
  std::vector<openvdb::Vec3I> triangles;
  triangles.reserve(mesh.triangles.size());
  for (const auto& t : mesh.triangles) triangles.emplace_back(t[0], t[1], t[2]);
  // Of these types, so that the instance within the library is called: one of our own takes a minute to
  // compile.
  const openvdb::tools::QuadAndTriangleDataAdapter<openvdb::Vec3s, openvdb::Vec3I> adapter(points, triangles);
  openvdb::util::NullInterrupter interrupter;
  // Without the renormalization, which would move the surface by up to a third of a cell.
  return openvdb::tools::meshToVolume<openvdb::FloatGrid>(
      interrupter, adapter, *openvdb::math::Transform::createLinearTransform(cell_size), band, band,
      inside ? openvdb::tools::DISABLE_RENORMALIZATION : openvdb::tools::UNSIGNED_DISTANCE_FIELD);
}

}  // namespace pour
