// Files that come with the program.
#pragma once
#include <string>

#include "shot/value.h"

namespace pour {

/// A label; empty where it is missing.
PictureFile shipped_label(const std::string& file);

}  // namespace pour
