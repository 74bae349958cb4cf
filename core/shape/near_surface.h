// Nearest points, rays and thickness on a surface.
#pragma once
#include <memory>
#include <optional>
#include <vector>

#include "shape/mesh.h"

namespace pour {

/// The point of a triangle nearest to a point.
Vec3f nearest_of_triangle(const Vec3f& p, const Vec3f& a, const Vec3f& b, const Vec3f& c);

class NearSurface {
 public:
  explicit NearSurface(Mesh);
  ~NearSurface();

  struct Place {
    Vec3f at, out;   // the nearest point, and the outward normal there
    float distance;  // signed distance, m; negative inside
  };
  /// The nearest point within `reach`, m.
  std::optional<Place> nearest(const Vec3f&, float reach) const;
  /// The share of the way from one point to another at which the surface is first hit; nothing if it is not.
  std::optional<float> met(const Vec3f& from, const Vec3f& to) const;
  /// Thickness of the body straight inwards from a surface point, m.
  float thickness(const Place&) const;
  /// Number of triangles with an edge through another triangle. Above 200,000 triangles every nth is tested
  /// and counts n times.
  size_t crossings() const;
  /// Thinnest wall, m, without the thinnest 2 % of the surface, because edges and corners have no thickness.
  /// 1e30 for an empty mesh.
  double thinnest() const;

 private:
  struct Kept;
  std::unique_ptr<Kept> kept_;
};

}  // namespace pour
