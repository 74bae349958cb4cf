// A cylinder that stands upright.
#pragma once
#include "shape/body.h"
#include "shape/turned_mesh.h"
#include "shot/setting.h"

namespace pour {

struct Cylinder {
  double radius = 0.04, height = 0.12;
  bool operator==(const Cylinder&) const = default;

  static constexpr Option kind{"cylinder", "Cylinder"};
  static constexpr const char* sentence = "A cylinder of {radius} radius, {height} high.";

  static Table<Cylinder> settings() {
    return TableOf<Cylinder>()
        .touching(Touches::shape)
        .add(&Cylinder::radius, "radius", "Radius", Unit::length, {1e-4, 100, 0.005, 0.3},
             "Radius of the cylinder.")
        .add(&Cylinder::height, "height", "Height", Unit::length, {1e-4, 100, 0.01, 0.6},
             "Height of the cylinder from end to end.")
        .done();
  }

  std::vector<Body> bodies(const StopAsked&) const {
    return {plain_body(cylinder_mesh(radius, height), {radius, height / 2, radius}, false)};
  }
};

}  // namespace pour
