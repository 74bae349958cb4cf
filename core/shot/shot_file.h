// A shot as a file: NAME.pour, readable JSON with a version.
#pragma once
#include <filesystem>
#include <nlohmann/json_fwd.hpp>
#include <string>

#include "shot/shot.h"

namespace pour {

/// The version this program writes; older versions are converted when read.
constexpr int shot_file_version = 11;

/// The shot as JSON text: SI numbers, choices as words, colours as [r, g, b] linear.
std::string shot_to_json(const Shot&);

/// Throws Fault (Blame::shot) naming `where` and the setting: not JSON, a newer version, an unknown setting
/// (with the nearest known one), a wrong type. A number beyond its limits is clamped and noted in
/// Shot::out_of_range.
Shot shot_from_json(const std::string& text, const std::string& where);

/// The shot as JSON inside another file.
nlohmann::ordered_json shot_as_json(const Shot&);
Shot shot_from_json(const nlohmann::ordered_json&, const std::string& where);

Shot load_shot(const std::filesystem::path&);
/// Writes the whole file or nothing. Throws Fault (Blame::machine) if the folder cannot be written.
void save_shot(const Shot&, const std::filesystem::path&);

}  // namespace pour
