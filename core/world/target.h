// A shape that fluid is to fill.
#pragma once
#include <vector>

#include "world/distances.h"

namespace pour {

/// Parts of a shape, such as the letters of a word, from left to right. Immutable.
class Target {
 public:
  static constexpr int most_parts = 254;
  /// Closed meshes in one frame of reference, in which `along` says where right is. More than most_parts
  /// meshes are merged into the last part.
  Target(std::vector<Mesh> parts, const Vec3d& along);
  size_t parts() const { return parts_.size(); }
  const Vec3d& along() const { return along_; }
  /// Share of the volume in each part and those before it; the last is 1.
  const std::vector<double>& volumes() const { return volumes_; }
  /// As Distances, to a part by its index; a negative index means the nearest part.
  Distances::There operator()(const Vec3<v8>& at, v8i part) const;

 private:
  struct Part {
    Distances distances;
    Box box;
  };
  std::vector<Part> parts_;
  std::vector<double> volumes_;
  Vec3d along_;
};

/// How liquid is shared among the parts of a target: each particle keeps its part while its force acts.
struct Sharing {
  int force = 0;                // number of the force, below 255
  bool by_hand = false;         // otherwise in order, by volume
  std::vector<int> bodies;      // by hand: the part of each body of liquid, both from left to right
  Vec3d along{1, 0, 0};         // to the right, in the world
  std::vector<double> volumes;  // as Target::volumes()
};

}  // namespace pour
