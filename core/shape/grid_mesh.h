// The surface of a distance field as triangles. Brings OpenVDB's tools: for few files.
#pragma once
#include <openvdb/openvdb.h>
#include <openvdb/tools/VolumeToMesh.h>

#include "shape/mesh.h"

namespace pour {

/// Where the field has this value, seen from where it is higher. OpenVDB's dual mesher without
/// simplification.
inline Mesh mesh_of(const openvdb::FloatGrid& field, double value = 0) {
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

}  // namespace pour
