// Files whose copies a shot keeps, and whether they changed since.
#pragma once
#include <vector>

#include "check/checks.h"

namespace pour {

/// A check for each file that changed since it was imported; its fix imports it again and keeps all settings.
/// Missing and unreadable files are fine, because the shot has its copy.
std::vector<Check> file_checks(const Shot&);
/// The files of which a shot has copies, with full paths.
std::vector<std::string> files_of(const Shot&);

}  // namespace pour
