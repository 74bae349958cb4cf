// What is inside of cloudy liquids, by the colour that they are seen in.
#pragma once
#include "base/vec.h"

namespace pour {

/// Part of light from all sides that a smooth surface mirrors; `index` that of what is behind it (Fresnel's
/// equations over cosines).
float mirrored_of_all_sides(float index);

/// A smooth surface of this index over what scatters.
class CloudySurface {
 public:
  explicit CloudySurface(float index);
  /// The albedo of single scatterings with which a thick body is seen in this colour, beside what its surface
  /// mirrors. What is scattered back meets the surface from within, which sends most of it back again
  /// (Saunderson 1942); the albedo of what is so deep is van de Hulst's (Multiple Light Scattering, 1980,
  /// from memory).
  Vec3f albedo(const Vec3f& color) const;

 private:
  float comes_in_, sent_back_;  // of light from all sides: through it from outside; mirrored from within
};

}  // namespace pour
