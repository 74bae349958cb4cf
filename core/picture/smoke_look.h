// How smoke looks by how dense or warm it is.
#pragma once
#include "frames/smoke_frame.h"
#include "shot/shot.h"

namespace pour {

/// Whether its warmth has to be known for that.
bool needs_warmth(const Look&);
/// How far a cell of so much density (kg/m³) and warmth (K above the air) is on the way to what the look
/// calls dense or warm, 0 to 1; `even` where it goes by neither.
float part_by(SmokeBy, const Look&, float density, float warmth, float even);
/// Gives smoke the colours that the look says.
void color_smoke(SmokeVolume&, const Look&);

}  // namespace pour
