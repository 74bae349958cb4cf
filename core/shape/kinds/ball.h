// A ball.
#pragma once
#include "shape/body.h"
#include "shot/setting.h"

namespace pour {

struct Ball {
  double radius = 0.03;
  bool operator==(const Ball&) const = default;

  static constexpr Option kind{"ball", "Ball"};
  static constexpr const char* sentence = "A ball of {radius} radius.";

  static Table<Ball> settings() {
    return TableOf<Ball>()
        .touching(Touches::shape)
        .add(&Ball::radius, "radius", "Radius", Unit::length, {1e-4, 100, 0.005, 0.3}, "Radius of the ball.")
        .done();
  }

  std::vector<Body> bodies(const StopAsked&) const {
    return {plain_body(ball_mesh(radius), {radius, radius, radius}, true)};
  }
};

}  // namespace pour
