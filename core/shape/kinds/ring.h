// A ring that lies level: a torus.
#pragma once
#include "shape/body.h"
#include "shape/turned_mesh.h"
#include "shot/setting.h"

namespace pour {

struct Ring {
  double radius = 0.08, thickness = 0.02;
  bool operator==(const Ring&) const = default;

  static constexpr Option kind{"ring", "Ring"};
  static constexpr const char* sentence = "A ring of {radius} radius, {thickness} thick.";

  static Table<Ring> settings() {
    return TableOf<Ring>()
        .touching(Touches::shape)
        .add(&Ring::radius, "radius", "Radius", Unit::length, {1e-4, 100, 0.01, 0.4},
             "Radius from the centre of the ring to the centre of its tube.")
        .add(&Ring::thickness, "thickness", "Thickness", Unit::length, {1e-4, 100, 0.002, 0.1},
             "Thickness of the ring's tube, at most twice the radius.")
        .done();
  }

  std::vector<Body> bodies(const StopAsked&) const {
    const double r = std::min(thickness / 2, radius * 0.999);
    Body body = plain_body(ring_mesh(radius, r), {r, r, r}, true);
    for (auto& seeds : body.seeds)
      for (Body::Seed& s : seeds) s.place.x -= radius;
    return {std::move(body)};
  }
};

}  // namespace pour
