#include "shot/forces/gather.h"

#include <algorithm>

#include "base/text.h"

namespace pour {
namespace {

/// Drag towards a velocity that points at the target outside, and to its own velocity inside.
struct GatherField : Field {
  GatherField(const Gather& g, const TargetThere& t, const SetAround& set)
      : gather(g),
        there(t),
        ease(g.ease_in > 0 ? std::clamp(set.since / g.ease_in, 0.0, 1.0) : 1),
        lifted(set.gravity * (1 - g.gravity)) {
    ease = ease * ease * (3 - 2 * ease);
  }
  void add(const EightPlaces& p, v8 share, Push& push) const override {
    const Vec3<v8> own = placed_back(there.pose, p.at);
    const Distances::There near = (*there.target)(own, p.part);
    const v8 d = near.distance * float(there.pose.scale);
    const Vec3<v8> away = turned(there.pose.turn, near.away);
    // The target's own velocity at this place.
    const Vec3<v8> goes = (placed(there.soon, own) - p.at) * splat(float(1 / there.seconds));
    v8 speed = splat(float(gather.fastest));
    // Slowing down evenly, up to the surface.
    if (gather.ease_out > 0) speed *= vsqrt(vmin(vmax(d / float(gather.ease_out), splat(0)), splat(1)));
    const v8i outside = d > splat(0);
    if (p.gas) share *= p.smoke / (p.smoke + float(gather.half_density));
    const float pull = float(gather.strength / gather.fastest),
                calm = gather.calm > 0 ? rate_of(gather.calm) : 0.f;
    const v8 rate = choose(outside, splat(pull), splat(calm)) * float(ease) * share;
    lead(push,
         {choose(outside, goes.x - away.x * speed, goes.x), choose(outside, goes.y - away.y * speed, goes.y),
          choose(outside, goes.z - away.z * speed, goes.z)},
         rate);
    push.acceleration.y += float(lifted) * p.weight * share;
    // Within the target a weaker pull inwards, which pressure balances where it is full. Too little liquid
    // thins the shape evenly, rather than leaving its ends, and drops join.
    const v8 inwards = choose(outside, splat(0), splat(float(inner * gather.strength * ease))) * share;
    for (int a = 0; a < 3; ++a) push.acceleration[a] -= away[a] * inwards;
  }
  Most most(const Box&) const override {
    return {std::abs(lifted) + inner * gather.strength, gather.fastest};
  }
  bool is_smooth() const override { return false; }  // at the target's surface
  double fastest() const override {
    return gather.fastest + length(there.soon.position - there.pose.position) / there.seconds;
  }
  static constexpr double inner = 0.25;  // share of the strength within the target
  Gather gather;
  TargetThere there;
  double ease, lifted;
};

}  // namespace

std::shared_ptr<const Field> Gather::field(const SetAround& set) const {
  const TargetThere there = set.target(piece.id);
  return there.target ? std::make_shared<GatherField>(*this, there, set) : nullptr;
}

std::vector<int> Gather::parts_of_bodies() const {
  std::vector<int> out;
  for (const std::string& word : split(bodies, ',')) out.push_back(std::atoi(word.c_str()) - 1);
  return out;
}

std::shared_ptr<const Sharing> Gather::sharing(const SetAround& set, int number) const {
  const TargetThere there = set.target(piece.id);
  if (goes_to == GoesTo::nearest || !there.target || there.target->parts() < 2) return nullptr;
  return std::make_shared<Sharing>(Sharing{.force = number,
                                           .by_hand = goes_to == GoesTo::by_hand,
                                           .bodies = parts_of_bodies(),
                                           .along = there.pose.turn * there.target->along(),
                                           .volumes = there.target->volumes()});
}

}  // namespace pour
