// Walls that cut smoke in pictures more finely than cells.
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

/// Signed distance to walls on a lattice finer than the cells, x fastest: 128 at the wall, 255 two spacings
/// inside, 0 two outside, linear in between.
struct WallMask {
  Vec3f low;          // first lattice point, m
  float spacing = 0;  // m
  Vec3i count;
  std::vector<uint8_t> level;
  /// Inside share at a point, 0..1, with a transition of half a spacing.
  static constexpr float sharpness = 6;
  float inside(const Vec3f&) const;
};

/// Walls of the holding and blocking pieces, for frames of one run.
class SmokeWalls {
 public:
  SmokeWalls() = default;
  /// `shot` is the shot of the run. Throws as its pieces.
  SmokeWalls(const Shot& shot, double cell_size);

  struct Sealed {
    SmokeVolume smoke;                     // extended by two cells into walls
    std::vector<float> coverage;           // open share of each cell; empty: all open
    std::shared_ptr<const WallMask> mask;  // null if smoke is not held, or not everywhere
  };
  /// Extends density, colour, warmth and velocity into walls, so that pictures can cut smoke exactly at the
  /// wall as it is at a shot time, s.
  Sealed seal(SmokeVolume, double time = 0) const;

 private:
  struct Blocker {
    LevelSet set;  // in its piece's frame of reference
    size_t piece;
  };
  double cell_size_ = 0;
  std::shared_ptr<const Motion> motion_;
  std::vector<Blocker> blockers_;
  std::map<int, std::shared_ptr<const WallMask>> masks_;  // by moving room; 0: everything at rest
};

}  // namespace pour
