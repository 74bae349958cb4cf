// Liquid in the OpenVDB file of a frame: a grid of points, `liquid`, with a voxel a cell and the attributes
// P, velocity (m/s), age (s), id, color (linear RGB), liquid (its number among the shot's fluids) and, where
// anything was poured with a colour of its own, tint (pack_tint()).
#pragma once
#include <vector>

#include "frames/frame.h"
#include "frames/stored.h"
#include "liquid/particles.h"

namespace pour {

void add_liquid(FrameGrids&, const Particles&, double cell_size, const std::vector<Vec3f>& colors);

/// What pictures need of a frame's liquid.
struct LiquidPoints {
  double cell_size = 0;                // m; 0 where the frame has none
  std::vector<Vec3f> place;            // m
  std::vector<Vec3f> velocity, color;  // m/s; linear
  std::vector<float> age;              // s
  std::vector<uint8_t> liquid;         // its number among the shot's fluids
  std::vector<uint32_t> id;            // in the order in which they were poured
};
/// One more, at `place`, with the mean of what two of them have; id and liquid are the first one's.
void add_between(LiquidPoints&, size_t one, size_t other, const Vec3f& place);
/// Empty where a frame has no liquid. Whether the file is the one that was recorded, read_frame() has to look
/// before. Throws Fault (Blame::shot) where it can't be read.
LiquidPoints read_liquid(const StoredFrame&);
/// All that its particles were, but for their slopes, which are zero. Throws as above.
Particles read_particles(const StoredFrame&);

}  // namespace pour
