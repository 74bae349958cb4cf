// Rules of the set: walls, sources, floor and picture.
#include <algorithm>
#include <cmath>
#include <map>

#include "base/text.h"
#include "base/units.h"
#include "check/rules.h"
#include "shape/motion.h"
#include "shape/near_surface.h"
#include "shape/thicken.h"
#include "shape/vessels.h"

namespace pour {
namespace {

std::string cm(double v) { return format_quantity(v, Unit::length); }

/// As a run with other cells: there are more of them, and steps are shorter.
double times_as_long(double cell, double other) { return std::pow(cell / other, 4); }

void use_cells(Shot& s, double size) { s.run.detail = Detail::custom, s.run.cell_size = size; }

/// At which details of a run a wall is two cells thick.
std::string kept_at(const Shot& shot, double wall, const StopAsked& stop) {
  std::string out;
  for (const auto& [detail, name] :
       {std::pair{Detail::draft, "draft"}, {Detail::medium, "medium"}, {Detail::final, "final"}}) {
    Shot other = shot;
    other.run.detail = detail;
    if (wall >= thinnest_kept * Space(other, stop).cell_size)
      out += (out.empty() ? "" : ", ") + std::string(name);
  }
  return out.empty() ? "No preset detail is fine enough for it."
                     : filled("It holds at {out}.", {{"out", out}});
}

double thinnest_stroke(const Findings& f, const Piece& p) {
  double thinnest = 1e300;
  for (const Body& body : f.bodies(p)) thinnest = std::min(thinnest, body.stroke);
  return thinnest;
}

/// Strokes of vessels; walls of blocking and draining pieces.
double thinnest_wall(const Findings& f, const Piece& p) {
  double thinnest = thinnest_stroke(f, p);
  for (const Body& body : f.bodies(p))
    if (!p.holds) thinnest = std::min(thinnest, NearSurface(body.mesh).thinnest());
  return thinnest;
}

/// The bounds of a piece; of a moving one, where it comes to rest.
Box rests_in(const Findings& f, const Shot& last, const Piece& p) {
  return moves(f.shot, p) ? piece_mesh(last, *last.piece(p.id)).bounds() : f.box(p);
}

}  // namespace

void walls_are_kept(const Findings& f, Report& out) {
  const double h = f.space->cell_size;
  for (const Piece& p : f.shot.pieces) {
    if (!p.holds && !p.blocks && !p.drains) continue;
    const double thinnest = thinnest_wall(f, p);
    const bool pierced = std::any_of(f.bodies(p).begin(), f.bodies(p).end(), [&](const Body& b) {
      return !b.openings.empty() && !are_cut(b, h);  // thickened in any case
    });
    if (thinnest >= thinnest_kept * h || ((p.thickens || pierced) && !p.holds)) continue;
    const double size = floor_kindly(thinnest / 3);
    const std::string why = filled(
        "Its thinnest part is {thinnest} and a cell is {cell}, so it may {harm}. {details} Cells of "
        "{size} are fine enough. The run will take about {times_as_long} times as long.",
        {{"thinnest", cm(thinnest)},
         {"cell", cm(h)},
         {"harm", (p.holds    ? "not fill, or leak"
                   : p.blocks ? "leak"
                              : "drain nothing")},
         {"details", kept_at(f.shot, thinnest, f.stop)},
         {"size", cm(size)},
         {"times_as_long", format_count(times_as_long(h, size))}});
    const std::string title = filled("{name} is thinner than two cells", {{"name", p.name}});
    if (p.holds)
      out.warn(title, why, filled("Use cells of {size}", {{"size", cm(size)}}),
               [size](Shot& t) { use_cells(t, size); });
    else
      out.warn(title, why, "Thicken it for the solver",
               [id = p.id](Shot& t) { t.piece(id)->thickens = true; });
  }
}

namespace {

/// The width of the space that two bodies have in common, m: twice the radius of the largest ball in it, as
/// far as a lattice finds it.
double common_width(const Mesh& a, const Mesh& b) {
  constexpr int points = 32;  // along each side
  const Box one = a.bounds(), other = b.bounds(), box{max(one.low, other.low), min(one.high, other.high)};
  const NearSurface near_a(a), near_b(b);
  const Vec3d step = (box.high - box.low) / points;
  double widest = 0;
  for (int z = 0; z < points; ++z)
    for (int y = 0; y < points; ++y)
      for (int x = 0; x < points; ++x) {
        const Vec3f p =
            to<float>(box.low + Vec3d{(x + 0.5) * step.x, (y + 0.5) * step.y, (z + 0.5) * step.z});
        const auto in_a = near_a.nearest(p, 1e9f), in_b = near_b.nearest(p, 1e9f);
        if (in_a && in_b) widest = std::max(widest, -2 * double(std::max(in_a->distance, in_b->distance)));
      }
  return widest;
}

/// How two vessels meet: in the same room or not, and how wide their narrowest common space is, m.
struct Meeting {
  bool joined = true;
  double narrowest = 1e300;
};

/// The vessels that overlap, by their indices in the shot.
std::map<std::pair<size_t, size_t>, Meeting> meetings(const Findings& f) {
  std::map<Vessel::Part, size_t> vessel_of;
  const std::vector<Vessel> vessels = vessels_of(f.shot, f.space->bodies);
  for (size_t v = 0; v < vessels.size(); ++v)
    for (const Vessel::Part& part : vessels[v].parts) vessel_of[part] = v;
  std::map<std::pair<size_t, size_t>, Meeting> out;
  for (const auto& [a, vessel] : vessel_of)
    for (const auto& [b, other] : vessel_of) {
      if (a.piece >= b.piece) continue;
      const Mesh &in_a = f.space->bodies[a.piece][a.body].mesh, &in_b = f.space->bodies[b.piece][b.body].mesh;
      if (!overlap(in_a, in_b)) continue;
      Meeting& m = out[{a.piece, b.piece}];
      m.joined = m.joined && vessel == other;
      if (m.joined) m.narrowest = std::min(m.narrowest, common_width(in_a, in_b));
    }
  return out;
}

/// The smaller one of two vessels: a piece that joins is a bridge, which pours don't fill by themselves.
const Piece& smaller(const Findings& f, const Piece& a, const Piece& b) {
  const auto volume = [&](const Piece& p) {
    double sum = 0;
    for (const Body& body : f.bodies(p)) sum += std::abs(body.mesh.volume());
    return sum;
  };
  return volume(a) < volume(b) ? a : b;
}

}  // namespace

void vessels_are_joined(const Findings& f, Report& out) {
  const auto met = meetings(f);
  for (const auto& [pair, meeting] : met) {
    const Piece &a = f.shot.pieces[pair.first], &b = f.shot.pieces[pair.second];
    if (!meeting.joined) {
      out.warn(filled("{a} and {b} overlap but are separate", {{"a", a.name}, {"b", b.name}}),
               "Fluid in one doesn't flow into the other.",
               filled("Let {name} join them", {{"name", smaller(f, a, b).name}}),
               [id = smaller(f, a, b).id](Shot& t) { t.piece(id)->joins = true; });
      continue;
    }
    const double h = f.space->cell_size, size = floor_kindly(meeting.narrowest / 3);
    if ((a.joins || b.joins) && meeting.narrowest < thinnest_kept * h && size > 0)
      out.warn(filled("{a} and {b} hardly meet", {{"a", a.name}, {"b", b.name}}),
               filled("Their common space is {wide} wide and a cell is {cell}, so little or nothing flows "
                      "between them.",
                      {{"wide", cm(meeting.narrowest)}, {"cell", cm(h)}}),
               filled("Use cells of {size}", {{"size", cm(size)}}), [size](Shot& t) { use_cells(t, size); });
  }
  for (size_t i = 0; i < f.shot.pieces.size(); ++i) {
    const Piece& p = f.shot.pieces[i];
    const auto is_in = [&](const auto& meeting) {
      return meeting.first.first == i || meeting.first.second == i;
    };
    if (p.holds && p.joins && std::none_of(met.begin(), met.end(), is_in))
      out.warn(filled("{name} joins nothing", {{"name", p.name}}), "It overlaps no other vessel.",
               "Let it be a vessel of its own", [id = p.id](Shot& t) { t.piece(id)->joins = false; });
  }
}

void holes_are_cut(const Findings& f, Report& out) {
  const double h = f.space->cell_size;
  const bool smoke = f.shot.brings(FlowKind::gas), liquid = f.shot.brings(FlowKind::liquid);
  for (const Piece& p : f.shot.pieces)
    for (const Body& body : f.bodies(p)) {
      if (body.openings.empty()) continue;
      if (p.holds)
        out.warn(filled("{name} has holes but holds", {{"name", p.name}}),
                 "Nothing leaves a vessel through its holes.", "Let it block",
                 [id = p.id](Shot& t) { t.piece(id)->holds = false, t.piece(id)->blocks = true; });
      if (!p.blocks || are_cut(body, h)) continue;
      const bool several = closest(body.openings) < streams_apart * h;
      if (!smoke && !(liquid && several)) continue;
      const double wide = 2 * body.openings.front().radius, size = floor_kindly(wide / 4);
      out.warn(
          filled("Holes of {name} are finer than cells", {{"name", p.name}}),
          filled("They are {wide} wide and a cell is {cell}. {harm} Cells of {size} cut them. The run will "
                 "take about {times_as_long} times as long.",
                 {{"wide", cm(wide)},
                  {"cell", cm(h)},
                  {"harm", smoke ? "They stop smoke." : "Liquid leaves several of them as one stream."},
                  {"size", cm(size)},
                  {"times_as_long", format_count(times_as_long(h, size))}}),
          filled("Use cells of {size}", {{"size", cm(size)}}), [size](Shot& t) { use_cells(t, size); });
    }
}

void sources_are_thick(const Findings& f, Report& out) {
  const double h = f.space->cell_size;
  for (const Pour& s : f.shot.pours) {
    if (s.from != SourceKind::piece || !f.shot.brings(s, FlowKind::gas)) continue;
    const Piece* p = f.shot.piece(s.source.id);
    const double thinnest = p ? thinnest_stroke(f, *p) : 1e300;
    if (thinnest >= h) continue;
    const double size = floor_kindly(thinnest / 2);
    out.warn(filled("{name} has a source thinner than a cell", {{"name", s.name}}),
             filled("{name} is {thinnest} thin and a cell is {cell}, so little or nothing will pour.",
                    {{"name", p->name}, {"thinnest", cm(thinnest)}, {"cell", cm(h)}}),
             filled("Use cells of {size}", {{"size", cm(size)}}), [size](Shot& t) { use_cells(t, size); });
  }
}

void set_is_small(const Findings& f, Report& out) {
  const Vec3d size = f.space->pieces.size();
  if (const double longest = std::max({size.x, size.y, size.z}); longest > 100)
    out.warn(filled("The set is {longest} long", {{"longest", cm(longest)}}),
             "At that size smoke seems to move very slowly. Check the units of the set.");
}

void floor_is_below(const Findings& f, Report& out) {
  if (!f.shot.look.floor) return;
  const Shot last = shot_at(f.shot, f.shot.film.frames);
  for (const Piece& p : f.shot.pieces) {
    if (!p.may_show()) continue;
    const Box box = rests_in(f, last, p);
    if (box.low.y >= -std::max(1e-4, 0.003 * box.size().y)) continue;
    return out.warn(filled("{name} reaches through the floor", {{"name", p.name}}),
                    "The part below the floor can't be seen.", "Stand it on the floor", stand_on_floor);
  }
}

void set_is_in_picture(const Findings& f, Report& out) {
  const Shot last = shot_at(f.shot, f.shot.film.frames);
  for (const Piece& p : f.shot.pieces)
    if (!is_prop(f.shot, p) && out_of_picture(last, p, rests_in(f, last, p)))
      return out.warn(filled("{name} reaches out of the picture", {{"name", p.name}}),
                      "Part of it lies outside the shot camera's view.", "Frame the set",
                      [](Shot& t) { t.camera = framed(t, Space(t)); });
}

}  // namespace pour
