// Applies fields.
#pragma once
#include <cmath>

#include "world/field.h"

namespace pour {

/// The velocity v after dt seconds under acceleration a and drag λ towards u, from their sums a + Σ λ u and
/// λ: v e^(−λ dt) + (u + a/λ) (1 − e^(−λ dt)), which is exact while they are constant.
v8 kept_on(v8 v, v8 acceleration_and_led, v8 drag, float dt);
/// (1 − e^(−λ dt)) / λ, dt where λ is 0, s.
v8 held_time(v8 drag, float dt);

/// A field as it acts near some places.
class FieldNear {
 public:
  FieldNear(const Acting& acting, std::shared_ptr<const Field> own)
      : acting_(&acting), own_(std::move(own)), field_(own_ ? own_.get() : acting.field.get()) {}
  const Acting& acting() const { return *acting_; }
  /// Whether all that flows feels it by place alone, and smoothly.
  bool is_smooth() const {
    const Driver by = acting_->strength.depends.driver;
    const bool by_place = by == Driver::none || by == Driver::height || by == Driver::distance;
    return by_place && acting_->liquids.empty() && !acting_->sharing && field_->is_smooth();
  }
  /// How much of it acts there, whenever it acts.
  v8 share(const EightPlaces& p) const { return acting_->strength.share(p); }
  /// Adds its push times a share.
  void add(const EightPlaces& p, v8 share, Push& push) const {
    if (any(share != splat(0))) field_->add(p, share, push);
  }

 private:
  const Acting* acting_;
  std::shared_ptr<const Field> own_;
  const Field* field_;
};

/// The same fields, made ready for about this many places within a box.
std::vector<Acting> fields_within(const std::vector<Acting>&, const Box&, double places);
/// The fields that act within a box, made ready for about this many places in it; `held`: within what pieces
/// hold.
std::vector<FieldNear> fields_near(const std::vector<Acting>&, const Box&, bool held, double places);
/// Their sum.
Push push_of(const std::vector<FieldNear>&, const EightPlaces&);
/// The velocity that free air would have by now at eight places, m/s: since each field acts, nothing else
/// moved it.
Vec3<v8> still_air(const std::vector<FieldNear>&, const Vec3<v8>& at);
/// The same far from everything, under the fields that are alike everywhere, m/s.
Vec3d outer_air(const std::vector<Acting>&);
/// The most that all fields together give within a box.
Field::Most most_push(const std::vector<Acting>&, const Box&);

}  // namespace pour
