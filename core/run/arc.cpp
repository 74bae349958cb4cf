#include "run/arc.h"

#include <cmath>

#include "base/error.h"
#include "shape/pose.h"
#include "shape/shape.h"
#include "shot/animate.h"
#include "shot/clock.h"

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
  const int frames = int(2 * shot.film.fps);
  const bool changes = shot.forces.tracks.contains("gravity");
  double time = start, g = shot.forces.gravity;
  Vec3d p = place, v = arc.velocity;
  for (int k = 0; k <= frames * steps; ++k) {
    const double dt = clock.time(frame + double(k) / steps) - time;
    if (changes) g = shot_at(shot, clock, time).forces.gravity;
    p = p + v * dt, p.y -= g * dt * dt / 2, v.y -= g * dt, time += dt;
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

double seconds_of(const Shot& shot, const Clock& clock, const Pour& pour) {
  const double end = clock.shot_frame(clock.time(shot.film.frames + 1));  // where the last frame is over
  double seconds = 0;
  for (const FrameRange& r : pour.windows.list)
    seconds += std::max(
        0.0, clock.time_of_shot_frame(std::min(r.last + 1.0, end)) - clock.time_of_shot_frame(r.first));
  return seconds * (pour.pulse_period > 0 ? pour.pulse_share : 1);
}

}  // namespace pour
