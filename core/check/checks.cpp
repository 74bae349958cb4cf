#include "check/checks.h"

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/file.h"
#include "base/text.h"
#include "base/units.h"
#include "check/file_checks.h"
#include "check/force_checks.h"
#include "check/light_checks.h"
#include "check/liquid_checks.h"
#include "run/space.h"
#include "run/staging.h"
#include "shape/motion.h"
#include "shape/near_surface.h"
#include "shape/thicken.h"
#include "shot/out_of_range.h"

namespace pour {
namespace {

std::string cm(double v) { return format_quantity(v, Unit::length); }

/// As a run with other cells: there are more of them, and steps are shorter.
double times_as_long(double cell, double other) { return std::pow(cell / other, 4); }

void use_cells(Shot& s, double size) { s.run.detail = Detail::custom, s.run.cell_size = size; }

/// s of shot time.
double longest_frame(const Shot& shot) {
  const Clock clock(shot);
  double longest = 0;
  for (int f = 1; f <= shot.film.frames; ++f) longest = std::max(longest, clock.time(f + 1) - clock.time(f));
  return longest;
}

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

/// Gives each lettering that can't be set in its font one in which it can. Returns whether that helps.
bool mend_fonts(Shot& shot) {
  bool mended = false;
  for (Piece& p : shot.pieces) {
    auto* word = std::get_if<Lettering>(&p.shape);
    if (!word) continue;
    try {
      (void)bodies_of(p.shape);
    } catch (const Fault&) {
      try {
        Lettering other = *word;
        if (other.font.name = font_for(word->text); other.font.name.empty()) continue;
        (void)bodies_of(other);
        word->font = other.font, mended = true;
      } catch (const Fault&) {
        // The fault is not about the font.
      }
    }
  }
  return mended;
}

/// Vessels that several letters share.
void touching_letters(const Shot& shot, const StopAsked& stop, std::vector<Check>& out) {
  for (const Piece& p : shot.pieces) {
    const auto* word = std::get_if<Lettering>(&p.shape);
    if (!word || !word->joined || !p.holds) continue;
    bool touch = false;
    try {
      for (const Body& b : *bodies_of(p.shape, stop))
        touch = touch || b.seeds[int(SeedPlace::left)].size() > 1;
    } catch (const Fault&) {  // another check says so
    }
    if (touch)
      out.push_back({CheckLevel::warning, filled("Letters of {name} touch", {{"name", p.name}}),
                     "They form one vessel, so fluid flows from one letter into the next.", "Cut them apart",
                     [id = p.id](Shot& t) { std::get<Lettering>(t.piece(id)->shape).joined = false; }});
  }
}

}  // namespace

std::vector<Check> check_shot(const Shot& shot, const std::filesystem::path& disk, const StopAsked& stop) {
  std::vector<Check> out;
  const auto add = [&](CheckLevel level, std::string title, std::string text, std::string fix_name = "",
                       std::function<void(Shot&)> fix = {}) {
    out.push_back({level, std::move(title), std::move(text), std::move(fix_name), std::move(fix)});
  };

  for (const OutOfRange& o : unsettled_ranges(shot))
    add(CheckLevel::fault, filled("{path} is out of range", {{"path", o.path}}), in_words(o),
        filled("Accept {value}", {{"value", o.now}}), [path = o.path](Shot& t) { settle_range(t, path); });

  for (const Piece& p : shot.pieces)
    if (const auto* word = std::get_if<Lettering>(&p.shape);
        word && are_borrowed(word->text, word->font.name))
      add(CheckLevel::warning, filled("{name} is not installed", {{"name", word->font.name}}),
          filled("{name} uses letters stored in the shot. Other words can't be set in this font on this "
                 "machine.",
                 {{"name", p.name}}));

  touching_letters(shot, stop, out);

  const Clock clock(shot);
  const auto from_frame_1 = [](Shot& t, const std::string& id) {
    Pour& p = *t.pour(id);
    if (p.fill_at.time)
      p.fill_at.time = 0;
    else
      p.windows = windows_at(t, {{1, std::min(40, t.film.frames)}});
  };
  for (const Pour& s : shot.pours) {
    const bool fills = s.fill_at.time.has_value();
    if (!fills && s.windows.list.empty())
      add(CheckLevel::warning, filled("{name} never pours", {{"name", s.name}}), "It has no pour windows.",
          "Pour from frame 1", [=, id = s.id](Shot& t) { from_frame_1(t, id); });
    else if (const double begins = fills ? *s.fill_at.time : s.windows.list.front().from;
             begins > clock.time(shot.film.frames) + same_time)
      add(CheckLevel::warning, filled("{name} never pours", {{"name", s.name}}),
          filled("It starts at frame {begins}, after the last frame of the film ({frames}).",
                 {{"begins", format_quantity(clock.film_frame(begins), Unit::none, 6)},
                  {"frames", std::to_string(shot.film.frames)}}),
          "Pour from frame 1", [=, id = s.id](Shot& t) { from_frame_1(t, id); });
    const auto never = [&](const char* key, double value) { return value <= 0 && !s.tracks.contains(key); };
    if (shot.brings(s, FluidKind::liquid)) {
      if (!fills && s.volume <= 0 && never("rate", s.rate) && never("speed", s.speed))
        add(CheckLevel::warning, filled("{name} does not flow", {{"name", s.name}}),
            "It has no rate and no speed.", "Give it a rate",
            [id = s.id](Shot& t) { t.pour(id)->rate = Pour().rate; });
      continue;
    }
    const bool nothing = s.mode == PourMode::adds && !fills ? never("density_rate", s.density_rate)
                                                            : never("density", s.density);
    if (nothing)
      add(CheckLevel::warning, filled("{name} can't be seen", {{"name", s.name}}), "Its density is zero.",
          "Give it a density", [id = s.id](Shot& t) {
            const Pour usual;
            for (Pour& u : t.pours)
              if (u.id == id) u.density_rate = usual.density_rate, u.density = usual.density;
          });
  }
  if (gravity_of(shot.forces) == 0 && shot.brings(FluidKind::smoke) &&
      std::all_of(shot.pours.begin(), shot.pours.end(),
                  [](const Pour& s) { return s.speed == 0 && s.tracks.empty(); }) &&
      std::none_of(shot.pieces.begin(), shot.pieces.end(), [&](const Piece& p) { return moves(shot, p); }) &&
      std::all_of(shot.forces.begin(), shot.forces.end(), [](const Force& f) {
        const auto* t = f.as<Turbulence>();
        const bool stirs_nothing =
            f.as<Gravity>() || f.as<Confinement>() || f.as<Drag>() || (t && t->speed == 0);
        return f.tracks.empty() && stirs_nothing;
      }))
    add(CheckLevel::warning, "The smoke will not move",
        "Gravity and turbulence are zero, and the smoke leaves its source without speed.", "Give it speed",
        [](Shot& t) {
          for (Pour& u : t.pours) u.speed = 0.15;
        });
  if (2 * shot.film.loop > shot.film.frames)
    add(CheckLevel::warning, "The loop blend is too long",
        filled("It takes {loop} frames at both ends of a film that has {frames}.",
               {{"loop", std::to_string(shot.film.loop)}, {"frames", std::to_string(shot.film.frames)}}),
        "Shorten it", [](Shot& t) { t.film.loop = t.film.frames / 2; });
  const auto add_all = [&](std::vector<Check> more) {
    std::move(more.begin(), more.end(), std::back_inserter(out));
  };
  add_all(liquid_checks(shot));
  add_all(light_checks(shot));
  add_all(file_checks(shot));
  if (shot.look.thickness <= 0 && shot.brings(FluidKind::smoke))
    add(CheckLevel::warning, "The smoke can't be seen", "Its extinction is zero.", "Use the usual extinction",
        [](Shot& t) { t.look.thickness = Look{}.thickness; });

  try {
    const Space space(shot, stop);
    const double h = space.cell_size;
    const auto bodies_of_piece = [&](const Piece& p) -> const std::vector<Body>& {
      return space.bodies[size_t(&p - shot.pieces.data())];
    };
    const auto box_of = [&](const Piece& p) -> const Box& {
      return space.boxes[size_t(&p - shot.pieces.data())];
    };
    // Moving pieces are tested where they come to rest.
    const Shot last = shot_at(shot, shot.film.frames);
    const auto rests_in = [&](const Piece& p) {
      return moves(shot, p) ? piece_mesh(last, *last.piece(p.id)).bounds() : box_of(p);
    };
    const auto thinnest_of = [&](const Piece& p) {
      double thinnest = 1e300;
      for (const Body& body : bodies_of_piece(p)) thinnest = std::min(thinnest, body.stroke);
      return thinnest;
    };
    for (const Piece& p : shot.pieces) {
      if (!p.holds && !p.blocks && !p.drains) continue;
      // Strokes of vessels; walls of blocking and draining pieces.
      double thinnest = thinnest_of(p);
      for (const Body& body : bodies_of_piece(p))
        if (!p.holds) thinnest = std::min(thinnest, NearSurface(body.mesh).thinnest());
      if (thinnest >= thinnest_kept * h || (p.thickens && !p.holds)) continue;
      const double size = floor_kindly(thinnest / 3);
      const std::string why = filled(
          "Its thinnest part is {thinnest} and a cell is {cell}, so it may {harm}. {details} Cells of "
          "{size} are fine enough. The run will take about {times_as_long} times as long.",
          {{"thinnest", cm(thinnest)},
           {"cell", cm(h)},
           {"harm", (p.holds    ? "not fill, or leak"
                     : p.blocks ? "leak"
                                : "drain nothing")},
           {"details", kept_at(shot, thinnest, stop)},
           {"size", cm(size)},
           {"times_as_long", format_count(times_as_long(h, size))}});
      const std::string title = filled("{name} is thinner than two cells", {{"name", p.name}});
      if (p.holds)
        add(CheckLevel::warning, title, why, filled("Use cells of {size}", {{"size", cm(size)}}),
            [size](Shot& t) { use_cells(t, size); });
      else
        add(CheckLevel::warning, title, why, "Thicken it for the solver",
            [id = p.id](Shot& t) { t.piece(id)->thickens = true; });
    }
    for (const Pour& s : shot.pours)
      if (const Piece* p = s.from == SourceKind::piece && shot.brings(s, FluidKind::smoke)
                               ? shot.piece(s.source.id)
                               : nullptr)
        if (const double thinnest = thinnest_of(*p); thinnest < h)
          add(CheckLevel::warning, filled("{name} has a source thinner than a cell", {{"name", s.name}}),
              filled("{name} is {thinnest} thin and a cell is {cell}, so little or nothing will pour.",
                     {{"name", p->name}, {"thinnest", cm(thinnest)}, {"cell", cm(h)}}),
              filled("Use cells of {size}", {{"size", cm(floor_kindly(thinnest / 2))}}),
              [size = floor_kindly(thinnest / 2)](Shot& t) { use_cells(t, size); });
    for (const Pour& s : shot.pours) {
      const Piece* p = s.from == SourceKind::piece ? shot.piece(s.source.id) : nullptr;
      if (s.colors != PourColors::piece || !p) continue;
      const auto bodies = bodies_of(p->shape, stop);
      if (std::none_of(bodies->begin(), bodies->end(), [](const Body& b) {
            return b.colors || (b.seen && (!b.seen->colors.empty() || !b.seen->textures.empty()));
          }))
        add(CheckLevel::warning, filled("{name} has no colours to take", {{"name", s.name}}),
            filled("{name} has only a material and no colours of its own. The pour takes its fluid's colour "
                   "instead.",
                   {{"name", p->name}}),
            "Use the fluid's colour", [id = s.id](Shot& t) { t.pour(id)->colors = PourColors::fluid; });
    }
    add_all(force_checks(shot, space));
    add_all(liquid_checks(shot, space));
    const Vec3d size = space.pieces.size();
    if (const double longest = std::max({size.x, size.y, size.z}); longest > 100)
      add(CheckLevel::warning, filled("The set is {longest} long", {{"longest", cm(longest)}}),
          "At that size smoke seems to move very slowly. Check the units of the set.");
    for (const Piece& p : shot.pieces)
      if (shot.look.floor && p.may_show() &&
          rests_in(p).low.y < -std::max(1e-4, 0.003 * rests_in(p).size().y)) {
        add(CheckLevel::warning, filled("{name} reaches through the floor", {{"name", p.name}}),
            "The part below the floor can't be seen.", "Stand it on the floor", stand_on_floor);
        break;
      }
    for (const Piece& p : shot.pieces)
      if (!is_prop(shot, p) && out_of_picture(last, p, rests_in(p))) {
        add(CheckLevel::warning, filled("{name} reaches out of the picture", {{"name", p.name}}),
            "Part of it lies outside the shot camera's view.", "Frame the set",
            [](Shot& t) { t.camera = framed(t, Space(t)); });
        break;
      }
    const Staging staging(shot, space, Staging::For::looking, stop);
    const Box bounds = staging.bounds();
    for (const Piece& p : shot.pieces) {
      const Box& box = box_of(p);
      bool inside = true;
      for (int a = 0; a < 3; ++a)
        inside = inside && box.low[a] >= bounds.low[a] - h && box.high[a] <= bounds.high[a] + h;
      // A source that is wider than the bounds fills them; a room that moves is computed wherever it goes.
      const bool wanted = (p.holds && !moves(shot, p)) || p.blocks || is_target(shot, p) ||
                          (!p.may_show() && !box.overlaps(bounds));
      if (!inside && wanted && (p.holds || p.blocks || is_source(shot, p) || is_target(shot, p)))
        add(CheckLevel::warning, filled("{name} sticks out of the bounds", {{"name", p.name}}),
            "Parts outside the bounds are not simulated.", "Fit bounds",
            [](Shot& t) { t.run.fit_bounds = true; });
    }
    const Estimate e = staging.estimate();
    constexpr double day = 86400, much = 4;  // s
    const double longest = longest_frame(shot);
    if (longest > much)
      add(CheckLevel::warning,
          filled("One frame spans {longest} of shot time", {{"longest", format_duration(longest)}}),
          "Fluid moves too far in that time for a run to follow it.", "Capture at the frame rate",
          [](Shot& t) { t.film.capture = 0, t.film.tracks.erase("capture"); });
    if (e.seconds > day)
      add(CheckLevel::warning,
          filled("The run takes about {seconds}", {{"seconds", format_duration(e.seconds)}}),
          filled("It has about {cells} cells, and a frame spans up to {longest} of shot time.",
                 {{"cells", format_count(e.cells)}, {"longest", format_duration(longest)}}),
          "Use draft", [](Shot& t) { t.run.detail = Detail::draft; });
    if (e.memory > available_memory())
      add(CheckLevel::fault, "Not enough memory",
          filled("This run needs about {memory}; {free} are free.",
                 {{"memory", format_bytes(e.memory)}, {"free", format_bytes(available_memory())}}),
          "Use draft", [](Shot& t) { t.run.detail = Detail::draft; });
    if (e.disk > free_bytes(disk))
      add(CheckLevel::fault, "Not enough disk space",
          filled("This run needs about {disk}; {free} are free.",
                 {{"disk", format_bytes(e.disk)}, {"free", format_bytes(free_bytes(disk))}}),
          "Use draft", [](Shot& t) { t.run.detail = Detail::draft; });
  } catch (const GivenUp&) {
    throw;
  } catch (...) {
    const Fault f = fault_in_flight("Checks");
    Shot mended = shot;
    if (mend_fonts(mended))
      add(CheckLevel::fault, f.where, f.problem + " " + f.mend, "Use a font that fits", mend_fonts);
    else
      add(CheckLevel::fault, f.where, f.problem + " " + f.mend);
  }
  std::stable_sort(out.begin(), out.end(), [](const Check& a, const Check& b) { return a.level > b.level; });
  return out;
}

}  // namespace pour
