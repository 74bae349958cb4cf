#include "run/forces.h"

#include <algorithm>
#include <cmath>

#include "base/air.h"
#include "base/error.h"
#include "base/file.h"
#include "base/shelf.h"
#include "base/text.h"
#include "shape/placed.h"
#include "world/push.h"

namespace pour {
namespace {

/// Distances to a body, kept while others are changed.
std::shared_ptr<const Distances> distances_to(const Mesh& mesh) {
  static Shelf<uint64_t, Distances> shelf(16);
  const auto bytes = [](const auto& v) {
    return std::string_view(reinterpret_cast<const char*>(v.data()), v.size() * sizeof v[0]);
  };
  return shelf.get(checksum(bytes(mesh.points)) ^ 3 * checksum(bytes(mesh.triangles)),
                   [&] { return Distances(mesh, length(mesh.bounds().size()) / 4); });
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
  if (p.kind == FluidKind::liquid) return 1;
  return -(gas.heat_lift * p.warmth / air::temperature + gas.density_lift * p.density / air::density);
}

bool acts_on(const Shot& now, const Force& f, const Pushed& p) {
  if (p.kind == FluidKind::smoke) return acts_on_smoke(now, f);
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

ForceFields::ForceFields(const Shot& shot, const Motion& motion, const StopAsked& stop) {
  const auto add = [&](const Force& force, const PieceId& id) {
    const Piece* piece = shot.piece(id.id);
    if (!piece)
      throw shot_fault(filled("Force “{name}”", {{"name", force.name}}), "has no piece to go by.",
                       "Choose a piece for it.");
    give_up_if(stop);
    const size_t i = size_t(piece - shot.pieces.data());
    if (auto& kept = bodies_[id.id]; !kept)
      kept = distances_to(motion.own(i, piece_mesh(motion.first(), motion.first().pieces[i])));
  };
  for (const Force& f : shot.forces) {
    if (f.reach == Reach::Shape::piece) add(f, f.reach_piece);
    if (const auto* pull = f.as<Pull>(); pull && pull->to == PullTo::surface) add(f, pull->piece);
  }
}

SetAround ForceFields::around(const Shot& now, const Motion& motion, double time) const {
  return {time, [this, &now, &motion](const std::string& id, Pose& pose) -> std::shared_ptr<const Distances> {
            const auto body = bodies_.find(id);
            const Piece* piece = now.piece(id);
            if (body == bodies_.end() || !piece) return nullptr;
            pose = motion.pose(size_t(piece - now.pieces.data()), now);
            return body->second;
          }};
}

void ForceFields::set(World& w, FluidKind kind, const Shot& now, const Motion& motion, double from,
                      double to) const {
  const SetAround set = around(now, motion, from);
  w.gravity = 0;
  for (const Force& f : now.forces) {
    const double share = share_of_time(f, from, to);
    if (share <= 0 || !acts_on(now, f, {.kind = kind})) continue;
    if (const auto* g = f.as<Gravity>(); g && acts_on_all(f)) {
      w.gravity += share * g->strength;
    } else if (const auto* t = f.as<Turbulence>()) {
      w.turbulences.push_back({t->speed * std::sqrt(share), t->size, t->rate, strength_of(f, set), f.inside});
    } else if (const auto* c = f.as<Confinement>()) {
      w.confinements.push_back({c->speed * share, c->size, strength_of(f, set), f.inside});
    } else {
      Acting acting{field_of(f, set), strength_of(f, set), share, acting_since(f, from), f.inside, {}};
      for (const Fluid& fluid : now.fluids)
        acting.liquids.push_back(fluid.kind == FluidKind::liquid && acts_on(f, fluid.id));
      const bool any = std::find(acting.liquids.begin(), acting.liquids.end(), 1) != acting.liquids.end();
      if (kind == FluidKind::liquid && !any) continue;
      w.fields.push_back(std::move(acting));
    }
  }
}

std::vector<ForceThere> ForceFields::at(const Vec3d& place, const Pushed& what, const Shot& now,
                                        const Motion& motion, double time) const {
  const SetAround set = around(now, motion, time);
  const bool smoke = what.kind == FluidKind::smoke;
  const EightPlaces there{splat(place),
                          splat(float(weight_of(what, now.gas))),
                          splat(smoke ? float(what.density) : 0.f),
                          smoke,
                          splat(float(what.age)),
                          splat(float(what.speed)),
                          splat(smoke ? float(what.warmth) : 0.f)};
  std::vector<ForceThere> out;
  Push sum;
  for (const Force& f : now.forces) {
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

std::vector<Vec3d> ForceFields::flight(Vec3d place, Vec3d velocity, Pushed what, const Shot& now,
                                       const Motion& motion, double time, double seconds, double step) const {
  std::vector<Vec3d> out{place};
  for (double t = 0; t < seconds - step / 2; t += step) {
    what.speed = length(velocity);
    const ForceThere push = at(place, what, now, motion, time).back();
    what.age += step;
    const Vec3d after = velocity_after(velocity, push, step);
    place = place + (velocity + after) * (step / 2), velocity = after;
    out.push_back(place);
  }
  return out;
}

}  // namespace pour
