// A current along a curve, or along copies of the curve set round an axis.
#pragma once
#include <numbers>

#include "shape/curve.h"
#include "shot/setting.h"
#include "world/field.h"
#include "world/gusts.h"

namespace pour {

struct Current {
  Points points{{{-0.2, 0.1, 0}, {-0.07, 0.18, 0}, {0.07, 0.08, 0}, {0.2, 0.16, 0}}};
  bool closed = false;
  double speed = 0.5;     // m/s
  double end_speed = 1;   // share of it at the end of the curve
  double radius = 0.05;   // m
  double draw = 0.1;      // m/s
  double response = 0.1;  // s
  int copies = 1;
  Vec3d position{0, 0, 0}, direction{0, 1, 0};  // of the axis
  double noise = 0;                             // share of the speed
  double noise_size = 0.03;                     // m
  double noise_rate = 1;                        // 1/s
  bool operator==(const Current&) const = default;

  static constexpr Option kind{"current", "Current along a curve"};
  static constexpr const char* sentence =
      "Carries the fluid along a curve at {speed} , within {radius} of it.";
  static constexpr bool moves_liquid = true, goes_inside = false;

  static Table<Current> settings() {
    using C = Current;
    const auto has_axis = [](const C& c) { return c.copies > 1; };
    const auto has_noise = [](const C& c) { return c.noise > 0; };
    return TableOf<C>()
        .add(&C::points, "points", "Points", Unit::length, {-1e3, 1e3, -1, 1},
             "Points of the curve: right, up, towards the camera, and optionally the radius there as a share "
             "of the radius. An SVG path is read in millimetres.")
        .add(&C::closed, "closed", "Closed", "Joins the end of the curve to its start.")
        .fixed()
        .add(&C::speed, "speed", "Speed", Unit::speed, {-100, 100, 0, 3}, "Speed along the curve.")
        .add(&C::radius, "radius", "Radius", Unit::length, {1e-4, 1e3, 0.005, 0.3},
             "Distance from the curve at which the current ends. It is strongest at the curve.")
        .add(&C::draw, "draw_speed", "Draw speed", Unit::speed, {-100, 100, 0, 1},
             "Speed towards the curve. Negative values drive fluid away from it.")
        .add(&C::end_speed, "end_speed", "End speed", Unit::percent, {0, 10, 0, 2},
             "Speed at the end of the curve as a share of that at its start.")
        .where([](const C& c) { return !c.closed; })
        .more()
        .add(&C::response, "response_time", "Response time", Unit::time, {1e-4, 1e4, 0.01, 2},
             "Time in which still fluid reaches 63 % of the current's speed. Shorter is stronger.")
        .more()
        .add(&C::copies, "copies", "Copies", Unit::none, {1, 64, 1, 12},
             "Number of such curves, set round an axis at equal angles.")
        .fixed()
        .more()
        .add(&C::position, "axis_position", "Axis position", Unit::length, {-1e4, 1e4, -1, 1},
             "A point on the axis of the copies: right, up and towards the camera.")
        .where(has_axis)
        .more()
        .add(&C::direction, "axis_direction", "Axis direction", Unit::none, {-1e3, 1e3, -1, 1},
             "Direction of the axis of the copies as a vector: right, up, towards the camera.")
        .where(has_axis)
        .more()
        .add(&C::noise, "noise", "Noise", Unit::percent, {0, 10, 0, 1},
             "Speed of eddies in the current, as a share of its speed.")
        .more()
        .add(&C::noise_size, "noise_size", "Noise size", Unit::length, {1e-4, 1000, 0.005, 0.2},
             "Size of the largest eddies in the current.")
        .where(has_noise)
        .more()
        .add(&C::noise_rate, "noise_rate", "Noise rate", Unit::rate, {0, 100, 0, 5},
             "How many times per second the pattern of eddies is replaced by a new one.")
        .where(has_noise)
        .more()
        .done();
  }

  Curve curve() const { return Curve(points.list, closed, points.sizes); }
  /// The turns of its copies about their axis.
  std::vector<Rotation> turns() const;
  Vec3d* pointing() { return copies > 1 ? &direction : nullptr; }
  Vec3d* place() { return copies > 1 ? &position : nullptr; }
  void weaken(double by) { speed /= by, draw /= by; }
  std::shared_ptr<const Field> field(const SetAround&) const;
};

struct CurrentField : Field {
  CurrentField(const Current& c, double time);
  void add(const EightPlaces&, v8 share, Push&) const override;
  Most most(const Box&) const override {
    return {0, std::abs(current.speed) * std::max(1.0, current.end_speed) * (1 + 2 * current.noise) +
                   std::abs(current.draw)};
  }
  std::shared_ptr<const Field> within(const Box&, double places) const override;
  /// One of the copies, in whose frame of reference the places are.
  void add_copy(const EightPlaces&, const Rotation& turn, v8 share, Push&) const;

  Current current;
  Gusts eddies;
  struct Bit {  // of the curve
    Vec3f from, to, way_from, way_to;
    float share_from, share_to, size_from, size_to;
  };
  std::vector<Bit> bits;
  Box box;                      // of the curve and its radius
  std::vector<Rotation> turns;  // of the copies
};

inline std::shared_ptr<const Field> Current::field(const SetAround& set) const {
  return std::make_shared<CurrentField>(*this, set.time);
}

}  // namespace pour
