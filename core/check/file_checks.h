// What a shot keeps copies of, and whether the files have become others since.
#pragma once
#include <vector>

#include "check/checks.h"

namespace pour {

/// A check for each file that was changed since it came in; the fix takes it anew and leaves all settings as
/// they are. One that is gone or can't be read is no fault: the shot has its copy. Reads files that changed.
std::vector<Check> file_checks(const Shot&);
/// The files that a shot has copies of, with their whole paths.
std::vector<std::string> files_of(const Shot&);

}  // namespace pour
