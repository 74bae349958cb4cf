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

/// Sums the fields that act; `which` by index.
Push push_of(const std::vector<Acting>&, const std::vector<uint8_t>& which, const EightPlaces&);
/// The velocity that free air would have by now at eight places, m/s: since each field acts, nothing else
/// moved it.
Vec3<v8> still_air(const std::vector<Acting>&, const std::vector<uint8_t>& which, const Vec3<v8>& at);
/// The same far from everything, under the fields that are alike everywhere, m/s.
Vec3d outer_air(const std::vector<Acting>&);
/// The most that all fields together give within a box.
Field::Most most_push(const std::vector<Acting>&, const Box&);

}  // namespace pour
