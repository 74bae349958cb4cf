#include "run/arc.h"

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/text.h"
#include "run/forces.h"
#include "shape/pose.h"
#include "shape/shape.h"
#include "shot/animate.h"
#include "shot/clock.h"
#include "shot/pouring.h"

namespace pour {

Vec3d direction_of(const Pour& p) {
  switch (p.direction) {
    case Direction::up:
      return {0, 1, 0};
    case Direction::down:
      return {0, -1, 0};
    case Direction::left:
      return {-1, 0, 0};
    case Direction::right:
      return {1, 0, 0};
    case Direction::front:
      return {0, 0, 1};
    case Direction::back:
      return {0, 0, -1};
    case Direction::own:
      return normalized(p.aim);
    case Direction::outwards:
      break;
  }
  return {};
}

double outward_of(const Pour& p) {
  return (p.flipped ? -1 : 1) * (p.direction == Direction::outwards ? p.speed : p.outward);
}

namespace {

/// Where it begins and how fast, at a time; false where that is nowhere.
bool begins(const Shot& shot, const Clock& clock, const std::string& pour, double time, Vec3d& place,
            Vec3d& velocity) {
  constexpr double just = 1e-4;  // s
  const Shot now = shot_at(shot, clock, time), then = shot_at(shot, clock, time + just);
  const Pour* p = now.pour(pour);
  const Piece* source = p && p->from == SourceKind::piece ? now.piece(p->source.id) : nullptr;
  if (!source || p->speed <= 0) return false;
  const Pose at = pose_of(now, *source), next = pose_of(then, *then.piece(source->id));
  place = at.position;
  velocity = direction_of(*p) * p->speed + (next.position - at.position) * (p->inherit / just);
  const auto bodies = bodies_of(source->shape, {});
  if (!bodies->empty() && bodies->front().mouth)
    velocity += (at * *bodies->front().mouth).normal() * outward_of(*p);
  else if (p->direction == Direction::outwards)
    return false;
  return true;
}

}  // namespace

Arc arc_of(const Shot& shot, const Pour& pour, double frame, int steps) try {
  const Clock clock(shot);
  const double start = clock.time(frame);
  Arc arc;
  Vec3d place;
  if (!begins(shot, clock, pour.id, start, place, arc.velocity)) return {};
  std::vector<Vec3d>& out = arc.at;
  const int frames = int(2 * shot.film.frame_rate);
  const ForceFields forces(shot);
  const bool changes = std::any_of(shot.forces.begin(), shot.forces.end(), [](const Force& f) {
    return !f.always || !f.tracks.empty() || !pieces_of(f).empty();
  });
  Shot now = shot_at(shot, clock, start);
  Pushed what{.fluid = pour.fluid.id};
  double time = start;
  Vec3d p = place, v = arc.velocity;
  for (int k = 0; k <= frames * steps; ++k) {
    const double dt = clock.time(frame + double(k) / steps) - time;
    if (changes && k) now = shot_at(shot, clock, time);
    what.age = time - start, what.speed = length(v);
    const Vec3d after = velocity_after(v, forces.at(p, what, now, time).back(), dt);
    p = p + (v + after) * (dt / 2), v = after, time += dt;
    if (!shot.run.open_bottom && p.y < 0 && !out.empty()) {
      const Vec3d& last = out.back();
      out.push_back(last + (p - last) * (last.y / (last.y - p.y)));
      break;
    }
    out.push_back(p);
  }
  return arc;
} catch (const Fault&) {  // it stands nowhere
  return {};
}

Vec3d way_to(const Vec3d& from, const Vec3d& target, double speed, const Vec3d& besides, double g) {
  // Initial velocity that reaches the target after t seconds (Galilei).
  const auto needed = [&](double t) { return (target - from) / t + Vec3d{0, g * t / 2, 0} - besides; };
  const auto beyond = [&](double t) { return length(needed(t)) - speed; };
  // The first time at which that is as fast as it is.
  constexpr double earliest = 1e-3, latest = 20, step = 1.01;
  double best = earliest, least = beyond(earliest);
  for (double t = earliest * step; t < latest && least > 0; t *= step) {
    const double now = beyond(t);
    if (now <= 0) {
      double low = t / step, high = t;
      for (int n = 0; n < 60; ++n) {
        const double mid = (low + high) / 2;
        (beyond(mid) > 0 ? low : high) = mid;
      }
      return normalized(needed(high));
    }
    if (now < least) least = now, best = t;
  }
  return normalized(needed(best));
}

void aim_pour(Shot& shot, const std::string& id, const Vec3d& target, double film_frame) {
  Shot changed = shot;
  Pour* pour = changed.pour(id);
  if (!pour) throw shot_fault("pours." + id, "is no pour of this shot.", "“show” lists them.");
  pour->direction = Direction::own;
  const Clock clock(changed);
  const double time = clock.time(film_frame);
  Vec3d place, velocity;
  if (!begins(changed, clock, id, time, place, velocity))
    throw shot_fault(filled("Pour “{name}”", {{"name", pour->name}}), "has no direction that could be aimed.",
                     "Let it come from a piece, and give it a speed.");
  const Shot now = shot_at(changed, clock, time);
  const Pour& p = *now.pour(id);
  const Vec3d besides = velocity - direction_of(p) * p.speed;
  change_value(changed, "pours." + id + ".aim",
               way_to(place, target, p.speed, besides, gravity_of(now.forces)), film_frame);
  shot = std::move(changed);
}

double seconds_of(const Shot& shot, const Clock& clock, const Pour& pour) {
  return pouring_time(pour, 0, clock.time(shot.film.frames + 1));  // where the last frame is over
}

}  // namespace pour
