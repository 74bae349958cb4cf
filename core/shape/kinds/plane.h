// A level flat sheet: a table top, a screen, a wide source.
#pragma once
#include "shape/body.h"
#include "shot/setting.h"

namespace pour {

struct Plane {
  double width = 0.4, length = 0.3, thickness = 0.004;
  bool operator==(const Plane&) const = default;

  static constexpr Option kind{"plane", "Plane"};
  static constexpr const char* sentence = "A plane, {width} wide and {length} deep.";

  static Table<Plane> settings() {
    return TableOf<Plane>()
        .touching(Touches::shape)
        .add(&Plane::width, "width", "Width", Unit::length, {1e-4, 1000, 0.02, 2},
             "Width from left to right.")
        .add(&Plane::length, "length", "Length", Unit::length, {1e-4, 1000, 0.02, 2},
             "Length from back to front.")
        .add(&Plane::thickness, "thickness", "Thickness", Unit::length, {1e-4, 10, 0.001, 0.05},
             "Thickness from the lower to the upper side.")
        .more()
        .done();
  }

  std::vector<Body> bodies(const StopAsked&) const {
    const Vec3d size{width, thickness, length};
    Body body = plain_body(box_mesh(size), size * 0.5, false);
    body.mouth = Mouth{{}, {width / 2, 0, 0}, {0, 0, length / 2}, false};
    return {std::move(body)};
  }
};

}  // namespace pour
