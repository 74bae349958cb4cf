#include "base/units.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdio>
#include <numbers>

#include "base/error.h"
#include "base/text.h"

namespace pour {
namespace {

struct Suffix {
  const char* text;
  double si;  // one of these in SI
  bool shown = false;
};

// The first entry is the unit of a bare number; the shown unit is chosen by size.
const std::vector<Suffix>& table(Unit unit) {
  using V = std::vector<Suffix>;
  static const V none{{"", 1, true}};
  static const V percent{{"%", 0.01, true}};
  static const V length{{"cm", 1e-2, true}, {"mm", 1e-3, true}, {"m", 1, true}, {"km", 1e3, true},
                        {"um", 1e-6},       {"µm", 1e-6},       {"in", 0.0254}, {"ft", 0.3048}};
  static const V time{{"s", 1, true}, {"ms", 1e-3, true}, {"min", 60}, {"h", 3600}};
  static const V speed{{"m/s", 1, true}, {"cm/s", 1e-2, true}, {"mm/s", 1e-3}, {"km/h", 1 / 3.6}};
  static const V acceleration{{"m/s²", 1, true}, {"m/s2", 1}, {"g", 9.80665}};
  static const V warmth{{"°C", 1, true}, {"C", 1}, {"K", 1}};
  static const V density{{"g/m³", 1e-3, true}, {"g/m3", 1e-3}, {"kg/m³", 1}, {"kg/m3", 1}};
  static const V density_rate{{"g/m³·s", 1e-3, true}, {"g/m3/s", 1e-3}, {"g/m³/s", 1e-3}, {"kg/m3/s", 1}};
  static const V angle{{"°", std::numbers::pi / 180, true}, {"deg", std::numbers::pi / 180}, {"rad", 1}};
  static const V spin{{"°/s", std::numbers::pi / 180, true}, {"deg/s", std::numbers::pi / 180}, {"rad/s", 1}};
  static const V rate{{"1/s", 1, true}, {"Hz", 1}};
  static const V area_by_mass{{"m²/g", 1e3, true}, {"m2/g", 1e3}, {"m2/kg", 1}};
  static const V frames{{"frames", 1, true}, {"f", 1}};
  static const V focal{{"mm", 1e-3, true}, {"cm", 1e-2}, {"m", 1}};
  static const V volume{{"ml", 1e-6, true}, {"l", 1e-3, true}, {"m³", 1}, {"m3", 1}};
  static const V volume_rate{
      {"ml/s", 1e-6, true}, {"l/s", 1e-3, true}, {"l/min", 1e-3 / 60}, {"m³/s", 1}, {"m3/s", 1}};
  static const V mass_density{{"kg/m³", 1, true}, {"kg/m3", 1}, {"g/ml", 1000}};
  static const V viscosity{
      {"Pa·s", 1, true}, {"mPa·s", 1e-3, true}, {"Pas", 1}, {"mPas", 1e-3}, {"cP", 1e-3}};
  static const V tension{{"mN/m", 1e-3, true}, {"N/m", 1}};
  static const V pressure{{"Pa", 1, true}, {"kPa", 1000}};
  static const V kelvin{{"K", 1, true}};
  switch (unit) {
    case Unit::none:
      return none;
    case Unit::percent:
      return percent;
    case Unit::length:
      return length;
    case Unit::time:
      return time;
    case Unit::speed:
      return speed;
    case Unit::acceleration:
      return acceleration;
    case Unit::warmth:
      return warmth;
    case Unit::density:
      return density;
    case Unit::density_rate:
      return density_rate;
    case Unit::angle:
      return angle;
    case Unit::spin:
      return spin;
    case Unit::rate:
      return rate;
    case Unit::area_by_mass:
      return area_by_mass;
    case Unit::frames:
      return frames;
    case Unit::focal:
      return focal;
    case Unit::volume:
      return volume;
    case Unit::volume_rate:
      return volume_rate;
    case Unit::mass_density:
      return mass_density;
    case Unit::viscosity:
      return viscosity;
    case Unit::tension:
      return tension;
    case Unit::pressure:
      return pressure;
    case Unit::kelvin:
      return kelvin;
  }
  return none;
}

std::string_view trim(std::string_view s) {
  while (!s.empty() && std::isspace(static_cast<unsigned char>(s.front()))) s.remove_prefix(1);
  while (!s.empty() && std::isspace(static_cast<unsigned char>(s.back()))) s.remove_suffix(1);
  return s;
}

bool read_number(std::string_view& s, double& value) {
  s = trim(s);
  if (!s.empty() && s.front() == '+') s.remove_prefix(1);
  if (s.starts_with("\u2212")) {  // the minus sign we print
    s.remove_prefix(3);
    if (!read_number(s, value)) return false;
    value = -value;
    return true;
  }
  const auto [end, error] = std::from_chars(s.data(), s.data() + s.size(), value);
  if (error != std::errc{}) return false;
  s.remove_prefix(size_t(end - s.data()));
  return true;
}

std::string plain(double v, int digits) {
  char buffer[64];
  const double a = std::abs(v);
  int decimals = a > 0 ? digits - 1 - int(std::floor(std::log10(a) + 1e-9)) : 0;
  decimals = std::clamp(decimals, 0, 9);
  std::snprintf(buffer, sizeof buffer, "%.*f", decimals, v);
  std::string s = buffer;
  if (s.find('.') != std::string::npos) {
    while (s.back() == '0') s.pop_back();
    if (s.back() == '.') s.pop_back();
  }
  return s == "-0" ? "0" : s;
}

}  // namespace

double parse_quantity(std::string_view text, Unit unit, const std::string& where) {
  std::string_view rest = text;
  double value = 0;
  const auto fail = [&](const std::string& what) -> Fault {
    std::string known;
    for (const Suffix& s : table(unit))
      if (*s.text) known += (known.empty() ? "" : ", ") + std::string(s.text);
    return shot_fault(where, what,
                      known.empty()
                          ? "Write a number, for example 0.5 or 1/3."
                          : filled("Write a number with one of the units {known}.", {{"known", known}}));
  };
  if (!read_number(rest, value))
    throw fail(filled("“{text}” is not a number.", {{"text", std::string(text)}}));
  rest = trim(rest);
  if (rest.starts_with("/") && rest.size() > 1) {
    std::string_view after = rest.substr(1);
    double below = 0;
    if (read_number(after, below)) {
      if (below == 0) throw fail(filled("“{text}” divides by zero.", {{"text", std::string(text)}}));
      value /= below, rest = trim(after);
    }
  }
  if (!std::isfinite(value))
    throw fail(filled("“{text}” is not a finite number.", {{"text", std::string(text)}}));
  const auto& units = table(unit);
  if (rest.empty()) return value * units.front().si;
  for (const Suffix& s : units)
    if (rest == s.text) return value * s.si;
  throw fail(filled("the unit “{rest}” does not fit here.", {{"rest", std::string(rest)}}));
}

Shown show_quantity(double si, Unit unit, int digits) {
  const auto& units = table(unit);
  const Suffix* best = &units.front();
  double best_cost = 1e300;
  for (const Suffix& s : units) {
    if (!s.shown) continue;
    const double a = std::abs(si / s.si);
    // Numbers between 1 and 1000 read best, then those from 0.1 on.
    const double cost = a == 0       ? (&s == &units.front() ? 0 : 1)
                        : a < 0.1    ? 1 - std::log10(a)
                        : a < 1      ? 0.5
                        : a >= 999.5 ? std::log10(a)
                                     : 0;
    if (cost < best_cost - 1e-9) best = &s, best_cost = cost;
  }
  return {plain(si / best->si, digits), best->text};
}

std::string format_quantity(double si, Unit unit, int digits) {
  const Shown s = show_quantity(si, unit, digits);
  return s.suffix.empty() || s.suffix == "°" ? s.number + s.suffix : s.number + " " + s.suffix;
}

std::vector<std::string> suffixes(Unit unit) {
  std::vector<std::string> out;
  for (const Suffix& s : table(unit)) out.emplace_back(s.text);
  return out;
}

std::string format_duration(double s) {
  char b[64];
  if (s < 1) return "under 1 s";
  if (s < 90)
    std::snprintf(b, sizeof b, "%.0f s", s);
  else if (s < 5400)
    std::snprintf(b, sizeof b, "%.0f min", s / 60);
  else if (s < 1e6)
    std::snprintf(b, sizeof b, "%d h %02d min", int(s / 3600), int(s / 60) % 60);
  else if (s < 1e9)
    std::snprintf(b, sizeof b, "%.0f days", s / 86400);
  else
    return "years";
  return b;
}

std::string format_bytes(double bytes) {
  static const char* names[] = {"B", "kB", "MB", "GB", "TB", "PB", "EB"};
  int i = 0;
  while (bytes >= 999.5 && i < 6) bytes /= 1000, ++i;
  return plain(bytes, bytes < 10 && i > 0 ? 2 : 3) + " " + names[i];
}

std::string format_count(double n) {
  n = std::round(n);
  if (n >= 1e6) return plain(n / 1e6, 3) + " M";
  if (n >= 1e4) return plain(n / 1e3, 3) + " k";
  return plain(n, 4);
}

}  // namespace pour
