#include "run/forces.h"

#include <algorithm>
#include <cmath>

#include "base/air.h"
#include "base/error.h"
#include "base/file.h"
#include "base/shelf.h"
#include "base/text.h"
#include "shape/placed.h"
#include "shot/animate.h"
#include "world/push.h"

namespace pour {
namespace {

constexpr size_t most_sharing = 254;  // forces whose number fits into a particle's mark

uint64_t print_of(const Mesh& mesh) {
  const auto bytes = [](const auto& v) {
    return std::string_view(reinterpret_cast<const char*>(v.data()), v.size() * sizeof v[0]);
  };
  return checksum(bytes(mesh.points)) ^ 3 * checksum(bytes(mesh.triangles));
}

Mesh whole(const std::vector<Body>& bodies) {
  Mesh out;
  for (const Body& b : bodies) out.append(b.mesh);
  return out;
}

// Both are kept while other things are changed.
std::shared_ptr<const Distances> distances_to(const std::vector<Body>& bodies) {
  static Shelf<uint64_t, Distances> shelf(16);
  const Mesh mesh = whole(bodies);
  return shelf.get(print_of(mesh), [&] { return Distances(mesh, length(mesh.bounds().size()) / 4); });
}
std::shared_ptr<const Target> target_from(const std::vector<Body>& bodies) {
  static Shelf<uint64_t, Target> shelf(16);
  return shelf.get(print_of(whole(bodies)), [&] {
    std::vector<Mesh> parts;
    for (const Body& b : bodies) parts.push_back(b.mesh);
    return Target(std::move(parts), {1, 0, 0});
  });
}

/// How long a force has been acting at a time, s.
double acting_since(const Force& f, double time) {
  if (f.always) return time;
  for (const Span& w : f.windows.list)
    if (w.from <= time && time <= w.to) return time - w.from;
  return 0;
}

/// Share of gravity that a fluid feels; smoke's is its buoyancy.
double weight_of(const Pushed& p, const Gas& gas) {
  if (p.flow == FlowKind::liquid) return 1;
  return -(gas.heat_lift * p.warmth / air::temperature + gas.density_lift * p.density / air::density);
}

bool acts_on(const Shot& now, const Force& f, const Pushed& p) {
  if (p.flow == FlowKind::gas) return acts_on_smoke(now, f);
  if (!moves_liquid(f)) return false;
  return p.fluid.empty() || acts_on(f, p.fluid);
}

Vec3d first_of_eight(const Vec3<v8>& v) { return {double(v.x[0]), double(v.y[0]), double(v.z[0])}; }

ForceThere there_from(const Push& push) {
  ForceThere out;
  out.acceleration = first_of_eight(push.acceleration), out.rate = double(push.drag[0]);
  if (out.rate > 0) out.led = first_of_eight(push.led) / out.rate;
  return out;
}

}  // namespace

Vec3d velocity_after(const Vec3d& v, const ForceThere& push, double dt) {
  const double x = push.rate * dt, held = x < 1e-6 ? dt : -std::expm1(-x) / push.rate;
  return v + (push.acceleration + (push.led - v) * push.rate) * held;
}

ForceFields::ForceFields(const Shot& shot, const StopAsked& stop) : shot_(shot), clock_(shot) {
  for (const Force& f : shot.forces)
    for (const PieceId& id : pieces_of(f)) {
      const Piece* piece = shot.piece(id.id);
      if (!piece)
        throw shot_fault(filled("Force “{name}”", {{"name", f.name}}), "has no piece to go by.",
                         "Choose a piece for it.");
      const auto bodies = bodies_of(piece->shape, stop);
      give_up_if(stop);
      if (f.as<Gather>() && f.as<Gather>()->piece == id)
        targets_[id.id] = target_from(*bodies);
      else
        bodies_[id.id] = distances_to(*bodies);
    }
}

SetAround ForceFields::around(const Shot& now, double time) const {
  SetAround set;
  set.time = time;
  set.piece = [this, &now](const std::string& id, Pose& pose) -> std::shared_ptr<const Distances> {
    const auto body = bodies_.find(id);
    const Piece* piece = now.piece(id);
    if (body == bodies_.end() || !piece) return nullptr;
    pose = pose_of(now, *piece);
    return body->second;
  };
  set.target = [this, &now, time](const std::string& id) -> TargetThere {
    const auto target = targets_.find(id);
    const Piece* piece = now.piece(id);
    if (target == targets_.end() || !piece) return {};
    TargetThere out{target->second, pose_of(now, *piece), {}};
    out.soon = out.pose;
    if (moves(shot_, *shot_.piece(id))) {
      const Shot soon = shot_at(shot_, clock_, time + out.seconds);
      out.soon = pose_of(soon, *soon.piece(id));
    }
    return out;
  };
  return set;
}

std::shared_ptr<const Field> ForceFields::alone(const Force& f) const {
  const Shot first = shot_at(shot_, clock_, 0);
  return field_of(f, around(first, 0));
}

void ForceFields::set(World& w, FlowKind flow, const Shot& now, double from, double to) const {
  SetAround set = around(now, from);
  w.gravity = 0;
  for (const Force& f : now.forces)
    if (const auto* g = f.as<Gravity>(); g && acts_on(now, f, {.flow = flow})) {
      const double own = share_of_time(f, from, to) * g->strength;
      set.gravity += own;
      if (acts_on_all(f)) w.gravity += own;
    }
  for (size_t i = 0; i < now.forces.size(); ++i) {
    const Force& f = now.forces[i];
    const double share = share_of_time(f, from, to);
    if (share <= 0 || !acts_on(now, f, {.flow = flow}) || (f.as<Gravity>() && acts_on_all(f))) continue;
    if (const auto* t = f.as<Turbulence>()) {
      w.turbulences.push_back({t->speed * std::sqrt(share), t->size, t->rate, strength_of(f, set), f.inside});
    } else if (const auto* c = f.as<Confinement>()) {
      w.confinements.push_back({c->speed * share, c->size, strength_of(f, set), f.inside});
    } else {
      set.since = acting_since(f, from);
      Acting acting{field_of(f, set), strength_of(f, set), share, set.since, f.inside, {}, {}};
      for (const Fluid& fluid : now.fluids)
        acting.liquids.push_back(fluid.as<Liquid>() && acts_on(f, fluid.id));
      const bool any = std::find(acting.liquids.begin(), acting.liquids.end(), 1) != acting.liquids.end();
      if (flow == FlowKind::liquid && !any) continue;
      if (flow == FlowKind::liquid && i < most_sharing) acting.sharing = sharing_of(f, set, int(i));
      w.fields.push_back(std::move(acting));
    }
  }
}

std::vector<ForceThere> ForceFields::at(const Vec3d& place, const Pushed& what, const Shot& now,
                                        double time) const {
  SetAround set = around(now, time);
  const bool smoke = what.flow == FlowKind::gas;
  const EightPlaces there{splat(place),
                          splat(float(weight_of(what, now.gas))),
                          splat(smoke ? float(what.density) : 0.f),
                          smoke,
                          splat(float(what.age)),
                          splat(float(what.speed)),
                          splat(smoke ? float(what.warmth) : 0.f)};
  std::vector<ForceThere> out;
  Push sum;
  for (const Force& f : now.forces)
    if (const auto* g = f.as<Gravity>(); g && acts_on(now, f, what))
      set.gravity += share_of_time(f, time, time) * g->strength;
  for (const Force& f : now.forces) {
    set.since = acting_since(f, time);
    const auto field = field_of(f, set);
    if (!field || !acts_on(now, f, what) || share_of_time(f, time, time) <= 0) continue;
    const v8 share = strength_of(f, set).share(there);
    Push own;
    field->add(there, share, own), field->add(there, share, sum);
    out.push_back(there_from(own));
    out.back().id = f.id, out.back().name = f.name;
  }
  out.push_back(there_from(sum));
  return out;
}

std::vector<Vec3d> ForceFields::flight(Vec3d place, Vec3d velocity, Pushed what, const Shot& now, double time,
                                       double seconds, double step) const {
  std::vector<Vec3d> out{place};
  for (double t = 0; t < seconds - step / 2; t += step) {
    what.speed = length(velocity);
    const ForceThere push = at(place, what, now, time).back();
    what.age += step;
    const Vec3d after = velocity_after(velocity, push, step);
    place = place + (velocity + after) * (step / 2), velocity = after;
    out.push_back(place);
  }
  return out;
}

}  // namespace pour
