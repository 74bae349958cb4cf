// Where surfaces face: what pours along its normals goes there.
#pragma once
#include <vector>

#include "shape/body.h"

namespace pour {

struct NormalAt {
  Vec3f at, out;  // in the space of the bodies, m; of length 1
};

/// About so many, spread evenly over all surfaces; of bodies that are walls along a sheet those of the sheet,
/// of those that liquid comes out of on one side those of that side.
std::vector<NormalAt> normals_of(const std::vector<Body>&, size_t about);

}  // namespace pour
