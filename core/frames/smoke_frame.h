// Smoke in the OpenVDB file of a frame: grids density (kg/m³), temperature (K), color (linear RGB) and
// velocity (m/s, staggered), voxel (i, j, k) centred at (i + ½, j + ½, k + ½) · cell size. Each moving room
// has grids of its own, density_room_1 and so on, with its pose as their transform and world velocity at
// voxel centres.
#pragma once
#include <array>
#include <filesystem>
#include <string>
#include <vector>

#include "frames/frame.h"
#include "frames/stored.h"
#include "gas/gas.h"

namespace pour {

/// Pose and motion of a room at a frame.
struct RoomMotion {
  int room = 0;
  Pose pose;
  Vec3d velocity{}, spin{};  // of the origin, m/s; rad/s
};

/// Rooms not listed are at rest.
void add_smoke(FrameGrids&, const GasState&, double cell_size, const std::vector<RoomMotion>& moving = {});

/// A block of a frame's smoke; cells in the order of solve/block_grid.h.
struct SmokeBlock {
  Vec3i at;
  std::array<bool, block_cells> here{};                // whether a cell was stored
  std::array<float, block_cells> density{}, heat{};    // kg/m³; K above the air
  std::array<Vec3f, block_cells> color{}, velocity{};  // as stored
};
struct SmokeBlocks {
  int room = 0;  // that moves; 0: all that stands still
  std::vector<SmokeBlock> blocks;
};
/// Reads all smoke of a frame, in the order of rooms, to continue from it. Throws as read_frame().
std::vector<SmokeBlocks> read_smoke_blocks(const StoredFrame&);

/// A volume of a frame's smoke for pictures: dense arrays over its bounds, x fastest.
struct SmokeVolume {
  double cell_size = 0;
  int room = 0;                      // that moves; 0: all that stands still
  Pose pose;                         // of the room in the world
  Vec3i low, count;                  // in cells; count is zero without smoke
  std::vector<float> density;        // kg/m³
  std::vector<float> color;          // three a cell, linear
  std::vector<float> speed, warmth;  // m/s, K above the air; if asked for
  std::vector<Vec3f> velocity;       // m/s, in the world
};
/// The volumes of a frame: first everything at rest, then each moving room; empty without smoke. Throws Fault
/// (Blame::shot) if the file is missing, damaged, not a frame or not the recorded one.
std::vector<SmokeVolume> read_frame(const StoredFrame&, bool with_flow = false);
inline std::vector<SmokeVolume> read_frame(const std::filesystem::path& file, bool with_flow = false) {
  return read_frame(StoredFrame{file, {}, 0}, with_flow);
}

}  // namespace pour
