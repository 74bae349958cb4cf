// Colour of smoke by density or warmth.
#pragma once
#include "frames/smoke_frame.h"
#include "shot/shot.h"

namespace pour {

/// Whether the look needs warmth.
bool needs_warmth(const Look&);
/// Blend from 0 to 1 towards the second colour or full emission, from density and warmth relative to the
/// look's full values; `even` if it depends on neither.
float part_by(SmokeBy, float dense, float warm, float even);
/// Applies the look's colours to smoke.
void color_smoke(SmokeVolume&, const Look&);

}  // namespace pour
