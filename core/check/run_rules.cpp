// Rules of the run: bounds, time, memory and disk.
#include <algorithm>

#include "base/file.h"
#include "base/text.h"
#include "base/units.h"
#include "check/rules.h"
#include "shape/motion.h"

namespace pour {
namespace {

/// s of shot time.
double longest_frame(const Shot& shot) {
  const Clock clock(shot);
  double longest = 0;
  for (int f = 1; f <= shot.film.frames; ++f) longest = std::max(longest, clock.time(f + 1) - clock.time(f));
  return longest;
}

void use_draft(Shot& t) { t.run.detail = Detail::draft; }

}  // namespace

void set_is_in_bounds(const Findings& f, Report& out) {
  const Box bounds = f.staging->bounds();
  const double h = f.space->cell_size;
  for (const Piece& p : f.shot.pieces) {
    const Box& box = f.box(p);
    bool inside = true;
    for (int a = 0; a < 3; ++a)
      inside = inside && box.low[a] >= bounds.low[a] - h && box.high[a] <= bounds.high[a] + h;
    const bool target = is_target(f.shot, p);
    // A source that is wider than the bounds fills them; a room that moves is computed wherever it goes.
    const bool wanted =
        (p.holds && !moves(f.shot, p)) || p.blocks || target || (!p.may_show() && !box.overlaps(bounds));
    if (!inside && wanted && (p.holds || p.blocks || is_source(f.shot, p) || target))
      out.warn(filled("{name} sticks out of the bounds", {{"name", p.name}}),
               "Parts outside the bounds are not simulated.", "Fit bounds",
               [](Shot& t) { t.run.fit_bounds = true; });
  }
}

void frames_are_short(const Findings& f, Report& out) {
  constexpr double much = 4;  // s
  if (const double longest = longest_frame(f.shot); longest > much)
    out.warn(filled("One frame spans {longest} of shot time", {{"longest", format_duration(longest)}}),
             "Fluid moves too far in that time for a run to follow it.", "Capture at the frame rate",
             [](Shot& t) { t.film.capture = 0, t.film.tracks.erase("capture"); });
}

void run_fits_machine(const Findings& f, Report& out) {
  constexpr double day = 86400;  // s
  const Estimate e = f.staging->estimate();
  if (e.seconds > day)
    out.warn(filled("The run takes about {seconds}", {{"seconds", format_duration(e.seconds)}}),
             filled("It has about {cells} cells, and a frame spans up to {longest} of shot time.",
                    {{"cells", format_count(e.cells)}, {"longest", format_duration(longest_frame(f.shot))}}),
             "Use draft", use_draft);
  if (e.memory > available_memory())
    out.fault("Not enough memory",
              filled("This run needs about {memory}; {free} are free.",
                     {{"memory", format_bytes(e.memory)}, {"free", format_bytes(available_memory())}}),
              "Use draft", use_draft);
  if (e.disk > free_bytes(f.disk))
    out.fault("Not enough disk space",
              filled("This run needs about {disk}; {free} are free.",
                     {{"disk", format_bytes(e.disk)}, {"free", format_bytes(free_bytes(f.disk))}}),
              "Use draft", use_draft);
}

}  // namespace pour
