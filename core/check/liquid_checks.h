// Checks of liquid.
#pragma once
#include "check/checks.h"
#include "run/space.h"

namespace pour {

/// Checks that need settings only, and checks that need the pieces' geometry.
std::vector<Check> liquid_checks(const Shot&);
std::vector<Check> liquid_checks(const Shot&, const Space&);

}  // namespace pour
