#include "picture/camera.h"

namespace pour {

Vec3f direction_to(double azimuth, double elevation) {
  return to<float>(Vec3d{std::sin(azimuth) * std::cos(elevation), std::sin(elevation),
                         std::cos(azimuth) * std::cos(elevation)});
}

View::View(const Camera& c, double aspect) {
  const Vec3f back = direction_to(c.azimuth, c.elevation);
  eye = to<float>(c.target) + back * float(c.distance);
  forward = -back;
  right = normalized(cross(forward, Vec3f{0, 1, 0}));
  up = cross(right, forward);
  half_width = float(0.036 / 2 / c.focal);
  half_height = float(half_width / aspect);
}

View View::mirrored() const {
  View v = *this;
  for (Vec3f* d : {&v.eye, &v.right, &v.up, &v.forward}) d->y = -d->y;
  return v;
}

}  // namespace pour
