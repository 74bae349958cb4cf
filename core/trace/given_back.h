// Where the light goes that is cut off from paths which bring far too much.
#pragma once
#include <vector>

#include "base/vec.h"

namespace pour {

/// Spreads what was cut off in each pixel over the pixels around it, in proportion to `weight`, how much
/// scattered light each of them can show. As much comes back as was cut off, on surfaces only, and twice as
/// much for twice the light. Both are row-major and of width × height; a weight is above 0 where something
/// was cut.
std::vector<Vec3f> given_back(const std::vector<Vec3f>& cut, const std::vector<float>& weight, int width,
                              int height);

}  // namespace pour
