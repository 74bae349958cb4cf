// How much of cells and faces is open to a fluid: the geometry that solvers compute in.
#pragma once
#include "solve/block_grid.h"
#include "world/world.h"

namespace pour {

struct CellGeometry {
  Bytes fx, fy, fz;  // open part of the faces, 1/255
  // Of the cells: 0 solid, 1 to full_volume gas by its part of the cell, outside_volume open air.
  Bytes volume;
};
constexpr int full_volume = 254, outside_volume = 255;

/// Whether any of a block's cells is open.
bool has_space(const World&, const BlockKey&);
/// What is at a block that is not computed: a wall or open air.
int beyond_grid(const World&, const BlockKey&);
/// Fills in the geometry of one block. Faces are cut exactly where the surface is flat, cells by eight
/// sub-cells.
void cut_block(CellGeometry&, const World&, const BlockKey&, int block);
/// Whether a solid that moves reaches into a block at the end of the step.
bool is_moved_through(const World&, const BlockKey&);

}  // namespace pour
