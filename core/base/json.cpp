#include "base/json.h"

#include <cmath>
#include <set>

#include "base/error.h"
#include "base/file.h"
#include "base/text.h"

namespace pour {

Json parse_json(const std::string& text, const std::string& where, const std::string& what,
                const std::string& mend) {
  const auto line_at = [&](size_t byte) {
    return std::to_string(
        1 + std::count(text.begin(), text.begin() + std::ptrdiff_t(std::min(byte, text.size())), '\n'));
  };
  std::vector<std::set<std::string>> names;  // of each object that is open
  const auto look = [&](int depth, Json::parse_event_t event, Json& parsed) {
    using Event = Json::parse_event_t;
    if (depth > json_deepest)
      throw shot_fault(where,
                       filled("is not {what}: it has over {most} brackets within each other.",
                              {{"what", what}, {"most", std::to_string(json_deepest)}}),
                       mend);
    if (event == Event::object_start) names.emplace_back();
    if (event == Event::object_end) names.pop_back();
    if (event == Event::key && !names.back().insert(parsed.get<std::string>()).second)
      throw shot_fault(
          where,
          filled("says “{name}” twice in one place.", {{"name", parsed.get<std::string>().substr(0, 100)}}),
          "Remove one of the two.");
    return true;
  };
  try {
    return Json::parse(text, look);
  } catch (const Json::parse_error& e) {
    throw shot_fault(where,
                     filled("is not {what}: the text breaks off or is garbled at line {line}.",
                            {{"what", what}, {"line", line_at(e.byte)}}),
                     mend);
  } catch (const Json::exception&) {  // a number beyond what a double holds
    throw shot_fault(where, filled("is not {what}: it holds a number that is too large.", {{"what", what}}),
                     mend);
  }
}

std::string shown(const Json& j) {
  std::string text = j.is_structured() ? std::string(j.is_array() ? "a list" : "a group") : one_line(j);
  return text.size() > 100 ? text.substr(0, 60) + " …" : text;
}

std::string one_line(const Json& j) { return j.dump(-1, ' ', false, Json::error_handler_t::replace); }

namespace {

std::string sum_of(const Json& j) { return in_digits(checksum(one_line(j))); }

const Json& member(const Json& object, const char* key, const std::string& where) {
  const auto found = object.is_object() ? object.find(key) : object.end();
  if (!object.is_object() || found == object.end())
    throw shot_fault(where, filled("“{key}” is missing.", {{"key", key}}), "Restore the file from a copy.");
  return *found;
}

Fault wrong(const char* key, const Json& j, const std::string& wanted, const std::string& where) {
  return shot_fault(where, filled("“{key}” is {value}.", {{"key", key}, {"value", shown(j)}}),
                    filled("It should be {wanted}; restore the file from a copy.", {{"wanted", wanted}}));
}

std::string plain(double v) {
  char b[32];
  std::snprintf(b, sizeof b, "%g", v);
  return b;
}

}  // namespace

double number_in(const Json& object, const char* key, double low, double high, const std::string& where) {
  const Json& j = member(object, key, where);
  const double v = j.is_number() ? j.get<double>() : NAN;
  if (!(v >= low && v <= high))
    throw wrong(key, j, filled("from {low} to {high}", {{"low", plain(low)}, {"high", plain(high)}}), where);
  return v;
}

int whole_in(const Json& object, const char* key, int low, int high, const std::string& where) {
  const double v = number_in(object, key, low, high, where);
  if (v != std::round(v)) throw wrong(key, object[key], "a whole number", where);
  return int(v);
}

Json sealed(const Json& j) {
  Json out = Json::parse(one_line(j));  // what the sum is made of is what will be read
  out["sum"] = sum_of(out);
  return out;
}

Json unsealed(Json j, const std::string& where) {
  const std::string sum = text_in(j, "sum", where);
  j.erase("sum");
  if (sum != sum_of(j))
    throw shot_fault(where, "was changed since it was written.",
                     "Restore it from a copy, or run the shot again.");
  return j;
}

std::string text_in(const Json& object, const char* key, const std::string& where) {
  const Json& j = member(object, key, where);
  if (!j.is_string() || j.get_ref<const std::string&>().size() > text_longest)
    throw wrong(key, j, filled("a text of at most {most} bytes", {{"most", std::to_string(text_longest)}}),
                where);
  return j.get<std::string>();
}

}  // namespace pour
