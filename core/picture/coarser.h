// Fewer triangles for what is seen in motion.
#pragma once
#include <memory>

#include "picture/layers.h"

namespace pour {

/// A surface of about so many triangles whose points are among its own, with their colours; itself where it
/// has no more. By fewer_triangles().
std::shared_ptr<const Surface> coarser(const std::shared_ptr<const Surface>&, size_t triangles);

}  // namespace pour
