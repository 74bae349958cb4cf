// Fewer triangles for what is seen in motion.
#pragma once
#include <memory>

#include "picture/layers.h"

namespace pour {

/// A surface of about so many triangles whose points are among its own, with their colours; itself where it
/// has no more. Method: quadric error metrics (Garland & Heckbert 1997), by meshoptimizer.
std::shared_ptr<const Surface> coarser(const std::shared_ptr<const Surface>&, size_t triangles);

}  // namespace pour
