// Conversion between meshes and OpenVDB's level sets. Its tools are slow to compile, so they are used only
// here.
#pragma once
#include "base/openvdb_trees.h"

#include "shape/mesh.h"

namespace pour {

/// The isosurface at this value, facing the higher side. OpenVDB's dual mesher without simplification.
Mesh mesh_of(const openvdb::FloatGrid& field, double value = 0);

/// Distances to a mesh, m, at lattice points within `band` cells: signed for a closed mesh, negative inside;
/// unsigned for any mesh if not `inside`. OpenVDB's scan conversion (tools/MeshToVolume.h).
openvdb::FloatGrid::Ptr grid_of(const Mesh&, double cell_size, float band, bool inside);

}  // namespace pour
