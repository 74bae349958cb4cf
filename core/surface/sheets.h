// Thin sheets and threads of liquid that particles have become too few for.
#pragma once
#include "frames/liquid_frame.h"
#include "shot/shot.h"

namespace pour {

/// Adds points into gaps of up to `widest` (m) in what is flat or drawn out, each in the middle of two others
/// and with the mean of what they have. They are for the skin alone: nothing is simulated with them, and no
/// book counts them. Gaps of less than a cell need none. Same points at any thread count.
/// Method: Ando & Tsuruno, A particle-based method for preserving fluid sheets, 2011, where points go between
/// those that no other lies between (Gabriel & Sokal 1969), and carry no mass.
void close_sheets(LiquidPoints&, double widest);
/// The same as the shot says.
void close_sheets(LiquidPoints&, const SkinSettings&);

}  // namespace pour
