// Drag towards turning about an axis, with lift along it and a draw inwards.
#pragma once
#include <numbers>

#include "shot/setting.h"
#include "world/field.h"

namespace pour {

struct Swirl {
  double spin = 2 * std::numbers::pi;  // rad/s
  Vec3d position{0, 0.12, 0};          // m
  Vec3d direction{0, 1, 0};            // of the axis
  double lift = 0, inward = 0;         // m/s
  double core = 0;                     // m
  double response = 0.2;               // s
  bool operator==(const Swirl&) const = default;

  static constexpr Option kind{"swirl", "Swirl"};
  static constexpr const char* sentence = "Turns the fluid at {spin} about an axis towards {direction} .";
  static constexpr bool moves_liquid = true, goes_inside = true;

  static Table<Swirl> settings() {
    using S = Swirl;
    constexpr double degree = std::numbers::pi / 180;
    return TableOf<S>()
        .add(&S::spin, "spin", "Spin", Unit::spin,
             {-36000 * degree, 36000 * degree, -720 * degree, 720 * degree},
             "Speed of turning, counter-clockwise when the axis points at you.")
        .add(&S::position, "position", "Position", Unit::length, {-1e4, 1e4, -1, 1},
             "A point on the axis: right, up and towards the camera.")
        .add(&S::direction, "direction", "Direction", Unit::none, {-1e3, 1e3, -1, 1},
             "Direction of the axis as a vector: right, up, towards the camera.")
        .add(&S::lift, "lift_speed", "Lift speed", Unit::speed, {-100, 100, -1, 1}, "Speed along the axis.")
        .add(&S::inward, "inward_speed", "Inward speed", Unit::speed, {-100, 100, -1, 1},
             "Speed towards the axis; it fades close to it.")
        .add(&S::core, "core_radius", "Core radius", Unit::length, {0, 1000, 0, 0.5},
             "Beyond this distance from the axis the fluid turns ever slower, like a whirlwind.")
        .zero_holding("all turns alike")
        .add(&S::response, "response_time", "Response time", Unit::time, {1e-4, 1e4, 0.01, 2},
             "Time in which still fluid reaches 63 % of the swirl's speed. Shorter is stronger.")
        .more()
        .done();
  }

  Vec3d* pointing() { return &direction; }
  Vec3d* place() { return &position; }
  void weaken(double by) { spin /= by, lift /= by, inward /= by; }
  std::shared_ptr<const Field> field(const SetAround&) const;
};

struct SwirlField : Field {
  explicit SwirlField(const Swirl& s) : swirl(s), axis(normalized(s.direction)) {}
  void add(const EightPlaces& p, v8 share, Push& push) const override {
    const Vec3<v8> along = splat(axis);
    Vec3<v8> out = p.at - splat(swirl.position);
    out = out - along * dot(out, along);
    const v8 r2 = dot(out, out);
    v8 turn = splat(float(swirl.spin));
    // Like a Rankine vortex with a smooth edge: r in the core, 1/r far from it.
    if (const float core = float(swirl.core * swirl.core); core > 0) turn = turn * core / (core + r2);
    constexpr float near = 1e-3f;  // m, within which the draw inwards fades
    const v8 inward = float(swirl.inward) / vsqrt(r2 + near * near);
    Vec3<v8> u = cross(along, out) * turn + along * splat(float(swirl.lift));
    u = u - out * inward;
    lead(push, u, share * rate_of(swirl.response));
  }
  Most most(const Box& box) const override {
    Vec3d far = max(box.high - swirl.position, swirl.position - box.low);
    const double r = length(far), core = swirl.core;
    const double turned = std::abs(swirl.spin) * (core > 0 ? std::min(core / 2, r) : r);
    return {0, turned + std::abs(swirl.lift) + std::abs(swirl.inward)};
  }
  Swirl swirl;
  Vec3d axis;
};

inline std::shared_ptr<const Field> Swirl::field(const SetAround&) const {
  return std::make_shared<SwirlField>(*this);
}

}  // namespace pour
