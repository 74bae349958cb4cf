#include "check/force_checks.h"

#include <algorithm>
#include <cmath>

#include "base/text.h"
#include "base/units.h"
#include "run/forces.h"
#include "run/staging.h"
#include "shape/motion.h"
#include "world/push.h"

namespace pour {
namespace {

Check about(const Force& f, const char* title, std::string text, std::string fix_name,
            std::function<void(Force&)> fix) {
  return {CheckLevel::warning, filled(title, {{"name", f.name}}), std::move(text), std::move(fix_name),
          [id = f.id, fix = std::move(fix)](Shot& s) {
            if (Force* force = s.force(id)) fix(*force);
          }};
}

bool acts_on_any(const Shot& shot, const Force& f) {
  if (shot.brings(FluidKind::smoke) && acts_on_smoke(shot, f)) return true;
  return moves_liquid(f) && std::any_of(shot.fluids.begin(), shot.fluids.end(), [&](const Fluid& fluid) {
           return fluid.kind == FluidKind::liquid && acts_on(f, fluid.id);
         });
}

/// The direction of a force that has one.
const Vec3d* direction_of(const Force& f) {
  if (const auto* w = f.as<Wind>()) return &w->direction;
  if (const auto* s = f.as<Swirl>()) return &s->direction;
  const auto* p = f.as<Pull>();
  return p && p->to == PullTo::line ? &p->direction : nullptr;
}

void set_direction(Force& f, const Vec3d& d) {
  if (auto* w = std::get_if<Wind>(&f.what)) w->direction = d;
  if (auto* s = std::get_if<Swirl>(&f.what)) s->direction = d;
  if (auto* p = std::get_if<Pull>(&f.what)) p->direction = d;
}

/// Divides its strength or its speeds.
void weaken(Force& f, double by) {
  if (auto* g = std::get_if<Gravity>(&f.what)) g->strength /= by;
  if (auto* w = std::get_if<Wind>(&f.what)) w->speed /= by;
  if (auto* p = std::get_if<Pull>(&f.what)) p->strength /= by;
  if (auto* s = std::get_if<Swirl>(&f.what)) s->spin /= by, s->lift /= by, s->inward /= by;
}

/// Steps of a frame that a force alone asks for: its speed, or its acceleration over the frame, in cells.
double steps_for(const Field::Most& most, const Shot& shot, double frame, double cell) {
  const double courant = shot.run.courant, by_speed = most.speed * frame / (courant * cell);
  return by_speed + frame * std::sqrt(most.acceleration / (courant * cell));
}

/// Whether a force depends on what one of its fluids has not: smoke no age, liquid neither density nor
/// warmth.
bool depends_on_nothing(const Shot& shot, const Force& f) {
  switch (f.depends.driver) {
    case Driver::age:
      return shot.brings(FluidKind::smoke) && acts_on_smoke(shot, f);
    case Driver::density:
    case Driver::warmth:
      return moves_liquid(f) && std::any_of(shot.fluids.begin(), shot.fluids.end(), [&](const Fluid& fluid) {
               return fluid.kind == FluidKind::liquid && acts_on(f, fluid.id);
             });
    case Driver::distance:
      return f.reach == Reach::Shape::everywhere;
    default:
      return false;
  }
}

void check_strength(const Shot& shot, const Space& space, const Clock& clock, std::vector<Check>& out) {
  const Motion motion(shot);
  const ForceFields forces(shot, motion);
  const double frame = clock.time(2) - clock.time(1);
  for (const Force& f : shot.forces) {
    const auto field = forces.alone(f, motion.first(), motion);
    if (!field) continue;
    Field::Most most = field->most(space.bounds);
    most.acceleration *= f.depends.most();
    const double steps = steps_for(most, shot, frame, space.cell_size);
    if (steps <= most_steps) continue;
    // Steps go with a speed, and with the root of an acceleration.
    const double ratio = 1.1 * steps / most_steps, by = most.acceleration > 0 ? ratio * ratio : ratio;
    out.push_back(about(f, "{name} is too strong for a run",
                        filled("It asks for {steps} steps a frame; a run takes {most} at most.",
                               {{"steps", format_count(steps)}, {"most", format_count(most_steps)}}),
                        filled("Make it {by} times weaker", {{"by", format_count(by)}}),
                        [by](Force& other) { weaken(other, by); }));
  }
}

}  // namespace

std::vector<Check> force_checks(const Shot& shot, const Space& space) {
  std::vector<Check> out;
  const Clock clock(shot);
  const double end = clock.time(shot.film.frames + 1);
  bool whole = true;
  for (const Force& f : shot.forces) {
    const auto* pull = f.as<Pull>();
    if ((f.reach == Reach::Shape::piece && !shot.piece(f.reach_piece.id)) ||
        (pull && pull->to == PullTo::surface && !shot.piece(pull->piece.id))) {
      whole = false;
      out.push_back(about(f, "{name} has no piece", "It goes by a piece that is not in the shot.",
                          "Let it go without", [](Force& other) {
                            if (other.reach == Reach::Shape::piece) other.reach = Reach::Shape::everywhere;
                            if (auto* p = std::get_if<Pull>(&other.what); p && p->to == PullTo::surface)
                              p->to = PullTo::point;
                          }));
      out.back().level = CheckLevel::fault;
      continue;
    }
    if (!shot.pours.empty() && !f.acts_on.ids.empty() && !acts_on_any(shot, f))
      out.push_back(about(f, "{name} acts on no fluid", "None of the fluids that it acts on is poured.",
                          "Let it act on all", [](Force& other) { other.acts_on = {}; }));
    if (!f.always && share_of_time(f, 0, end) <= 0)
      out.push_back(about(f, "{name} never acts", "None of its windows is within the film.",
                          "Let it act all the time", [](Force& other) { other.always = true; }));
    if (const Vec3d* d = direction_of(f); d && !(length(*d) > 0) && !f.tracks.contains("direction"))
      out.push_back(
          about(f, "{name} has no direction", "Its vector is zero.", "Point it upwards", [](Force& other) {
            set_direction(other, {0, 1, 0});
          }));
    if (depends_on_nothing(shot, f))
      out.push_back(about(f, "{name} depends on what is not there",
                          "Smoke has no age, liquid no density or warmth, and distance needs a reach.",
                          "Let it be constant", [](Force& other) { other.depends = {}; }));
    const Vec3d middle = space.bounds.center();
    if (f.reach != Reach::Shape::everywhere && f.reach != Reach::Shape::piece && f.tracks.empty() &&
        !strength_of(f, {}).reach.meets(middle, length(space.bounds.size()) / 2))
      out.push_back(about(f, "{name} does not reach the fluid", "Its reach lies outside of the bounds.",
                          "Bring it into the bounds", [middle](Force& other) {
                            other.reach_position = middle, other.reach_outside = false;
                          }));
  }
  if (whole) check_strength(shot, space, clock, out);
  return out;
}

}  // namespace pour
