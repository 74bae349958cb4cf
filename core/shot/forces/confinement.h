// Vorticity confinement.
#pragma once
#include "shot/setting.h"

namespace pour {

struct Confinement {
  double speed = 0.02, size = 0.02;  // m/s, m
  bool operator==(const Confinement&) const = default;

  static constexpr Option kind{"confinement", "Vorticity confinement"};
  static constexpr const char* sentence = "Keeps swirls of {size} alive with {speed} .";
  static constexpr bool moves_liquid = false, goes_inside = true;

  static Table<Confinement> settings() {
    using C = Confinement;
    return TableOf<C>()
        .add(&C::speed, "speed", "Speed", Unit::speed, {0, 100, 0, 2},
             "Vorticity confinement: speed added to small swirls so that the grid does not smooth them away.")
        .add(&C::size, "size", "Size", Unit::length, {1e-4, 100, 0.002, 0.1},
             "Size of the swirls that confinement keeps alive, whatever the cell size.")
        .more()
        .done();
  }
};

}  // namespace pour
