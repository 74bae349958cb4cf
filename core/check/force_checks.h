// Checks of forces.
#pragma once
#include "check/checks.h"
#include "run/space.h"

namespace pour {

std::vector<Check> force_checks(const Shot&, const Space&);

}  // namespace pour
