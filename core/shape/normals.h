// Sampled surface normals, which show where a source pours.
#pragma once
#include <vector>

#include "shape/body.h"

namespace pour {

struct NormalAt {
  Vec3f at, out;  // in the frame of reference of the bodies, m; unit length
};

/// About `count` samples spread evenly over all surfaces. For walls along a sheet they lie on the sheet; for
/// bodies with a mouth, on the mouth.
std::vector<NormalAt> normals_of(const std::vector<Body>&, size_t about);

}  // namespace pour
