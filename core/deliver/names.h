// Names of pictures by a pattern.
#pragma once
#include <string>

namespace pour {

/// “{shot}_{run}_{frame:04}” with what those stand for. Throws Fault (Blame::shot) for a word in braces that
/// stands for nothing, a name that could be no file's, and one without {frame} where there are `several`.
std::string picture_name(const std::string& pattern, const std::string& shot, int run, int frame,
                         bool several);

}  // namespace pour
