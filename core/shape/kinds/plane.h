// A level flat sheet: a table top, a screen, a wide source.
#pragma once
#include <cmath>

#include "shape/pierced.h"
#include "shot/setting.h"

namespace pour {

struct Plane {
  double width = 0.4, length = 0.3, thickness = 0.004;
  Piercing holes;
  bool operator==(const Plane&) const = default;

  static constexpr Option kind{"plane", "Plane"};
  static constexpr const char* sentence = "A plane, {width} wide and {length} deep.";

  static Table<Plane> settings() {
    TableOf<Plane> table;
    table.touching(Touches::shape)
        .add(&Plane::width, "width", "Width", Unit::length, {1e-4, 1000, 0.02, 2},
             "Width from left to right.")
        .add(&Plane::length, "length", "Length", Unit::length, {1e-4, 1000, 0.02, 2},
             "Length from back to front.")
        .add(&Plane::thickness, "thickness", "Thickness", Unit::length, {1e-4, 10, 0.001, 0.05},
             "Thickness from the lower to the upper side.")
        .more();
    return add_piercing(table).done();
  }

  std::vector<Body> bodies(const StopAsked&) const {
    const Vec3d size{width, thickness, length};
    Body body = plain_body(box_mesh(size), size * 0.5, false);
    body.mouth = Mouth{{}, {width / 2, 0, 0}, {0, 0, length / 2}, false};
    const double x = width / 2, z = length / 2;
    pierce(body, holes, {{{-x, -z, 0}, {x, -z, 0}, {x, z, 0}, {-x, z, 0}}}, thickness,
           [&](const Vec3d& at, double room) {
             return std::abs(at.x) + room <= x && std::abs(at.y) + room <= z;
           });
    return {std::move(body)};
  }
};

}  // namespace pour
