// Skins as binary PLY files.
#pragma once
#include <filesystem>
#include <optional>

#include "surface/fluid_skins.h"

namespace pour {

/// Writes the whole file or nothing. Vertices have x, y, z (m), red, green, blue (linear, floats), vx, vy, vz
/// (m/s) and `fluid`, the index of their fluid. With bubbles, an element `particle` has the depth of each
/// point (m). `inputs` identifies the data the skin is made from. Throws Fault (Blame::machine).
void write_skins(const std::vector<FluidSkin>&, const std::string& inputs, const std::filesystem::path&);
/// The `inputs` of such a file; empty for other files. Never throws.
std::string skins_made_from(const std::filesystem::path&);
/// Nothing if the file is missing, damaged or made from other inputs.
std::optional<std::vector<FluidSkin>> read_skins(const std::filesystem::path&, const std::string& inputs);

}  // namespace pour
