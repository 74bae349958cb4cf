// How smoke looks by how dense or warm it is.
#pragma once
#include "frames/smoke_frame.h"
#include "shot/shot.h"

namespace pour {

/// Whether its warmth has to be known for that.
bool needs_warmth(const Look&);
/// How far a cell is on the way to what the look calls dense or warm, 0 to 1, by its density and warmth as
/// parts of those; `even` where it goes by neither.
float part_by(SmokeBy, float dense, float warm, float even);
/// Gives smoke the colours that the look says.
void color_smoke(SmokeVolume&, const Look&);

}  // namespace pour
