// Models from files, read by a program of its own.
#pragma once
#include <filesystem>
#include <string>

#include "base/work.h"
#include "shape/model_bytes.h"

namespace pour {

/// What unpack_model() takes, from an OBJ, PLY, STL, glTF, GLB or FBX file. easy-pour-reader reads it, with
/// limits of memory and time and nothing but the file's own folder: where it fails or crashes, that is a
/// Fault (Blame::shot) that says so. Throws GivenUp, having ended it, where that is asked.
std::string read_model(const std::filesystem::path& file, const StopAsked& = {});

}  // namespace pour
