// Smoke that goes on from a frame of an earlier run.
#pragma once
#include "frames/smoke_frame.h"

namespace pour {

/// What a frame holds of smoke, in a world as it is at that frame. A frame has density, heat and colour to
/// the precision of half floats, and the velocity where there is smoke: the air around is continued from
/// there. Throws as read_smoke_blocks(), and Fault (Blame::shot) where other rooms moved than move now.
GasState gas_from_frame(const StoredFrame&, const GasWorld&, const std::vector<RoomMotion>&, GasSolver&);

}  // namespace pour
