// Liquid as particles, sorted by the cells of a block grid.
#pragma once
#include <array>
#include <cstdint>
#include <vector>

#include "solve/block_grid.h"

namespace pour {

/// Volume of a particle, m³, with cells of this size, m. Eight fill a cell.
inline double particle_volume(double cell_size) { return cell_size * cell_size * cell_size / 8; }

/// Structure of arrays.
struct Particles {
  std::array<std::vector<float>, 3> place;     // in cells from the origin of space
  std::array<std::vector<float>, 3> velocity;  // m/s
  // Velocity gradient (APIC): slope[3 · k + a] is the derivative of component k along axis a, m/s a cell.
  std::array<std::vector<float>, 9> slope;
  std::vector<float> age;       // s
  std::vector<uint32_t> id;     // in the order of pouring
  std::vector<uint8_t> liquid;  // index of the liquid
  std::vector<uint32_t> tint;   // poured colour (pack_tint()); 0: the liquid's
  std::vector<uint16_t> goal;   // part of a target that it goes to (part_of()); 0: none

  size_t size() const { return id.size(); }
  void resize(size_t);
  /// Calls f with each array.
  template <class F>
  void each(const F& f) {
    for (auto* three : {&place, &velocity})
      for (auto& v : *three) f(v);
    for (auto& v : slope) f(v);
    f(age), f(id), f(liquid), f(tint), f(goal);
  }
};

/// Packs a linear colour as 25 bits, eight of sRGB a channel, never 0; and unpacks it.
uint32_t pack_tint(const Vec3d& linear);
Vec3f unpack_tint(uint32_t);

/// Particles by cell: those of cell c of block b are cell_start[n] up to cell_start[n + 1], with
/// n = (b - first_block) · block_cells + c.
struct ParticleCells {
  std::vector<uint32_t> cell_start;
  uint32_t begin(int block, int c) const { return cell_start[at(block, c)]; }
  uint32_t end(int block, int c) const { return cell_start[at(block, c) + 1]; }
  uint32_t count(int block, int c) const { return end(block, c) - begin(block, c); }

 private:
  static size_t at(int block, int c) { return size_t(block - first_block) * block_cells + size_t(c); }
};

/// Sorts particles by the cells of a grid (room 0), by a stable counting sort, so the order is the same at
/// any thread count. Removes particles outside the grid.
ParticleCells sort_particles(Particles&, const BlockGrid&);

/// Blocks by position, without searching.
class BlockTable {
 public:
  explicit BlockTable(const BlockGrid&);
  /// The block of room 0 at block coordinates, or -1.
  int find(const Vec3i& at) const {
    const Vec3i p = at - low_;
    if (p.x < 0 || p.y < 0 || p.z < 0 || p.x >= count_.x || p.y >= count_.y || p.z >= count_.z) return -1;
    return blocks_[(size_t(p.z) * size_t(count_.y) + size_t(p.y)) * size_t(count_.x) + size_t(p.x)];
  }

 private:
  Vec3i low_, count_;
  std::vector<int> blocks_;
};

}  // namespace pour
