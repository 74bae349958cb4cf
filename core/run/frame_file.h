// One frame of gas as an OpenVDB file: grids density (kg/m³), temperature (K), color (linear RGB) and
// velocity (m/s, staggered), voxel (i, j, k) centred at (i + ½, j + ½, k + ½) · cell size.
#pragma once
#include <filesystem>

#include "gas/gas.h"

namespace pour {

/// Whole or not at all; the same state always gives the same bytes.
void write_frame(const std::filesystem::path&, const GasState&, double cell_size);

/// What pictures need of a frame: dense arrays over the box that holds smoke, x fastest.
struct SmokeVolume {
  double cell_size = 0;
  Vec3i low, count;                  // in cells; count is zero where there is no smoke
  std::vector<float> density;        // kg/m³
  std::vector<float> color;          // three a cell, linear
  std::vector<float> speed, warmth;  // m/s, K above the air; where asked for
};
/// Throws Fault (Blame::shot) for a file that is missing, torn or no such frame.
SmokeVolume read_frame(const std::filesystem::path&, bool with_flow = false);

}  // namespace pour
