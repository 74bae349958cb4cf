#include "shot/values/dependence.h"

#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/json.h"
#include "base/text.h"
#include "shot/limits.h"
#include "shot/value.h"

namespace pour {
namespace {

constexpr size_t most_points = 64;

constexpr Option all_drivers[] = {{"nothing", "nothing"}, {"age", "age"},           {"height", "height"},
                                  {"speed", "speed"},     {"distance", "distance"}, {"density", "density"},
                                  {"warmth", "warmth"}};

About limits_of(Unit unit, double most) {
  About s;
  s.unit = unit, s.low = -most, s.high = most;
  return s;
}

Dependence checked(Dependence d, const std::string& where) {
  if (d.driver == Driver::none) return {};
  if (d.points.size() < 2 || d.points.size() > most_points)
    throw shot_fault(where, "is not a curve.",
                     filled("Write 2 to {most} points, for example “age: 0 s, 0 %; 2 s, 100 %”.",
                            {{"most", std::to_string(most_points)}}));
  for (size_t i = 1; i < d.points.size(); ++i)
    if (!(d.points[i].first > d.points[i - 1].first))
      throw shot_fault(where,
                       filled("has a point at {point} after one that is not below it.",
                              {{"point", format_quantity(d.points[i].first, unit_of(d.driver))}}),
                       "Write the points in rising order, each at another place.");
  return d;
}

Driver driver_called(const std::string& word, const std::string& where) {
  std::vector<std::string> known;
  for (const Option& o : all_drivers) {
    if (word == o.key) return Driver(&o - all_drivers);
    known.emplace_back(o.key);
  }
  throw shot_fault(where, filled("“{word}” is nothing that it can depend on.", {{"word", word}}),
                   did_you_mean(nearest(word, known),
                                "Choose nothing, age, height, speed, distance, density "
                                "or warmth."));
}

}  // namespace

std::span<const Option> drivers() { return all_drivers; }

Unit unit_of(Driver d) {
  static constexpr Unit all[] = {Unit::none,   Unit::time,    Unit::length, Unit::speed,
                                 Unit::length, Unit::density, Unit::warmth};
  return all[int(d)];
}

const About& driver_limits(Driver d) {
  static const About all[] = {limits_of(unit_of(Driver(0)), 1e6), limits_of(unit_of(Driver(1)), 1e6),
                              limits_of(unit_of(Driver(2)), 1e6), limits_of(unit_of(Driver(3)), 1e6),
                              limits_of(unit_of(Driver(4)), 1e6), limits_of(unit_of(Driver(5)), 1e6),
                              limits_of(unit_of(Driver(6)), 1e6)};
  return all[int(d)];
}

// Not below 0: drag that drives would grow without end.
const About& factor_limits() {
  static const About limits = [] {
    About s = limits_of(Unit::percent, 1000);
    s.low = 0;
    return s;
  }();
  return limits;
}

Dependence usual_dependence(Driver d) {
  switch (d) {
    case Driver::none:
      return {};
    case Driver::age:
      return {d, {{1, 0}, {1.5, 1}}};
    case Driver::height:
      return {d, {{0, 1}, {0.3, 0}}};
    case Driver::speed:
      return {d, {{0, 1}, {1, 0}}};
    case Driver::distance:
      return {d, {{0, 1}, {0.1, 0}}};
    case Driver::density:
      return {d, {{0, 0}, {0.002, 1}}};
    case Driver::warmth:
      return {d, {{0, 0}, {40, 1}}};
  }
  return {};
}

std::string to_text(const Dependence& d) {
  if (d.driver == Driver::none) return drivers()[0].key;
  std::string out = std::string(drivers()[size_t(d.driver)].key) + ": ";
  bool first = true;
  for (const auto& [x, y] : d.points) {
    out += (first ? "" : "; ") + format_quantity(x, unit_of(d.driver), 6) + ", " +
           format_quantity(y, Unit::percent, 6);
    first = false;
  }
  return out;
}

Dependence dependence_from_text(const std::string& text, const std::string& where) {
  const size_t colon = text.find(':');
  Dependence out{driver_called(trimmed(text.substr(0, colon)), where), {}};
  if (out.driver == Driver::none) return {};
  if (colon == std::string::npos) return usual_dependence(out.driver);
  for (const std::string& part : split(text.substr(colon + 1), ';')) {
    const auto numbers = split(part, ',');
    if (numbers.size() != 2)
      throw shot_fault(where, filled("“{part}” is not a point of two numbers.", {{"part", part}}),
                       "Write each as a figure and a share: 2 s, 100 %.");
    out.points.emplace_back(
        accepted(driver_limits(out.driver), parse_quantity(numbers[0], unit_of(out.driver), where), where),
        accepted(factor_limits(), parse_quantity(numbers[1], Unit::percent, where), where));
  }
  return checked(std::move(out), where);
}

nlohmann::ordered_json to_json(const Dependence& d) {
  if (d.driver == Driver::none) return nullptr;
  nlohmann::ordered_json points = nlohmann::ordered_json::array();
  for (const auto& [x, y] : d.points) points.push_back({x, y});
  return {{"driver", drivers()[size_t(d.driver)].key}, {"points", std::move(points)}};
}

Dependence dependence_from_json(const nlohmann::ordered_json& j, const std::string& where) {
  if (j.is_null()) return {};
  const auto wrong = [&] {
    return shot_fault(where, "is not a driver with its points.",
                      "Write it as {\"driver\": \"age\", \"points\": [[0, 0], [2, 1]]}, or null.");
  };
  if (!j.is_object() || !j.contains("driver") || !j["driver"].is_string() || !j.contains("points") ||
      !j["points"].is_array())
    throw wrong();
  Dependence out{driver_called(j["driver"].get<std::string>(), where), {}};
  for (const auto& e : j["points"]) {
    if (!e.is_array() || e.size() != 2 || !e[0].is_number() || !e[1].is_number()) throw wrong();
    out.points.emplace_back(e[0].get<double>(), e[1].get<double>());
  }
  return checked(std::move(out), where);
}

}  // namespace pour
