// What the numbers of a setting may be: the one place that decides it, for every way in.
//
// Limits come from the setting's row (About::low and high, SI). A hair beyond a limit is rounding and is
// taken away silently: 1e-9 of the limit, or 1e-12 where the limit is 0. Whatever lies further off is refused
// where somebody types it, and clamped and noted where a file holds it.
#pragma once
#include <string>
#include <vector>

#include "shot/value.h"

namespace pour {

/// Whether every number of a value is within its limits, or a hair beyond.
bool is_within(const About&, const Value&);

/// The nearest value that the setting may have. Where 0 has a word, it counts as within. Windows that
/// clamping makes overlap are dropped.
Value kept_within(const About&, Value);
double kept_within(const About&, double);

/// The same, but throws Fault (Blame::shot) of `where` for more than a hair.
Value accepted(const About&, const Value&, const std::string& where);
double accepted(const About&, double, const std::string& where);

/// Limits of the size of a curve's point, as a share of the usual thickness.
const About& point_size_limits();

/// A number in a file that was beyond its limits: what the file had, and what was taken instead, as text with
/// units. `path` is the setting's, with “@1.5s” for a key.
struct OutOfRange {
  std::string path, was, now;
  bool operator==(const OutOfRange&) const = default;
};

/// kept_within(), noting in `found` what was further off than a hair.
Value kept_within(const About&, const Value&, const std::string& path, std::vector<OutOfRange>& found);

}  // namespace pour
