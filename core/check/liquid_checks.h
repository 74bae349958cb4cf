// What will go wrong with the liquid of a shot.
#pragma once
#include "check/checks.h"
#include "run/space.h"

namespace pour {

/// What the settings alone tell, and what it takes the pieces in their places for.
std::vector<Check> liquid_checks(const Shot&);
std::vector<Check> liquid_checks(const Shot&, const Space&);

}  // namespace pour
