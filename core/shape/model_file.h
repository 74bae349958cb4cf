// Reads models from files, in a separate process.
#pragma once
#include <filesystem>
#include <string>

#include "base/work.h"
#include "shape/model_bytes.h"

namespace pour {

/// Suffixes of the model files that can be read.
inline constexpr const char* model_suffixes[] = {"obj", "ply", "stl", "gltf", "glb", "fbx"};

/// Packs an OBJ, PLY, STL, glTF, GLB or FBX file for unpack_model(). easy-pour-reader reads it with limits of
/// memory and time and sees only the file's folder; if it fails or crashes, that is a Fault (Blame::shot).
/// Throws GivenUp when stopped, after ending the process.
std::string read_model(const std::filesystem::path& file, const StopAsked& = {});

}  // namespace pour
