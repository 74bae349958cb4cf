// Drag that slows fluid down.
#pragma once
#include <numbers>

#include "shot/setting.h"
#include "world/field.h"

namespace pour {

struct Drag {
  double half_time = 0.5;  // s
  bool operator==(const Drag&) const = default;

  static constexpr Option kind{"drag", "Drag"};
  static constexpr const char* sentence = "Slows the fluid to half its speed in {half_time} .";
  static constexpr bool moves_liquid = true, goes_inside = false;

  static Table<Drag> settings() {
    return TableOf<Drag>()
        .add(&Drag::half_time, "half_time", "Half time", Unit::time, {1e-4, 1e4, 0.01, 5},
             "Time in which the fluid slows to half its speed. Shorter is stronger.")
        .done();
  }

  struct Slows : Field {
    explicit Slows(double half) : rate(rate_of(half / std::numbers::ln2)) {}
    void add(const EightPlaces&, v8 share, Push& push) const override { push.drag += share * rate; }
    Most most(const Box&) const override { return {}; }
    bool is_uniform() const override { return true; }
    float rate;
  };
  std::shared_ptr<const Field> field(const SetAround&) const { return std::make_shared<Slows>(half_time); }
};

}  // namespace pour
