#include "check/force_checks.h"

#include <algorithm>
#include <cmath>

#include "base/text.h"
#include "base/units.h"
#include "run/arc.h"
#include "run/forces.h"
#include "run/staging.h"
#include "shape/near_surface.h"
#include "shot/pouring.h"
#include "world/push.h"

namespace pour {
namespace {

Check about(const Force& f, const char* title, std::string text, std::string fix_name,
            std::function<void(Shot&)> fix) {
  return {CheckLevel::warning, filled(title, {{"name", f.name}}), std::move(text), std::move(fix_name),
          std::move(fix)};
}
Check about(const Force& f, const char* title, std::string text, std::string fix_name,
            std::function<void(Force&)> fix) {
  return about(f, title, std::move(text), std::move(fix_name), [id = f.id, fix = std::move(fix)](Shot& s) {
    if (Force* force = s.force(id)) fix(*force);
  });
}

bool acts_on_any(const Shot& shot, const Force& f) {
  if (shot.brings(FlowKind::gas) && acts_on_smoke(shot, f)) return true;
  return moves_liquid(f) && std::any_of(shot.fluids.begin(), shot.fluids.end(), [&](const Fluid& fluid) {
           return fluid.as<Liquid>() && acts_on(f, fluid.id);
         });
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
      return shot.brings(FlowKind::gas) && acts_on_smoke(shot, f);
    case Driver::density:
    case Driver::warmth:
      return moves_liquid(f) && std::any_of(shot.fluids.begin(), shot.fluids.end(), [&](const Fluid& fluid) {
               return fluid.as<Liquid>() && acts_on(f, fluid.id);
             });
    case Driver::distance:
      return f.reach == Reach::Shape::everywhere;
    default:
      return false;
  }
}

void check_strength(const Shot& shot, const Space& space, const Clock& clock, std::vector<Check>& out) {
  const ForceFields forces(shot);
  const double frame = clock.time(2) - clock.time(1);
  for (const Force& f : shot.forces) {
    const auto field = forces.alone(f);
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

Check without_piece(const Force& f) {
  Force alone = f;
  const bool may = go_without(alone);
  Check out = about(f, "{name} has no piece", "It goes by a piece that is not in the shot.",
                    may ? "Let it go without" : "Remove the force", [](Force& other) { go_without(other); });
  if (!may)
    out.fix = [id = f.id](Shot& s) {
      std::erase_if(s.forces, [&](const Force& other) { return other.id == id; });
    };
  out.level = CheckLevel::fault;
  return out;
}

/// Volume of the liquids that a force acts on, over the film, m³.
double liquid_of(const Shot& shot, const Space& space, const Force& f) {
  double sum = 0;
  for (const Pour& pour : shot.pours) {
    if (!shot.brings(pour, FlowKind::liquid) || !acts_on(f, pour.fluid.id)) continue;
    const Piece* source = pour.from == SourceKind::piece ? shot.piece(pour.source.id) : nullptr;
    if (pour.fill_at.time && source)
      for (const Body& b : space.bodies[size_t(source - shot.pieces.data())])
        sum += std::abs(b.mesh.volume());
    else
      sum += rate_of(pour) * seconds_of(shot, Clock(shot), pour);
  }
  return sum;
}

/// Whether liquid is sent by hand to parts that are there.
void check_parts(const Shot& shot, const Space& space, const Force& f, std::vector<Check>& out) {
  const auto* gather = f.as<Gather>();
  if (!gather || gather->goes_to != GoesTo::by_hand) return;
  const size_t parts = space.bodies[size_t(shot.piece(gather->piece.id) - shot.pieces.data())].size();
  for (const int part : gather->parts_of_bodies())
    if (part < 0 || size_t(part) >= parts)
      return out.push_back(about(f, "{name} sends liquid to a part that is not there",
                                 filled("“{bodies}” has to be numbers from 1 to {parts}.",
                                        {{"bodies", gather->bodies}, {"parts", format_count(double(parts))}}),
                                 "Send it in order", [](Force& other) {
                                   if (auto* g = std::get_if<Gather>(&other.what))
                                     g->goes_to = GoesTo::in_order;
                                 }));
}

/// Whether what is gathered fits its target.
void check_target(const Shot& shot, const Space& space, const Force& f, std::vector<Check>& out) {
  const Piece* piece = f.as<Gather>() ? shot.piece(f.as<Gather>()->piece.id) : nullptr;
  const double comes = piece && shot.brings(FlowKind::liquid) ? liquid_of(shot, space, f) : 0;
  if (comes <= 0) return;
  double volume = 0, thinnest = 1e30;
  bool closed = true;
  for (const Body& b : space.bodies[size_t(piece - shot.pieces.data())]) {
    volume += std::abs(b.mesh.volume()), closed = closed && is_closed(b.mesh);
    thinnest = std::min(thinnest, NearSurface(b.mesh).thinnest());
  }
  const std::string id = piece->id;
  if (piece->blocks || piece->holds)
    out.push_back(about(f, "{name} gathers into a solid",
                        "Nothing can flow into a piece that blocks or holds.", "Let the piece be a guide",
                        [id](Shot& s) {
                          Piece& p = *s.piece(id);
                          p.blocks = p.holds = p.shows = false;
                        }));
  constexpr double enough = 0.1, cells = 6;
  const double share = volume > 0 ? comes / volume : 1;
  if (std::abs(share - 1) > enough && !piece->tracks.contains("scale"))
    out.push_back(about(
        f,
        share < 1 ? "{name} has too little liquid for its shape" : "{name} has too much liquid for its shape",
        filled("{liquid} come, and {piece} takes {volume}: {share} of it.",
               {{"liquid", format_quantity(comes, Unit::volume)},
                {"piece", piece->name},
                {"volume", format_quantity(volume, Unit::volume)},
                {"share", format_quantity(share, Unit::percent)}}),
        "Size the piece to the liquid", [id, by = std::cbrt(share)](Shot& s) { s.piece(id)->scale *= by; }));
  if (!closed)
    out.push_back(about(f, "{name} gathers into an open shape",
                        "A shape with holes in its surface has no inside to fill.", "Thicken it",
                        [id](Shot& s) { s.piece(id)->thickens = true; }));
  if (thinnest < cells * space.cell_size) {
    const double needed = floor_kindly(thinnest / cells);
    out.push_back(
        about(f, "{name} gathers into thin strokes",
              filled("The thinnest part is {thinnest}. It takes {cells} cells to be filled well.",
                     {{"thinnest", format_quantity(thinnest, Unit::length)}, {"cells", format_count(cells)}}),
              filled("Use cells of {needed}", {{"needed", format_quantity(needed, Unit::length)}}),
              [needed](Shot& s) { s.run.detail = Detail::custom, s.run.cell_size = needed; }));
  }
}

}  // namespace

std::vector<Check> force_checks(const Shot& shot, const Space& space) {
  std::vector<Check> out;
  const Clock clock(shot);
  const double end = clock.time(shot.film.frames + 1);
  bool whole = true;
  for (const Force& f : shot.forces) {
    const std::vector<PieceId> pieces = pieces_of(f);
    if (std::any_of(pieces.begin(), pieces.end(), [&](const PieceId& p) { return !shot.piece(p.id); })) {
      whole = false, out.push_back(without_piece(f));
      continue;
    }
    if (!shot.pours.empty() && !f.acts_on.ids.empty() && !acts_on_any(shot, f))
      out.push_back(about(f, "{name} acts on no fluid", "None of the fluids that it acts on is poured.",
                          "Let it act on all", [](Force& other) { other.acts_on = {}; }));
    if (!f.always && share_of_time(f, 0, end) <= 0)
      out.push_back(about(f, "{name} never acts", "None of its windows is within the film.",
                          "Let it act all the time", [](Force& other) { other.always = true; }));
    Force own = f;
    if (const Vec3d* d = direction_of(own); d && !(length(*d) > 0) && !f.tracks.contains("direction"))
      out.push_back(
          about(f, "{name} has no direction", "Its vector is zero.", "Point it upwards", [](Force& other) {
            *direction_of(other) = {0, 1, 0};
          }));
    if (depends_on_nothing(shot, f))
      out.push_back(about(f, "{name} depends on what is not there",
                          "Smoke has no age, liquid no density or warmth, and distance needs a reach.",
                          "Let it be constant", [](Force& other) { other.depends = {}; }));
    check_parts(shot, space, f, out);
    check_target(shot, space, f, out);
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
