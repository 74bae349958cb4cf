// The signed distance to a closed mesh on the lattice of a grid.
#pragma once
#include <memory>

#include "shape/mesh.h"

namespace pour {

/// Distances in metres at the lattice points i · cell_size, negative inside; exact within three cells of the
/// surface, except a few points in a thousand beside slender triangles, which are off by up to a cell.
/// Further away only the sign is right. Immutable; copies share data.
class LevelSet {
 public:
  LevelSet() = default;
  /// Method: OpenVDB's scan conversion with the sign by sweeping (tools/MeshToVolume.h).
  LevelSet(const Mesh&, double cell_size);

  /// The bodies of both; on the same lattice.
  LevelSet joined(const LevelSet&) const;

  bool empty() const { return !data_; }
  /// First lattice point and size of the box that contains all negative values.
  Vec3i first() const;
  Vec3i count() const;
  /// Values at first + (0..n-1)³, x fastest.
  void read(const Vec3i& first, int n, float* out) const;
  double cell_size() const;
  /// The zero isosurface, m. OpenVDB's dual mesher.
  Mesh surface() const;
  /// Trilinear value at a point, m.
  double distance(const Vec3d&) const;

 private:
  struct Data;
  std::shared_ptr<const Data> data_;
};

}  // namespace pour
