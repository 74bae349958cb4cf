// From a shot and a frame of its run to what a traced picture shows.
#pragma once
#include "frames/liquid_frame.h"
#include "surface/fluid_skins.h"
#include "trace/path_tracer.h"

namespace pour {

/// The shot at a frame of its film, with the look and camera to be seen in; `smoke` in kg/m³ against its
/// walls. `skins` are those of the liquid where they are known already.
TracedSet traced_set(const Shot&, double frame, const LiquidPoints&, std::vector<SmokeWalls::Sealed> smoke,
                     std::optional<std::vector<FluidSkin>> skins = {});
/// The same set seen by the shot's camera, where nothing but that is another one.
void look_through(TracedSet&, const Shot&, double frame);
/// The same of a frame's file, with the skins that are kept of it. Throws Fault (Blame::shot) where it is
/// missing or torn.
TracedSet traced_frame(const StoredFrame&, const Shot&, double frame, const SmokeWalls&);

}  // namespace pour
