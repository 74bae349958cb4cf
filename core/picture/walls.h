// What smoke is drawn against: a frame knows densities cell by cell, but a wall runs through cells.
#pragma once
#include <cstdint>
#include <map>
#include <memory>
#include <vector>

#include "frames/smoke_frame.h"
#include "shape/level_set.h"
#include "shape/motion.h"
#include "shot/shot.h"

namespace pour {

/// Where smoke may be, on a lattice finer than the cells, x fastest: 128 at the wall, 255 two spacings
/// inside and 0 two outside, linear in the signed distance between.
struct WallMask {
  Vec3f low;          // first lattice point, m
  float spacing = 0;  // m
  Vec3i count;
  std::vector<uint8_t> level;
  /// The share of a point that counts as inside, 0..1: the wall is as sharp as half a spacing.
  static constexpr float sharpness = 6;
  float inside(const Vec3f&) const;
};

/// The walls of the pieces that hold or block, for frames of one run.
class SmokeWalls {
 public:
  SmokeWalls() = default;
  /// `shot` is the one that the run was made from. Throws what its pieces throw.
  SmokeWalls(const Shot& shot, double cell_size);

  struct Sealed {
    SmokeVolume smoke;                     // goes on for two cells into the walls
    std::vector<float> coverage;           // part of each cell that is not wall; empty where all is free
    std::shared_ptr<const WallMask> mask;  // null where smoke isn't held, or not everywhere
  };
  /// Carries density and colour, and warmth and velocity where they are known, on from the cells in front of
  /// a wall into those behind it, so that a picture may cut them off exactly at the wall, as it stands at a
  /// time of the shot, s.
  Sealed seal(SmokeVolume, double time = 0) const;

 private:
  struct Blocker {
    LevelSet set;  // in the space of its piece
    size_t piece;
  };
  double cell_size_ = 0;
  std::shared_ptr<const Motion> motion_;
  std::vector<Blocker> blockers_;
  std::map<int, std::shared_ptr<const WallMask>> masks_;  // of the rooms that move; 0: of all that stand
};

}  // namespace pour
