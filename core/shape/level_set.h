// The signed distance to a closed mesh on the lattice of a grid.
#pragma once
#include <memory>

#include "shape/mesh.h"

namespace pour {

/// Distances in metres at the lattice points i · cell_size, negative inside; exact within three cells of the
/// surface (but for a few points in a thousand beside slender triangles, off by up to a cell) and of the
/// right sign further off. Immutable; copies share.
class LevelSet {
 public:
  LevelSet() = default;
  /// Method: OpenVDB's scan conversion with the sign by sweeping (tools/MeshToVolume.h).
  LevelSet(const Mesh&, double cell_size);

  bool empty() const { return !data_; }
  /// First lattice point and number of points a side of the box that holds every negative value.
  Vec3i first() const;
  Vec3i count() const;
  /// Values at first + (0..n-1)³, x fastest.
  void read(const Vec3i& first, int n, float* out) const;
  double cell_size() const;
  /// Where it is zero, m. OpenVDB's dual mesher.
  Mesh surface() const;
  /// At any point in metres, trilinear between lattice points.
  double distance(const Vec3d&) const;

 private:
  struct Data;
  std::shared_ptr<const Data> data_;
};

}  // namespace pour
