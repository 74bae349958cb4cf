// Builds the traced set of a shot and a frame.
#pragma once
#include "frames/liquid_frame.h"
#include "surface/fluid_skins.h"
#include "trace/path_tracer.h"

namespace pour {

/// The set of a shot at a film frame, with the look and camera of the picture; `smoke` in kg/m³, extended
/// into walls. `skins` are those of the liquid, if already made.
TracedSet traced_set(const Shot&, double frame, const LiquidPoints&, std::vector<SmokeWalls::Sealed> smoke,
                     std::optional<std::vector<FluidSkin>> skins = {});
/// The set with the shot's camera, if only the camera changed.
void look_through(TracedSet&, const Shot&, double frame);
/// The set from a frame's file, with its cached skins. Throws Fault (Blame::shot) if it is missing or
/// damaged.
TracedSet traced_frame(const StoredFrame&, const Shot&, double frame, const SmokeWalls&);

}  // namespace pour
