// Liquid in the OpenVDB file of a frame: a grid of points, `liquid`, with a voxel a cell and the attributes
// P, velocity (m/s), age (s), id, color (linear RGB), liquid (index of the shot's fluid) and, if any pour has
// its own colours, tint (pack_tint()).
#pragma once
#include <vector>

#include "frames/frame.h"
#include "frames/stored.h"
#include "liquid/particles.h"

namespace pour {

void add_liquid(FrameGrids&, const Particles&, double cell_size, const std::vector<Vec3f>& colors);

/// A frame's liquid for pictures.
struct LiquidPoints {
  double cell_size = 0;                // m; 0 if the frame has no liquid
  std::vector<Vec3f> place;            // m
  std::vector<Vec3f> velocity, color;  // m/s; linear
  std::vector<float> age;              // s
  std::vector<uint8_t> liquid;         // its number among the shot's fluids
  std::vector<uint32_t> id;            // in the order of pouring
};
/// Adds a point at `place` with the mean attributes of two points; id and liquid are the first one's.
void add_between(LiquidPoints&, size_t one, size_t other, const Vec3f& place);
/// Reads a frame's liquid; empty if it has none. read_frame() must have checked that the file is the recorded
/// one. Throws Fault (Blame::shot) if it cannot be read.
LiquidPoints read_liquid(const StoredFrame&);
/// Reads the particles for continuing a run; velocity gradients are zero. Throws Fault (Blame::shot) if they
/// cannot be read.
Particles read_particles(const StoredFrame&);

}  // namespace pour
