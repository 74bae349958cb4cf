// What lies near a point: the nearest place on the surfaces of solid bodies.
#pragma once
#include <memory>
#include <optional>
#include <vector>

#include "trace/path_tracer.h"

namespace pour {

/// The surfaces of bodies, as they stand in the middle of an exposure.
class NearSurfaces {
 public:
  explicit NearSurfaces(const std::vector<const TracedBody*>&);
  ~NearSurfaces();

  struct Place {
    Vec3f at, out;   // the nearest point, and the outward normal there
    float distance;  // from it, m; below 0 inside of the body
  };
  /// Within `reach`, m.
  std::optional<Place> nearest(const Vec3f&, float reach) const;
  /// How thick the body is at a place, straight inwards, m.
  float thickness(const Place&) const;

 private:
  struct Kept;
  std::unique_ptr<Kept> kept_;
};

}  // namespace pour
