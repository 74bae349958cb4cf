// What lies near a point: the nearest place on a surface.
#pragma once
#include <memory>
#include <optional>
#include <vector>

#include "shape/mesh.h"

namespace pour {

/// The point of a triangle that is nearest to another one.
Vec3f nearest_of_triangle(const Vec3f& p, const Vec3f& a, const Vec3f& b, const Vec3f& c);

class NearSurface {
 public:
  explicit NearSurface(Mesh);
  ~NearSurface();

  struct Place {
    Vec3f at, out;   // the nearest point, and the outward normal there
    float distance;  // from it, m; below 0 inside of the body
  };
  /// Within `reach`, m.
  std::optional<Place> nearest(const Vec3f&, float reach) const;
  /// The share of the way from one point to another at which the surface is met first; none where it is not.
  std::optional<float> met(const Vec3f& from, const Vec3f& to) const;
  /// How thick the body is at a place, straight inwards, m.
  float thickness(const Place&) const;
  /// How many triangles have an edge that runs through another one; of more than 200,000 triangles every nth
  /// is looked at and counts n times.
  size_t crossings() const;
  /// From all but the thinnest 2 % of a surface straight inwards to its other side, m: edges and corners,
  /// which are as thin as one likes, do not count. 1e30 where there is nothing.
  double thinnest() const;

 private:
  struct Kept;
  std::unique_ptr<Kept> kept_;
};

}  // namespace pour
