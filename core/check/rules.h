// Rules: what is asked of a shot, and what is known when it is asked.
#pragma once
#include "check/checks.h"
#include "run/staging.h"

namespace pour {

/// What is known of a shot. Rules of settings see neither space nor staging, rules of the set no staging.
struct Findings {
  const Shot& shot;
  const std::filesystem::path& disk;  // folder of runs
  const StopAsked& stop;
  const Space* space = nullptr;
  const Staging* staging = nullptr;

  const std::vector<Body>& bodies(const Piece& p) const { return space->bodies[index(p)]; }
  const Box& box(const Piece& p) const { return space->boxes[index(p)]; }

 private:
  size_t index(const Piece& p) const { return size_t(&p - shot.pieces.data()); }
};

/// Where rules report what will go wrong.
class Report {
 public:
  void warn(std::string title, std::string text, std::string fix_name = "",
            std::function<void(Shot&)> fix = {}) {
    add({CheckLevel::warning, std::move(title), std::move(text), std::move(fix_name), std::move(fix)});
  }
  void fault(std::string title, std::string text, std::string fix_name = "",
             std::function<void(Shot&)> fix = {}) {
    add({CheckLevel::fault, std::move(title), std::move(text), std::move(fix_name), std::move(fix)});
  }
  void add(Check c) { checks_.push_back(std::move(c)); }
  void add(std::vector<Check> more) { std::move(more.begin(), more.end(), std::back_inserter(checks_)); }
  /// Everything reported, faults first.
  std::vector<Check> all();

 private:
  std::vector<Check> checks_;
};

using Rule = void (*)(const Findings&, Report&);

// Of settings.
void ranges_are_settled(const Findings&, Report&);
void fonts_are_installed(const Findings&, Report&);
void letters_are_apart(const Findings&, Report&);
void pours_pour(const Findings&, Report&);
void pours_are_seen(const Findings&, Report&);
void vessels_stay(const Findings&, Report&);
void smoke_moves(const Findings&, Report&);
void smoke_is_seen(const Findings&, Report&);
void loop_fits_film(const Findings&, Report&);
// Of the set.
void walls_are_kept(const Findings&, Report&);
void vessels_are_joined(const Findings&, Report&);
void holes_are_cut(const Findings&, Report&);
void sources_are_thick(const Findings&, Report&);
void sources_have_colors(const Findings&, Report&);
void set_is_small(const Findings&, Report&);
void floor_is_below(const Findings&, Report&);
void set_is_in_picture(const Findings&, Report&);
// Of the run.
void set_is_in_bounds(const Findings&, Report&);
void frames_are_short(const Findings&, Report&);
void run_fits_machine(const Findings&, Report&);

/// Gives each lettering that can't be set in its font one in which it can. Returns whether that helps.
bool mend_fonts(Shot&);

}  // namespace pour
