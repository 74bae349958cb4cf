// Moves a field from one grid to another.
#pragma once
#include "base/parallel.h"
#include "solve/block_grid.h"

namespace pour {

/// Blocks in both grids keep their values, new ones are zero.
template <class T>
void move_blocks(BlockField<T>& field, const BlockGrid& from, const BlockGrid& to) {
  BlockField<T> moved(to.size());
  parallel_for(size_t(to.blocks()), [&](size_t i) {
    const int b = int(i) + first_block, old = from.find(to.key(b));
    if (old >= 0) std::copy_n(field.block(old), block_cells, moved.block(b));
  });
  field = std::move(moved);
}

}  // namespace pour
