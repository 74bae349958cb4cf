// The open share of cells and faces: the geometry that solvers see.
#pragma once
#include "solve/block_grid.h"
#include "world/world.h"

namespace pour {

struct CellGeometry {
  Bytes fx, fy, fz;  // open share of the faces, 1/255
  // Of the cells: 0 is solid, 1 to full_volume the open share, outside_volume open air.
  Bytes volume;
};
constexpr int full_volume = 254, outside_volume = 255;

/// Whether any of a block's cells is open.
bool has_space(const World&, const BlockKey&);
/// Whether a block outside the grid is wall or open air.
int beyond_grid(const World&, const BlockKey&);
/// Computes the geometry of one block. Faces are exact for flat surfaces; cells are sampled at eight
/// sub-cells.
void cut_block(CellGeometry&, const World&, const BlockKey&, int block);
/// Whether a moving solid reaches into a block at the end of the step.
bool is_moved_through(const World&, const BlockKey&);

}  // namespace pour
