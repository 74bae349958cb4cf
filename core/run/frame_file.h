// One frame of gas as an OpenVDB file: grids density (kg/m³), temperature (K), color (linear RGB) and
// velocity (m/s, staggered), voxel (i, j, k) centred at (i + ½, j + ½, k + ½) · cell size.
#pragma once
#include <filesystem>
#include <string>
#include <vector>

#include "gas/gas.h"

namespace pour {

/// Whole or not at all; the same state always gives the same bytes. Returns the id that its header bears.
std::string write_frame(const std::filesystem::path&, const GasState&, double cell_size);

/// What is known of a frame that was written.
struct StoredFrame {
  std::filesystem::path file;
  std::string id;        // empty where it was not recorded
  double cell_size = 0;  // m; 0 where it is not known
};
/// Whether it is there, every byte as it was written. Reads all of it; never throws.
bool is_whole_frame(const StoredFrame&);

/// What pictures need of a frame: dense arrays over the box that holds smoke, x fastest.
struct SmokeVolume {
  double cell_size = 0;
  Vec3i low, count;                  // in cells; count is zero where there is no smoke
  std::vector<float> density;        // kg/m³
  std::vector<float> color;          // three a cell, linear
  std::vector<float> speed, warmth;  // m/s, K above the air; where asked for
};
/// Throws Fault (Blame::shot) for a file that is missing, torn, no such frame or not the one that was
/// recorded.
SmokeVolume read_frame(const StoredFrame&, bool with_flow = false);
inline SmokeVolume read_frame(const std::filesystem::path& file, bool with_flow = false) {
  return read_frame(StoredFrame{file, {}, 0}, with_flow);
}

}  // namespace pour
