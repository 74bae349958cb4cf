// Random eddies that stir smoke.
#pragma once
#include "shot/setting.h"

namespace pour {

struct Turbulence {
  double speed = 0.04, size = 0.04, rate = 0.7;  // m/s, m, 1/s
  bool operator==(const Turbulence&) const = default;

  static constexpr Option kind{"turbulence", "Turbulence"};
  static constexpr const char* sentence = "Eddies of {size} stir at {speed} .";
  static constexpr bool moves_liquid = false, goes_inside = true;

  static Table<Turbulence> settings() {
    using T = Turbulence;
    return TableOf<T>()
        .add(&T::speed, "speed", "Speed", Unit::speed, {0, 100, 0, 1},
             "Speed of the random eddies added to the smoke. Higher values stir it harder.")
        .add(&T::size, "size", "Size", Unit::length, {1e-4, 1000, 0.005, 0.5},
             "Diameter of the largest eddies. Smaller ones break the smoke up more finely.")
        .add(&T::rate, "rate", "Rate", Unit::rate, {0, 100, 0, 5},
             "How many times per second the pattern of eddies is replaced by a new one.")
        .more()
        .done();
  }
};

}  // namespace pour
