// What will go wrong with the lights and pictures of a shot.
#pragma once
#include "check/checks.h"

namespace pour {

std::vector<Check> light_checks(const Shot&);

}  // namespace pour
