// Neighbours and positions of cells in a block.
#pragma once
#include "solve/block_grid.h"

namespace pour {

/// Index into the whole field of the neighbour of cell c along an axis.
inline size_t before(const int* around, int block, int c, int axis) {
  constexpr int stride[3] = {1, 8, 64}, minus[3] = {x_minus, y_minus, z_minus};
  return c >> 3 * axis & 7 ? size_t(block) * block_cells + size_t(c - stride[axis])
                           : size_t(around[minus[axis]]) * block_cells + size_t(c + 7 * stride[axis]);
}
inline size_t after(const int* around, int block, int c, int axis) {
  constexpr int stride[3] = {1, 8, 64}, plus[3] = {x_plus, y_plus, z_plus};
  return (c >> 3 * axis & 7) < 7 ? size_t(block) * block_cells + size_t(c + stride[axis])
                                 : size_t(around[plus[axis]]) * block_cells + size_t(c - 7 * stride[axis]);
}

/// The box around a block in its frame of reference, with a pose applied, m.
inline Box bounds_of(const BlockKey& key, double h, const Pose& pose = {}) {
  Box out;
  for (int k = 0; k < 8; ++k)
    out.add(pose *
            ((to<double>(key.at) + Vec3d{double(k & 1), double(k >> 1 & 1), double(k >> 2)}) * (8 * h)));
  return out;
}
/// The box around all blocks, m; of rooms, in their frames of reference.
inline Box bounds_of(const BlockGrid& g, double h) {
  Box out;
  for (const BlockKey& k : g.keys()) out.add(bounds_of(k, h));
  return out;
}

/// Index of a cell among the 10³ cells from -1 to 8 along each axis.
constexpr int tile_cells = 1000;
inline int in_tile(int c) { return ((c >> 6) + 1) * 100 + ((c >> 3 & 7) + 1) * 10 + (c & 7) + 1; }

/// Centre of a cell, and of its face towards smaller values along an axis, m.
inline Vec3d cell_middle(const BlockGrid& g, int b, int c, double h) {
  const Vec3i at = g.key(b).at * 8;
  return Vec3d{at.x + (c & 7) + 0.5, at.y + (c >> 3 & 7) + 0.5, at.z + (c >> 6) + 0.5} * h;
}
inline Vec3d face_middle(const BlockGrid& g, int b, int c, int axis, double h) {
  Vec3d p = cell_middle(g, b, c, h);
  p[axis] -= h / 2;
  return p;
}

}  // namespace pour
