// Skins as files: PLY, binary, that any program for models reads.
#pragma once
#include <filesystem>
#include <optional>

#include "surface/fluid_skins.h"

namespace pour {

/// Whole or not at all. Vertices have x, y, z (m), red, green, blue (linear, floats), vx, vy, vz (m/s) and
/// `fluid`, the number of their liquid; where it has bubbles an element `particle` has the depth of each of
/// its points (m). `inputs` names all that they are made from. Throws Fault (Blame::machine).
void write_skins(const std::vector<FluidSkin>&, const std::string& inputs, const std::filesystem::path&);
/// What a file that was written so was made from; empty for others. Never throws.
std::string skins_made_from(const std::filesystem::path&);
/// None where a file is not there, is torn, or was made from something else.
std::optional<std::vector<FluidSkin>> read_skins(const std::filesystem::path&, const std::string& inputs);

}  // namespace pour
