// Between meshes and OpenVDB's grids of distances. Its tools are slow to compile: they are used here alone.
#pragma once
#include "base/openvdb_trees.h"

#include "shape/mesh.h"

namespace pour {

/// Where the field has this value, seen from where it is higher. OpenVDB's dual mesher without
/// simplification.
Mesh mesh_of(const openvdb::FloatGrid& field, double value = 0);

/// Distances to a mesh, m, on the lattice points within `band` cells of it: of a closed one below 0 inside,
/// with the sign by sweeping and the surface where it is; of any one to both sides alike where not `inside`.
/// OpenVDB's scan conversion (tools/MeshToVolume.h).
openvdb::FloatGrid::Ptr grid_of(const Mesh&, double cell_size, float band, bool inside);

}  // namespace pour
