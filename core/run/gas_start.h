// Smoke that continues from a frame of an earlier run.
#pragma once
#include "frames/smoke_frame.h"

namespace pour {

/// The smoke of a frame, in the world at that frame. A frame stores density, heat and colour as half floats,
/// and velocity only where there is smoke; the velocity of the air around is extended from there. Throws as
/// read_smoke_blocks(), and Fault (Blame::shot) if other rooms move now.
GasState gas_from_frame(const StoredFrame&, const GasWorld&, const std::vector<RoomMotion>&, GasSolver&);

}  // namespace pour
