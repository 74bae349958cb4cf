#include "check/checks.h"

#include <algorithm>

#include "base/error.h"
#include "check/file_checks.h"
#include "check/force_checks.h"
#include "check/light_checks.h"
#include "check/liquid_checks.h"
#include "check/rules.h"

namespace pour {
namespace {

constexpr Rule of_settings[] = {
    ranges_are_settled,
    fonts_are_installed,
    letters_are_apart,
    pours_pour,
    pours_are_seen,
    vessels_stay,
    smoke_moves,
    loop_fits_film,
    [](const Findings& f, Report& out) { out.add(liquid_checks(f.shot)); },
    [](const Findings& f, Report& out) { out.add(light_checks(f.shot)); },
    [](const Findings& f, Report& out) { out.add(file_checks(f.shot)); },
    smoke_is_seen,
};

constexpr Rule of_set[] = {
    walls_are_kept,
    vessels_are_joined,
    holes_are_cut,
    sources_are_thick,
    sources_have_colors,
    [](const Findings& f, Report& out) { out.add(force_checks(f.shot, *f.space)); },
    [](const Findings& f, Report& out) { out.add(liquid_checks(f.shot, *f.space)); },
    set_is_small,
    floor_is_below,
    set_is_in_picture,
};

constexpr Rule of_run[] = {set_is_in_bounds, frames_are_short, run_fits_machine};

}  // namespace

std::vector<Check> Report::all() {
  std::stable_sort(checks_.begin(), checks_.end(),
                   [](const Check& a, const Check& b) { return a.level > b.level; });
  return std::move(checks_);
}

std::vector<Check> check_shot(const Shot& shot, const std::filesystem::path& disk, const StopAsked& stop) {
  Report out;
  Findings found{shot, disk, stop};
  for (const Rule rule : of_settings) rule(found, out);
  try {
    const Space space(shot, stop);
    found.space = &space;
    for (const Rule rule : of_set) rule(found, out);
    const Staging staging(shot, space, Staging::For::looking, stop);
    found.staging = &staging;
    for (const Rule rule : of_run) rule(found, out);
  } catch (const GivenUp&) {
    throw;
  } catch (...) {
    const Fault f = fault_in_flight("Checks");
    Shot mended = shot;
    if (mend_fonts(mended))
      out.fault(f.where, f.problem + " " + f.mend, "Use a font that fits",
                [](Shot& t) { (void)mend_fonts(t); });
    else
      out.fault(f.where, f.problem + " " + f.mend);
  }
  return out.all();
}

}  // namespace pour
