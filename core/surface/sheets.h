// Fills gaps in sheets and threads of liquid that have too few particles.
#pragma once
#include "frames/liquid_frame.h"
#include "shot/shot.h"

namespace pour {

/// Adds points in gaps of up to `widest` (m) in sheets and threads, each midway between two others with their
/// mean attributes. They are used for the skin only, never simulated or counted. Gaps under a cell get none.
/// Same points at any thread count. Method: Ando & Tsuruno, A particle-based method for preserving fluid
/// sheets, 2011, between Gabriel neighbours (Gabriel & Sokal 1969) and without mass.
void close_sheets(LiquidPoints&, double widest);
/// fill_sheets() with the settings of the shot.
void close_sheets(LiquidPoints&, const SkinSettings&);

}  // namespace pour
