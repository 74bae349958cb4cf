#include "world/push.h"

#include <algorithm>

namespace pour {
namespace {

/// (1 − e^(−x)) / x for 0 ≤ x ≤ 1, by its series: the first term left out is below 1e-7.
v8 held_share(v8 x) {
  v8 sum = splat(1), term = splat(1);
  for (int n = 2; n <= 10; ++n) {
    term *= -x / float(n);
    sum += term;
  }
  return sum;
}

}  // namespace

v8 held_time(v8 drag, float dt) {
  const v8 x = drag * dt;
  if (!any(x > splat(1))) return held_share(x) * dt;
  v8 out;
  for (int i = 0; i < 8; ++i) out[i] = x[i] < 1e-6f ? dt : -std::expm1(-x[i]) / drag[i];
  return out;
}

v8 kept_on(v8 v, v8 acceleration_and_led, v8 drag, float dt) {
  return v + (acceleration_and_led - drag * v) * held_time(drag, dt);
}

v8 Reach::distance(const Vec3<v8>& at) const {
  if (shape == Shape::everywhere) return splat(-1e30f);
  const Vec3<v8> p = placed_back(pose, at);
  const auto size_of = [](v8 v) { return vmax(v, -v); };
  v8 out;
  if (shape == Shape::ball) {
    out = vsqrt(dot(p, p)) - float(half.x);
  } else if (shape == Shape::slab) {
    out = size_of(p.y) - float(half.y);
  } else if (shape == Shape::box) {
    const Vec3<v8> q{size_of(p.x) - float(half.x), size_of(p.y) - float(half.y),
                     size_of(p.z) - float(half.z)};
    const Vec3<v8> out_of{vmax(q.x, splat(0)), vmax(q.y, splat(0)), vmax(q.z, splat(0))};
    out = vsqrt(dot(out_of, out_of)) + vmin(vmax(q.x, vmax(q.y, q.z)), splat(0));
  } else {
    out = piece ? (*piece)(p).distance : splat(1e30f);
  }
  return out * float(pose.scale);
}

v8 Reach::share(const Vec3<v8>& at) const {
  if (everywhere()) return splat(1);
  const v8 d = outside ? -distance(at) : distance(at);
  if (edge <= 0) return choose(d < splat(0), splat(1), splat(0));
  const v8 t = vmin(vmax(0.5f - d / float(edge), splat(0)), splat(1));
  v8 s = t * t * (3.f - 2.f * t);
  if (profile != 1)
    for (int i = 0; i < 8; ++i) s[i] = std::pow(s[i], float(profile));
  return s;
}

bool Reach::meets(const Vec3d& center, double radius) const {
  if (everywhere()) return true;
  const Vec3f c = to<float>(center);
  const float d = distance({splat(c.x), splat(c.y), splat(c.z)})[0];
  // Distances to pieces are sampled.
  const double slack = radius + edge / 2 + (piece ? 2 * piece->cell() * pose.scale : 0);
  return outside ? double(d) > -slack : double(d) < slack;
}

v8 Strength::share(const EightPlaces& p) const {
  const v8 share = reach.share(p.at);
  switch (depends.driver) {
    case Driver::none:
      return share;
    case Driver::age:
      return share * depends.factor(p.age);
    case Driver::height:
      return share * depends.factor(p.at.y);
    case Driver::speed:
      return share * depends.factor(p.speed);
    case Driver::distance:
      return share * depends.factor(reach.distance(p.at));
    case Driver::density:
      return share * depends.factor(p.smoke);
    case Driver::warmth:
      return share * depends.factor(p.heat);
  }
  return share;
}

std::vector<Acting> fields_within(const std::vector<Acting>& fields, const Box& box, double places) {
  std::vector<Acting> out = fields;
  for (Acting& f : out)
    if (f.share > 0)
      if (auto own = f.field->within(box, places)) f.field = std::move(own);
  return out;
}

std::vector<FieldNear> fields_near(const std::vector<Acting>& fields, const Box& box, bool held,
                                   double places) {
  std::vector<FieldNear> out;
  for (const Acting& f : fields)
    if (f.share > 0 && (!held || f.inside) && f.strength.reach.meets(box.center(), length(box.size()) / 2))
      out.emplace_back(f, f.field->within(box, places));
  return out;
}

Push push_of(const std::vector<FieldNear>& fields, const EightPlaces& places) {
  Push out;
  for (const FieldNear& f : fields) f.add(places, f.share(places) * float(f.acting().share), out);
  return out;
}

Vec3<v8> still_air(const std::vector<FieldNear>& fields, const Vec3<v8>& at) {
  const EightPlaces places{at, splat(0), splat(0), true};
  v8 drag{};
  std::vector<Push> own(fields.size());
  for (size_t i = 0; i < fields.size(); ++i) {
    fields[i].add(places, fields[i].share(places), own[i]);
    drag += own[i].drag;
  }
  Vec3<v8> out{};
  for (size_t i = 0; i < fields.size(); ++i) {
    const v8 since = held_time(drag, float(fields[i].acting().since));
    for (int a = 0; a < 3; ++a) out[a] += own[i].led[a] * since;
  }
  return out;
}

Vec3d outer_air(const std::vector<Acting>& fields) {
  std::vector<FieldNear> alike;
  for (const Acting& f : fields)
    if (f.share > 0 && f.strength.plain() && f.field->is_uniform()) alike.emplace_back(f, nullptr);
  const Vec3<v8> air = still_air(alike, {});
  return {double(air.x[0]), double(air.y[0]), double(air.z[0])};
}

Field::Most most_push(const std::vector<Acting>& fields, const Box& box) {
  Field::Most out;
  for (const Acting& f : fields) {
    const Field::Most own = f.field->most(box);
    out.acceleration += own.acceleration * f.share * f.strength.depends.most();
    out.speed = std::max(out.speed, own.speed);
  }
  return out;
}

}  // namespace pour
