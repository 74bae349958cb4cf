// A tube along a curve through points; also a path for other pieces.
#pragma once
#include "shape/body.h"
#include "shape/curve.h"
#include "shot/setting.h"

namespace pour {

struct Tube {
  Points points{{{-0.15, 0, 0}, {-0.05, 0.06, 0}, {0.05, 0, 0}, {0.15, 0.06, 0}}};
  bool closed = false;
  double radius = 0.008;
  bool operator==(const Tube&) const = default;

  static constexpr Option kind{"tube", "Tube along a curve"};
  static constexpr const char* sentence = "A tube of {radius} radius along a curve.";

  static Table<Tube> settings() {
    return TableOf<Tube>()
        .touching(Touches::shape)
        .add(&Tube::points, "points", "Points", Unit::length, {-1e3, 1e3, -1, 1},
             "Points of the curve: right, up, towards the camera, and optionally the thickness there as a "
             "share of the radius. An SVG path is read in millimetres.")
        .add(&Tube::closed, "closed", "Closed", "Joins the end of the curve to its start.")
        .add(&Tube::radius, "radius", "Radius", Unit::length, {1e-4, 10, 0.001, 0.05}, "Radius of the tube.")
        .done();
  }

  Curve curve() const { return Curve(points.list, closed, points.sizes); }
  std::vector<Body> bodies(const StopAsked&) const {
    const Curve c = curve();
    Body body = plain_body(tube_mesh(c, radius), {radius, radius, radius}, true);
    for (auto& seeds : body.seeds)
      for (Body::Seed& s : seeds) s.place += c.at(0.5);
    return {std::move(body)};
  }
};

}  // namespace pour
