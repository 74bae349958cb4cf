// The shot camera as geometry.
#pragma once
#include "base/vec.h"
#include "shot/shot.h"

namespace pour {

/// A pinhole camera; a picture is 36 mm wide on its film.
struct View {
  Vec3f eye, right, up, forward;
  float half_width = 0.36f, half_height = 0.2f;  // of the picture at distance 1

  View(const Camera&, double aspect);
  /// The direction through a point of the picture; x and y from -1 (left, bottom) to 1.
  Vec3f ray(float x, float y) const {
    return normalized(forward + right * (x * half_width) + up * (y * half_height));
  }
  /// The camera's mirror image in the floor, y = 0: it sees at each point of its picture what this one sees
  /// of the mirror image of the set.
  View mirrored() const;
  /// Picture coordinates and distance along `forward`.
  Vec3f project(const Vec3f& p) const {
    const Vec3f d = p - eye;
    const float z = dot(d, forward);
    return {dot(d, right) / (z * half_width), dot(d, up) / (z * half_height), z};
  }
};

/// The unit direction from the set to a light or camera that stands at this yaw and pitch.
Vec3f direction_to(double yaw, double pitch);

}  // namespace pour
