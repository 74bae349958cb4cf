// Redistributes the light clamped from overly bright paths.
#pragma once
#include <vector>

#include "base/vec.h"

namespace pour {

/// Spreads the clamped light of each pixel over pixels around it in proportion to `weight`, the diffuse light
/// that each can show. Energy is conserved and linear in the lights. Both arrays are row-major, width ×
/// height; weights are positive wherever light was clamped.
std::vector<Vec3f> given_back(const std::vector<Vec3f>& cut, const std::vector<float>& weight, int width,
                              int height);

}  // namespace pour
