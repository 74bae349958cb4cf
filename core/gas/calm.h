// Damps waves that cells cannot resolve. Shear draws smoke into ever finer threads. Where the flow runs along
// the grid, transport does not interpolate across it, so threads of two or three cells would remain as
// streaks. Resolved scales are left alone.
#pragma once
#include "gas/gas.h"

namespace pour {

struct Calming {
  const BlockGrid& grid;
  const std::vector<GasSolver::Surroundings>& surroundings;
  const Bytes& open;                            // of the cells or faces that the field lives on
  uint8_t whole;                                // value in `open` of a cell or face without solids
  float share;                                  // strength of the damping, up to 1/12
  float trace = 0;                              // smaller values become zero
  const std::vector<uint8_t>* there = nullptr;  // by block, whether the field is present; null: everywhere

  /// `to` becomes `from` with waves of two cells damped by 4 `share` along each axis, of four cells by
  /// `share`, and smooth changes and steps not at all (fourth differences, limited). Fluxes conserve the
  /// field, no value leaves the range of its neighbours, and walls are skipped.
  void calm(const Floats& from, Floats& to) const;
  /// Damps a field carried as a share of `lead`: fluxes carry the share of the cell they leave.
  void calm(const Floats& from, const Floats& lead, Floats& to) const;
};

}  // namespace pour
