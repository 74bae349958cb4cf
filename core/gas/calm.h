// Takes out of a field what cells can't carry. Gas that shears draws ever finer threads along its way; those
// of two or three cells aren't damped by transport where the way goes along the grid, for across it nothing
// is read between cells, and stand in the picture as streaks. Scales that are resolved are left alone.
#pragma once
#include "gas/gas.h"

namespace pour {

struct Calming {
  const BlockGrid& grid;
  const std::vector<GasSolver::Surroundings>& surroundings;
  const Bytes& open;                            // of the cells or faces that the field lives on
  uint8_t whole;                                // in `open`: nothing solid is near
  float share;                                  // of what differs that goes over; up to 1/12
  float trace = 0;                              // up to here it becomes zero
  const std::vector<uint8_t>* there = nullptr;  // by block: where the field is at all; null: everywhere

  /// `to` becomes `from` with waves of two cells damped by 4 `share` along each axis, of four cells by
  /// `share`, and smooth changes and steps not at all (fourth differences, where the field swings from cell
  /// to cell). What goes from one cell to the next is the same on both sides, and no value leaves the range
  /// of those around it. Walls are left out.
  void calm(const Floats& from, Floats& to) const;
  /// The same for a share of `lead`: what moves carries the share of where it comes from.
  void calm(const Floats& from, const Floats& lead, Floats& to) const;
};

}  // namespace pour
