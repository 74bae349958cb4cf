// Checks of lights and pictures.
#pragma once
#include "check/checks.h"

namespace pour {

std::vector<Check> light_checks(const Shot&);

}  // namespace pour
