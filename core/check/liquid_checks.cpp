#include "check/liquid_checks.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/text.h"
#include "base/units.h"
#include "run/arc.h"
#include "shape/curve.h"
#include "shape/near_surface.h"
#include "shape/shape.h"
#include "shot/pouring.h"
#include "surface/skin.h"

namespace pour {
namespace {

Check warning(std::string title, std::string text, std::string fix_name = "",
              std::function<void(Shot&)> fix = {}) {
  return {CheckLevel::warning, std::move(title), std::move(text), std::move(fix_name), std::move(fix)};
}

const Piece* source_of(const Shot& shot, const Pour& pour) {
  return pour.from == SourceKind::piece ? shot.piece(pour.source.id) : nullptr;
}

/// Volume poured over the film by rate or volume, m³; 0 without either.
double poured_by(const Shot& shot, const Pour& pour) {
  const Clock clock(shot);
  return rate_of(pour) * seconds_of(shot, clock, pour);
}

/// Capacity of an upright vessel, m³; 0 if it is not one.
double capacity(const Piece& p) {
  const auto* vessel = std::get_if<Turned>(&p.shape);
  if (!vessel || vessel->full || !p.blocks || std::abs(p.turn.x) + std::abs(p.turn.z) > 5 * degree) return 0;
  const std::vector<Vec3d> line = Curve(vessel->profile.list, false).line();
  const double half = vessel->wall / 2;
  double sum = 0;
  for (size_t i = 1; i < line.size(); ++i) {
    const double r = std::max(0.0, (line[i - 1].x + line[i].x) / 2 - half);
    sum += std::numbers::pi * r * r * (line[i].y - line[i - 1].y);
  }
  return std::max(0.0, sum) * std::pow(p.scale, 3);
}

bool is_inside(const Box& inner, const Box& outer) {
  for (int a = 0; a < 3; ++a)
    if (inner.low[a] < outer.low[a] || inner.high[a] > outer.high[a]) return false;
  return true;
}

bool overlap_in_plan(const Box& a, const Box& b) {
  return a.low.x < b.high.x && a.high.x > b.low.x && a.low.z < b.high.z && a.high.z > b.low.z;
}

struct Places {
  const Shot& shot;
  const Space& space;
  const Box& box(const Piece& p) const { return space.boxes[size_t(&p - shot.pieces.data())]; }
  const std::vector<Body>& bodies(const Piece& p) const {
    return space.bodies[size_t(&p - shot.pieces.data())];
  }
  /// Whether all of a piece is in the solid of another one at frame 1.
  bool is_buried(const Piece& p, const Piece& in) const {
    if (!is_inside(box(p), box(in))) return false;
    for (const Body& solid : bodies(in)) {
      const NearSurface surface(solid.mesh);  // exact, since walls may be thin
      const float reach = float(length(solid.mesh.bounds().size()));
      const auto is_deep = [&](const Vec3f& q) {
        const auto near = surface.nearest(q, reach);
        return near && near->distance < 0;
      };
      const auto deep = [&](const Body& b) {
        return std::all_of(b.mesh.points.begin(), b.mesh.points.end(), is_deep);
      };
      if (std::all_of(bodies(p).begin(), bodies(p).end(), deep)) return true;
    }
    return false;
  }
};

}  // namespace

std::vector<Check> liquid_checks(const Shot& shot) {
  std::vector<Check> out;
  if (!shot.brings(FlowKind::liquid)) return out;
  if (shot.look.floor && shot.run.open_bottom && gravity_of(shot.forces) > 0)
    out.push_back(warning("Liquid falls through the floor",
                          "The floor is shown, but the bottom of the bounds is open.", "Close the bottom",
                          [](Shot& t) { t.run.open_bottom = false; }));
  for (const Fluid& f : shot.fluids)
    if (const Liquid* liquid = f.as<Liquid>(); liquid && liquid->named == NamedLiquid::own &&
                                               liquid->own.viscosity <= 0 && !f.tracks.contains("viscosity"))
      out.push_back(
          warning(filled("{name} has no viscosity", {{"name", f.name}}),
                  "Every liquid has some. Water has 1 mPa·s.", "Use that of water",
                  [id = f.id](Shot& t) { t.fluid(id)->as<Liquid>()->own.viscosity = Matter().viscosity; }));
  return out;
}

std::vector<Check> liquid_checks(const Shot& shot, const Space& space) {
  std::vector<Check> out;
  const Places places{shot, space};
  if (shot.surface.cell > 0 && shot.surface.cell < finest_skin(space.cell_size))
    out.push_back(
        warning("The skin cells are too small",
                filled("Its cells are {cell}. The smallest possible, an eighth of a simulation cell, is "
                       "{cell_size} and is used instead.",
                       {{"cell", format_quantity(shot.surface.cell, Unit::length)},
                        {"cell_size", format_quantity(finest_skin(space.cell_size), Unit::length)}}),
                "Use half a cell", [](Shot& t) { t.surface.cell = 0, t.surface.tracks.erase("cell"); }));
  for (const Pour& pour : shot.pours) {
    const Piece* source = source_of(shot, pour);
    if (!source || !shot.brings(pour, FlowKind::liquid)) continue;
    if (source->blocks && !turns_at(shot, *source))
      out.push_back(
          pour.fill_at.time
              ? warning(filled("{name} is blocked by its own source", {{"name", pour.name}}),
                        filled("{name} is solid, so nothing can fill it.", {{"name", source->name}}),
                        "Turn it into the fluid",
                        [id = pour.id](Shot& t) { t.pour(id)->replaces_source = true; })
              : warning(
                    filled("{name} is blocked by its own source", {{"name", pour.name}}),
                    filled("{name} is solid, so nothing can pour from inside it.", {{"name", source->name}}),
                    "Stop it blocking", [id = source->id](Shot& t) { t.piece(id)->blocks = false; }));
    for (const Piece& p : shot.pieces)
      if (&p != source && p.blocks && !source->blocks && places.is_buried(*source, p))
        out.push_back(warning(filled("{name} is buried", {{"name", pour.name}}),
                              filled("{name} is inside {vessel}, which is solid, so nothing will pour.",
                                     {{"name", source->name}, {"vessel", p.name}}),
                              filled("Let {name} not block", {{"name", p.name}}),
                              [id = p.id](Shot& t) { t.piece(id)->blocks = false; }));
    double thinnest = 1e300;
    for (const Body& b : places.bodies(*source))
      if (pour.fill_at.time) thinnest = std::min(thinnest, NearSurface(b.mesh).thinnest());
    if (thinnest < space.cell_size)
      out.push_back(warning(filled("{name} may fill too little", {{"name", pour.name}}),
                            filled("{name} is {thinnest} thin and a cell is {cell_size}, so filling it at "
                                   "once gives little or nothing.",
                                   {{"name", source->name},
                                    {"thinnest", format_quantity(thinnest, Unit::length)},
                                    {"cell_size", format_quantity(space.cell_size, Unit::length)}}),
                            "Pour it at a rate", [id = pour.id](Shot& t) {
                              Pour& u = *t.pour(id);
                              u.windows = {{{*u.fill_at.time, *u.fill_at.time + 1}}};
                              u.fill_at = {};
                            }));
    for (const Piece& p : shot.pieces) {
      const double holds = capacity(p), comes = poured_by(shot, pour);
      if (holds <= 0 || comes <= holds || !overlap_in_plan(places.box(*source), places.box(p))) continue;
      out.push_back(warning(filled("{name} may overflow", {{"name", p.name}}),
                            filled("{name} pours {comes}, but the vessel holds {holds}.",
                                   {{"name", pour.name},
                                    {"comes", format_quantity(comes, Unit::volume, 2)},
                                    {"holds", format_quantity(holds, Unit::volume, 2)}}),
                            "Pour less", [id = pour.id, by = 0.8 * holds / comes](Shot& t) {
                              t.pour(id)->rate *= by, t.pour(id)->volume *= by;
                            }));
    }
    for (const Pour& other : shot.pours)
      if (const Piece* smoke = source_of(shot, other);
          smoke && shot.brings(other, FlowKind::gas) &&
          overlap_in_plan(places.box(*source), places.box(*smoke)))
        out.push_back(
            warning(filled("{name} and {other} meet", {{"name", pour.name}, {"other", other.name}}),
                    "Smoke and liquid don't affect each other. They will pass through each other."));
  }
  return out;
}

}  // namespace pour
