#include "shot/limits.h"

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/text.h"

namespace pour {
namespace {

double hair(double limit) { return limit == 0 ? 1e-12 : 1e-9 * std::abs(limit); }

bool stands_for_word(const About& s, double v) { return *s.zero && std::abs(v) <= hair(0); }

bool is_within(const About& s, double v) {
  return stands_for_word(s, v) || (v >= s.low - hair(s.low) && v <= s.high + hair(s.high));
}

Fault out_of_range(const About& s, double v, const std::string& where) {
  return shot_fault(where, filled("{value} is out of range.", {{"value", format_quantity(v, s.unit)}}),
                    filled("Choose between {low} and {high}.", {{"low", format_quantity(s.low, s.unit)},
                                                                {"high", format_quantity(s.high, s.unit)}}));
}

/// Calls f(limits, number) for each number of a value, and writes back what it returns.
template <class F>
void each_number(const About& s, Value& value, const F& f) {
  const auto whole = [&](int& v) { v = int(std::lround(f(s, double(v)))); };
  if (auto* d = std::get_if<double>(&value)) *d = f(s, *d);
  if (auto* i = std::get_if<int>(&value)) whole(*i);
  if (auto* v = std::get_if<Vec3d>(&value))
    for (int a = 0; a < 3; ++a) (*v)[a] = f(s, (*v)[a]);
  if (auto* c = std::get_if<Color>(&value))
    for (double* part : {&c->r, &c->g, &c->b}) *part = f(s, *part);
  if (auto* w = std::get_if<Windows>(&value))
    for (Span& r : w->list) r.from = f(s, r.from), r.to = f(s, r.to);
  if (auto* m = std::get_if<Moment>(&value); m && m->time) *m->time = f(s, *m->time);
  if (auto* d = std::get_if<Dependence>(&value))
    for (auto& [x, y] : d->points) x = f(driver_limits(d->driver), x), y = f(factor_limits(), y);
  if (auto* p = std::get_if<Points>(&value)) {
    for (Vec3d& v : p->list)
      for (int a = 0; a < s.dimensions; ++a) v[a] = f(s, v[a]);
    for (double& size : p->sizes) size = f(point_size_limits(), size);
  }
}

void drop_overlaps(Windows& w) {
  std::vector<Span> kept;
  for (const Span& r : w.list)
    if (r.to > r.from && (kept.empty() || r.from >= kept.back().to - same_time)) kept.push_back(r);
  w.list = std::move(kept);
}

}  // namespace

const About& point_size_limits() {
  static const About limits = [] {
    About s;
    s.unit = Unit::percent, s.low = 0.01, s.high = 100;
    return s;
  }();
  return limits;
}

bool is_within(const About& s, const Value& value) {
  bool within = true;
  Value copy = value;
  each_number(s, copy, [&](const About& limits, double v) {
    within = within && is_within(limits, v);
    return v;
  });
  return within;
}

double kept_within(const About& s, double v) {
  if (*s.zero && s.low > 0 && !(v >= s.low / 2)) return 0;
  if (stands_for_word(s, v)) return 0;
  return v >= s.low ? std::min(v, s.high) : s.low;  // so NaN is the lowest
}

Value kept_within(const About& s, Value value) {
  each_number(s, value, [](const About& limits, double v) { return kept_within(limits, v); });
  if (auto* w = std::get_if<Windows>(&value)) drop_overlaps(*w);
  return value;
}

double accepted(const About& s, double v, const std::string& where) {
  if (!is_within(s, v)) throw out_of_range(s, v, where);
  return kept_within(s, v);
}

Value accepted(const About& s, const Value& value, const std::string& where) {
  Value out = value;
  each_number(s, out, [&](const About& limits, double v) { return accepted(limits, v, where); });
  return out;
}

Value kept_within(const About& s, const Value& value, const std::string& path,
                  std::vector<OutOfRange>& found) {
  const Value kept = kept_within(s, value);
  if (!is_within(s, value)) found.push_back({path, to_text(s, value), to_text(s, kept)});
  return kept;
}

}  // namespace pour
