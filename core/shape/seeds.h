// Places from which smoke can fill a body of any shape.
#pragma once
#include "shape/body.h"

namespace pour {

/// Sets the seeds and the stroke of a closed body by its level set, on cells of a 48th of its size or a third
/// of how thick it is on average, but at least a 256th of its size.
void find_seeds(Body&);

}  // namespace pour
