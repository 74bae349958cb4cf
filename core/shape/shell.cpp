#include "shape/shell.h"

#include <openvdb/tools/MeshToVolume.h>

#include <numeric>

#include "shape/grid_mesh.h"

namespace pour {
namespace {

/// The mesh as OpenVDB reads it, in voxels.
struct Triangles {
  const Mesh& mesh;
  double voxel;
  size_t polygonCount() const { return mesh.triangles.size(); }
  size_t pointCount() const { return mesh.points.size(); }
  size_t vertexCount(size_t) const { return 3; }
  void getIndexSpacePoint(size_t polygon, size_t corner, openvdb::Vec3d& p) const {
    const Vec3f& v = mesh.points[size_t(mesh.triangles[polygon][corner])];
    p = openvdb::Vec3d(v.x, v.y, v.z) / voxel;
  }
};

/// The parts that hang together, each as a mesh.
std::vector<Mesh> pieces_of(const Mesh& mesh) {
  std::vector<int> parent(mesh.points.size());
  std::iota(parent.begin(), parent.end(), 0);
  const auto root = [&](int i) {
    while (parent[size_t(i)] != i) i = parent[size_t(i)] = parent[size_t(parent[size_t(i)])];
    return i;
  };
  for (const auto& t : mesh.triangles)
    for (const int k : {t[1], t[2]}) parent[size_t(root(k))] = root(t[0]);
  std::vector<int> number(mesh.points.size(), -1), place(mesh.points.size());
  std::vector<Mesh> out;
  for (size_t i = 0; i < mesh.points.size(); ++i) {
    int& n = number[size_t(root(int(i)))];
    if (n < 0) n = int(out.size()), out.emplace_back();
    place[i] = int(out[size_t(n)].points.size());
    out[size_t(n)].points.push_back(mesh.points[i]);
  }
  for (const auto& t : mesh.triangles)
    out[size_t(number[size_t(root(t[0]))])].triangles.push_back(
        {place[size_t(t[0])], place[size_t(t[1])], place[size_t(t[2])]});
  return out;
}

}  // namespace

Mesh wall_along(const Mesh& mesh, double thickness) {
  openvdb::initialize();
  const Vec3d size = mesh.bounds().size();
  const double voxel = std::max(thickness / 3, std::max({size.x, size.y, size.z}) / 400);
  const auto transform = openvdb::math::Transform::createLinearTransform(voxel);
  const float band = float(thickness / 2 / voxel + 2);
  const auto field = openvdb::tools::meshToVolume<openvdb::FloatGrid>(
      Triangles{mesh, voxel}, *transform, band, band, openvdb::tools::UNSIGNED_DISTANCE_FIELD);
  field->setGridClass(openvdb::GRID_LEVEL_SET);  // so that the mesher knows where inside is
  return mesh_of(*field, std::max(thickness / 2, voxel));
}

Mesh hull_around(const Mesh& mesh, double distance) {
  Mesh out;
  // Seen from outside a hollow is inside out.
  for (const Mesh& piece : pieces_of(wall_along(mesh, 2 * distance)))
    if (piece.volume() > 0) out.append(piece);
  return out;
}

}  // namespace pour
