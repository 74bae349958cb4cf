// Signed distance to a body, far from it too.
#pragma once
#include <vector>

#include "base/simd.h"
#include "shape/mesh.h"

namespace pour {

/// Distances sampled on a lattice around a closed body, about `most` points along its longest side; trilinear
/// in between. Beyond the lattice a few per cent too large. Immutable.
class Distances {
 public:
  /// `reach`: how far around the body the lattice goes, m.
  Distances(const Mesh&, double reach, int most = 48);
  /// Signed distance, m, and the unit vector away from the surface, by which it grows; in the body's frame of
  /// reference.
  struct There {
    v8 distance;
    Vec3<v8> away;
  };
  There operator()(const Vec3<v8>& at) const;
  double cell() const { return double(cell_); }

 private:
  Vec3f low_;
  Vec3i count_;
  float cell_ = 1;
  std::vector<float> values_;  // x fastest
};

}  // namespace pour
