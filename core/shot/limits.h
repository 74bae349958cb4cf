// Limits of settings: the only place that applies them, for every kind of input.
//
// Limits come from the setting's row (About::low and high, SI). A hair beyond a limit counts as rounding and
// is clamped silently: 1e-9 of the limit, or 1e-12 if the limit is 0. Values further out are refused when
// typed, and clamped and recorded when read from a file.
#pragma once
#include <string>
#include <vector>

#include "shot/value.h"

namespace pour {

/// Whether every number of a value is within its limits, give or take a hair.
bool is_within(const About&, const Value&);

/// The nearest allowed value. A 0 with a word is allowed. Windows that overlap after clamping are dropped.
Value kept_within(const About&, Value);
double kept_within(const About&, double);

/// kept_within(), but throws Fault (Blame::shot) naming `where` if a number is more than a hair outside.
Value accepted(const About&, const Value&, const std::string& where);
double accepted(const About&, double, const std::string& where);

/// Limits of the relative thickness at a curve's point.
const About& point_size_limits();

/// A number in a file that was out of range: the file's value and the clamped one, as text with units. `path`
/// is the setting's, with “@1.5s” for a key.
struct OutOfRange {
  std::string path, was, now;
  bool operator==(const OutOfRange&) const = default;
};

/// kept_within() that records numbers more than a hair outside in `found`.
Value kept_within(const About&, const Value&, const std::string& path, std::vector<OutOfRange>& found);

}  // namespace pour
