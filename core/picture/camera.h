// The shot camera as a pinhole camera.
#pragma once
#include "base/vec.h"
#include "shot/shot.h"

namespace pour {

/// A pinhole camera with film 36 mm wide.
struct View {
  Vec3f eye, right, up, forward;
  float half_width = 0.36f, half_height = 0.2f;  // of the picture at distance 1

  View(const Camera&, double aspect);
  /// Direction through a point of the picture; x and y from -1 (left, bottom) to 1.
  Vec3f ray(float x, float y) const {
    return normalized(forward + right * (x * half_width) + up * (y * half_height));
  }
  /// The camera mirrored in the floor, y = 0. It sees the set as this one sees the set's mirror image.
  View mirrored() const;
  /// Picture coordinates and distance along `forward`.
  Vec3f project(const Vec3f& p) const {
    const Vec3f d = p - eye;
    const float z = dot(d, forward);
    return {dot(d, right) / (z * half_width), dot(d, up) / (z * half_height), z};
  }
};

/// Unit direction from the set to a light or camera at this azimuth and elevation, rad.
Vec3f direction_to(double azimuth, double elevation);

}  // namespace pour
