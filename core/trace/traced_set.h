// From a shot and a frame of its run to what a traced picture shows.
#pragma once
#include "frames/liquid_frame.h"
#include "trace/path_tracer.h"

namespace pour {

/// `shot` as it is at the frame, with the look and camera to be seen in; `smoke` in kg/m³ against its walls.
TracedSet traced_set(const Shot& shot, const LiquidPoints&, std::vector<SmokeWalls::Sealed> smoke);
/// The same of a frame's file; `time` of the shot, s. Throws Fault (Blame::shot) where it is missing or torn.
TracedSet traced_frame(const StoredFrame&, const Shot& shot, const SmokeWalls&, double time);

}  // namespace pour
