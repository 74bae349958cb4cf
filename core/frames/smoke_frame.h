// Smoke in the OpenVDB file of a frame: grids density (kg/m³), temperature (K), color (linear RGB) and
// velocity (m/s, staggered), voxel (i, j, k) centred at (i + ½, j + ½, k + ½) · cell size. Each room that
// moves has grids of its own, density_room_1 and so on, with its place as their transform; their velocity is
// that in the world, at the middle of each voxel.
#pragma once
#include <array>
#include <filesystem>
#include <string>
#include <vector>

#include "frames/frame.h"
#include "frames/stored.h"
#include "gas/gas.h"

namespace pour {

/// How a room of the grid stands and moves at a frame, in the world.
struct RoomMotion {
  int room = 0;
  Pose pose;
  Vec3d velocity{}, spin{};  // of its origin, m/s; rad/s
};

/// Rooms that are not named stand still.
void add_smoke(FrameGrids&, const GasState&, double cell_size, const std::vector<RoomMotion>& moving = {});

/// A block of a frame's smoke as its grids have it; cells as solve/block_grid.h counts them.
struct SmokeBlock {
  Vec3i at;
  std::array<bool, block_cells> here{};                // the others hold none that was kept
  std::array<float, block_cells> density{}, heat{};    // kg/m³; K above the air
  std::array<Vec3f, block_cells> color{}, velocity{};  // as the grids have them
};
struct SmokeBlocks {
  int room = 0;  // that moves; 0: all that stands still
  std::vector<SmokeBlock> blocks;
};
/// All that it holds, to go on from it; in the order of rooms. Throws as read_frame().
std::vector<SmokeBlocks> read_smoke_blocks(const StoredFrame&);

/// What pictures need of a frame: dense arrays over the box that holds smoke, x fastest.
struct SmokeVolume {
  double cell_size = 0;
  int room = 0;                      // that moves; 0: all that stands still
  Pose pose;                         // of its space in the world
  Vec3i low, count;                  // in cells; count is zero where there is no smoke
  std::vector<float> density;        // kg/m³
  std::vector<float> color;          // three a cell, linear
  std::vector<float> speed, warmth;  // in the world, m/s; K above the air; where asked for
  std::vector<Vec3f> velocity;       // the same, in the world, m/s
};
/// Its volumes: first the one of all that stands still, then those of the rooms that move; none where the
/// frame has no smoke. Throws Fault
/// (Blame::shot) for a file that is missing, torn, no such frame or not the one that was recorded.
std::vector<SmokeVolume> read_frame(const StoredFrame&, bool with_flow = false);
inline std::vector<SmokeVolume> read_frame(const std::filesystem::path& file, bool with_flow = false) {
  return read_frame(StoredFrame{file, {}, 0}, with_flow);
}

}  // namespace pour
