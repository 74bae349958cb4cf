// Scattering albedo of cloudy liquids from their visible colour.
#pragma once
#include "base/vec.h"

namespace pour {

/// Reflectance of a smooth surface for diffuse light; `index` is that of the far side (Fresnel averaged over
/// cosines).
float mirrored_of_all_sides(float index);

/// A smooth surface of this index over a scattering medium.
class CloudySurface {
 public:
  explicit CloudySurface(float index);
  /// The single-scattering albedo with which a deep body shows this colour, apart from surface reflection.
  /// Internal reflection by Saunderson 1942; albedo of a deep medium by van de Hulst (Multiple Light
  /// Scattering, 1980, from memory).
  Vec3f albedo(const Vec3f& color) const;

 private:
  float comes_in_, sent_back_;  // for diffuse light: transmitted from outside, reflected from within
};

}  // namespace pour
