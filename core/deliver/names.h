// File names from patterns.
#pragma once
#include <string>

namespace pour {

/// Fills in a pattern such as “{shot}_{run}_{frame:04}”. Throws Fault (Blame::shot) for an unknown word in
/// braces, an invalid file name, or a missing {frame} if there are `several`.
std::string picture_name(const std::string& pattern, const std::string& shot, int run, int frame,
                         bool several);

}  // namespace pour
