// The ellipsoid over which each particle's mass is spread.
#pragma once
#include "base/simd.h"
#include "surface/bins.h"

namespace pour {

/// Density (1 - q²)³, where q² = d·M·d is less than one.
struct Kernel {
  Vec3f at;        // m
  float m[6];      // xx, yy, zz, xy, yz, zx of M, 1/m²
  Vec3f reach;     // half extent along each axis, m
  float most = 0;  // at its centre; 1 is the liquid's density
  float density(const Vec3f& p) const {
    const Vec3f d = p - at;
    const float q = m[0] * d.x * d.x + m[1] * d.y * d.y + m[2] * d.z * d.z +
                    2 * (m[3] * d.x * d.y + m[4] * d.y * d.z + m[5] * d.z * d.x);
    if (q >= 1) return 0;
    return most * (1 - q) * (1 - q) * (1 - q);
  }
  /// Density at eight points in a row along z.
  v8 density(const Vec3f& first, float step) const {
    const Vec3f d = first - at;
    const v8 z = splat(d.z) + v8{0, 1, 2, 3, 4, 5, 6, 7} * splat(step);
    const v8 flat = splat(m[0] * d.x * d.x + m[1] * d.y * d.y + 2 * m[3] * d.x * d.y);
    const v8 t =
        vmax(splat(0), splat(1) - flat - z * (splat(2 * (m[4] * d.y + m[5] * d.x)) + splat(m[2]) * z));
    return splat(most) * t * t * t;
  }
  /// Adds the density and its gradient at p.
  void add(const Vec3f& p, float& density, Vec3f& slope) const {
    const Vec3f d = p - at;
    const Vec3f md{m[0] * d.x + m[3] * d.y + m[5] * d.z, m[3] * d.x + m[1] * d.y + m[4] * d.z,
                   m[5] * d.x + m[4] * d.y + m[2] * d.z};
    const float q = dot(d, md);
    if (q >= 1) return;
    density += most * (1 - q) * (1 - q) * (1 - q), slope += md * (-6 * most * (1 - q) * (1 - q));
  }
};

/// Position of a particle: deep inside, near the surface, or isolated.
enum class Place : char { deep, shallow, drop };

/// Kernels for sorted points in the simulation's cells, eight points per cell volume. Near the surface,
/// kernels are as flat as the liquid around them; deeper they are round. Every particle stays visible.
/// Method: Yu & Turk, Reconstructing surfaces of particle-based fluids using anisotropic kernels, 2013, with
/// the inverse of the covariance in place of its singular values.
struct Kernels {
  explicit Kernels(const Bins&);
  std::vector<Kernel> of;
  std::vector<Place> place;
};

}  // namespace pour
