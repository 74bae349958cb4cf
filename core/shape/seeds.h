// Seeds in bodies of any shape.
#pragma once
#include "shape/body.h"

namespace pour {

/// Sets the seeds and stroke of a closed body from its level set, on cells of a 48th of its size or a third
/// of its mean thickness, but no less than a 256th of its size.
void find_seeds(Body&);

}  // namespace pour
