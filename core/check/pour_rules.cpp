// Rules of pours: whether anything comes, and whether it is seen.
#include <algorithm>

#include "base/text.h"
#include "base/units.h"
#include "check/rules.h"
#include "shape/motion.h"

namespace pour {
namespace {

void pour_from_frame_1(Shot& t, const std::string& id) {
  Pour& p = *t.pour(id);
  if (p.fill_at.time)
    p.fill_at.time = 0;
  else
    p.windows = windows_at(t, {{1, std::min(40, t.film.frames)}});
}

bool never(const Pour& p, const char* key, double value) { return value <= 0 && !p.tracks.contains(key); }

}  // namespace

void pours_pour(const Findings& f, Report& out) {
  const Clock clock(f.shot);
  for (const Pour& s : f.shot.pours) {
    const bool fills = s.fill_at.time.has_value();
    const auto mend = [id = s.id](Shot& t) { pour_from_frame_1(t, id); };
    const std::string title = filled("{name} never pours", {{"name", s.name}});
    if (!fills && s.windows.list.empty())
      out.warn(title, "It has no pour windows.", "Pour from frame 1", mend);
    else if (const double begins = fills ? *s.fill_at.time : s.windows.list.front().from;
             begins > clock.time(f.shot.film.frames) + same_time)
      out.warn(title,
               filled("It starts at frame {begins}, after the last frame of the film ({frames}).",
                      {{"begins", format_quantity(clock.film_frame(begins), Unit::none, 6)},
                       {"frames", std::to_string(f.shot.film.frames)}}),
               "Pour from frame 1", mend);
    if (f.shot.brings(s, FlowKind::liquid) && !fills && s.volume <= 0 && never(s, "rate", s.rate) &&
        never(s, "speed", s.speed))
      out.warn(filled("{name} does not flow", {{"name", s.name}}), "It has no rate and no speed.",
               "Give it a rate", [id = s.id](Shot& t) { t.pour(id)->rate = Pour().rate; });
  }
}

void pours_are_seen(const Findings& f, Report& out) {
  for (const Pour& s : f.shot.pours) {
    if (f.shot.brings(s, FlowKind::liquid)) continue;
    const bool nothing = s.mode == PourMode::adds && !s.fill_at.time
                             ? never(s, "density_rate", s.density_rate)
                             : never(s, "density", s.density);
    if (nothing)
      out.warn(filled("{name} can't be seen", {{"name", s.name}}), "Its density is zero.",
               "Give it a density", [id = s.id](Shot& t) {
                 const Pour usual;
                 t.pour(id)->density_rate = usual.density_rate, t.pour(id)->density = usual.density;
               });
  }
}

void vessels_stay(const Findings& f, Report& out) {
  for (const Pour& s : f.shot.pours) {
    const Piece* p = s.from == SourceKind::piece ? f.shot.piece(s.source.id) : nullptr;
    if (!p || !p->holds || !s.replaces_source || !s.fill_at.time) continue;
    out.warn(filled("{name} can't turn into {fluid}",
                    {{"name", p->name}, {"fluid", f.shot.fluid(s.fluid.id)->name}}),
             "It holds fluid, and a vessel stays where it is when it is filled.", "Make it solid",
             [id = p->id](Shot& t) { t.piece(id)->holds = false, t.piece(id)->blocks = true; });
  }
}

void smoke_moves(const Findings& f, Report& out) {
  const Shot& shot = f.shot;
  const auto rests = [](const Pour& s) { return s.speed == 0 && s.tracks.empty(); };
  const auto stirs_nothing = [](const Force& force) {
    const auto* t = force.as<Turbulence>();
    return force.tracks.empty() &&
           (force.as<Gravity>() || force.as<Confinement>() || force.as<Drag>() || (t && t->speed == 0));
  };
  if (gravity_of(shot.forces) == 0 && shot.brings(FlowKind::gas) &&
      std::all_of(shot.pours.begin(), shot.pours.end(), rests) &&
      std::none_of(shot.pieces.begin(), shot.pieces.end(), [&](const Piece& p) { return moves(shot, p); }) &&
      std::all_of(shot.forces.begin(), shot.forces.end(), stirs_nothing))
    out.warn("The smoke will not move",
             "Gravity and turbulence are zero, and the smoke leaves its source without speed.",
             "Give it speed", [](Shot& t) {
               for (Pour& u : t.pours) u.speed = 0.15;
             });
}

void smoke_is_seen(const Findings& f, Report& out) {
  if (f.shot.look.thickness <= 0 && f.shot.brings(FlowKind::gas))
    out.warn("The smoke can't be seen", "Its extinction is zero.", "Use the usual extinction",
             [](Shot& t) { t.look.thickness = Look{}.thickness; });
}

void sources_have_colors(const Findings& f, Report& out) {
  for (const Pour& s : f.shot.pours) {
    const Piece* p = s.from == SourceKind::piece ? f.shot.piece(s.source.id) : nullptr;
    if (s.colors != PourColors::piece || !p) continue;
    const auto bodies = bodies_of(p->shape, f.stop);
    if (std::none_of(bodies->begin(), bodies->end(), [](const Body& b) {
          return b.colors || (b.seen && (!b.seen->colors.empty() || !b.seen->textures.empty()));
        }))
      out.warn(filled("{name} has no colours to take", {{"name", s.name}}),
               filled("{name} has only a material and no colours of its own. The pour takes its fluid's "
                      "colour instead.",
                      {{"name", p->name}}),
               "Use the fluid's colour", [id = s.id](Shot& t) { t.pour(id)->colors = PourColors::fluid; });
  }
}

}  // namespace pour
