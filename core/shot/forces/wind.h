// Wind that takes fluid along.
#pragma once
#include <numbers>

#include "shot/setting.h"
#include "world/field.h"
#include "world/gusts.h"

namespace pour {

struct Wind {
  double speed = 0.5;  // m/s
  Vec3d direction{1, 0, 0};
  double response = 0.2;   // s
  double gusts = 0;        // share of the speed
  double gust_size = 0.1;  // m
  double gust_rate = 0.5;  // 1/s
  bool operator==(const Wind&) const = default;

  static constexpr Option kind{"wind", "Wind"};
  static constexpr const char* sentence = "Blows at {speed} towards {direction} .";
  static constexpr bool moves_liquid = true, goes_inside = false;

  static Table<Wind> settings() {
    using W = Wind;
    return TableOf<W>()
        .add(&W::speed, "speed", "Speed", Unit::speed, {-1000, 1000, 0, 5}, "Speed of the wind.")
        .add(
            &W::direction, "direction", "Direction", Unit::none, {-1e3, 1e3, -1, 1},
            "Where the wind blows to, as a vector: right, up, towards the camera. Its length does not count.")
        .add(&W::response, "response_time", "Response time", Unit::time, {1e-4, 1e4, 0.01, 2},
             "Time in which still fluid reaches 63 % of the wind's speed. Shorter is stronger.")
        .add(&W::gusts, "gusts", "Gusts", Unit::percent, {0, 10, 0, 1},
             "Speed of gusts that drift with the wind, as a share of its speed.")
        .more()
        .add(&W::gust_size, "gust_size", "Gust size", Unit::length, {1e-4, 1000, 0.01, 1},
             "Distance from one gust to the next.")
        .where([](const W& w) { return w.gusts > 0; })
        .more()
        .add(&W::gust_rate, "gust_rate", "Gust rate", Unit::rate, {0, 100, 0, 5},
             "How many times per second the pattern of gusts is replaced by a new one.")
        .where([](const W& w) { return w.gusts > 0; })
        .more()
        .done();
  }

  Vec3d* pointing() { return &direction; }
  void weaken(double by) { speed /= by; }
  std::shared_ptr<const Field> field(const SetAround&) const;
};

struct WindField : Field {
  WindField(const Wind& w, double time)
      : wind(w),
        way(normalized(w.direction) * w.speed),
        gusts(float(time * w.gust_rate * 2 * std::numbers::pi), w.gust_size, way * time) {}
  void add(const EightPlaces& p, v8 share, Push& push) const override {
    Vec3<v8> u = splat(way);
    if (wind.gusts > 0) u += gusts(p.at) * splat(float(wind.gusts * wind.speed));
    lead(push, u, share * rate_of(wind.response));
  }
  Most most(const Box&) const override { return {0, std::abs(wind.speed) * (1 + 2 * wind.gusts)}; }
  bool is_uniform() const override { return wind.gusts == 0; }
  std::shared_ptr<const Field> within(const Box& box, double places) const override {
    if (wind.gusts == 0) return nullptr;
    auto out = std::make_shared<WindField>(*this);
    return out->gusts.sample(box, places) ? out : nullptr;
  }
  Wind wind;
  Vec3d way;
  Gusts gusts;
};

inline std::shared_ptr<const Field> Wind::field(const SetAround& set) const {
  return std::make_shared<WindField>(*this, set.time);
}

}  // namespace pour
