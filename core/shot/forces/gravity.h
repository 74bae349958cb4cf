// Gravity.
#pragma once
#include "shot/setting.h"
#include "world/field.h"

namespace pour {

struct Gravity {
  double strength = 9.81;  // m/s², downwards
  bool operator==(const Gravity&) const = default;

  static constexpr Option kind{"gravity", "Gravity"};
  static constexpr const char* sentence = "Pulls down with {strength} .";
  static constexpr bool moves_liquid = true, goes_inside = true;

  static Table<Gravity> settings() {
    return TableOf<Gravity>()
        .add(&Gravity::strength, "strength", "Strength", Unit::acceleration, {-1000, 1000, 0, 20},
             "Downward acceleration: 9.81 m/s² on Earth. At 0 nothing falls, and warm smoke does not rise.")
        .done();
  }

  void weaken(double by) { strength /= by; }

  /// Gravity that does not act everywhere on all.
  struct Falls : Field {
    explicit Falls(double g) : strength(float(g)) {}
    void add(const EightPlaces& p, v8 share, Push& push) const override {
      push.acceleration.y -= strength * p.weight * share;
    }
    Most most(const Box&) const override { return {std::abs(double(strength)), 0}; }
    float strength;
  };
  std::shared_ptr<const Field> field(const SetAround&) const { return std::make_shared<Falls>(strength); }
};

}  // namespace pour
