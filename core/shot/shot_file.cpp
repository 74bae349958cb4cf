#include "shot/shot_file.h"

#include <cmath>
#include <set>

#include "base/error.h"
#include "base/file.h"
#include "base/json.h"
#include "base/text.h"
#include "shot/describe.h"

namespace pour {
namespace {

using json = Json;

constexpr size_t most_items = 2000;      // of a list
constexpr size_t most_bytes = 64000000;  // of a file

template <class... F>
struct overloaded : F... {
  using F::operator()...;
};
template <class... F>
overloaded(F...) -> overloaded<F...>;

json value_of(const Setting& s) {
  return std::visit(overloaded{
                        [](double* v) -> json { return *v; },
                        [](int* v) -> json { return *v; },
                        [](bool* v) -> json { return *v; },
                        [](std::string* v) -> json { return *v; },
                        [](Vec3d* v) -> json {
                          return {v->x, v->y, v->z};
                        },
                        [](Color* v) -> json {
                          return {v->r, v->g, v->b};
                        },
                        [](FrameRange* v) -> json {
                          return {v->first, v->last};
                        },
                        [](const ChoiceRef& v) -> json { return v.options[size_t(v.get())].key; },
                        [](const PieceRef& v) -> json { return *v.id; },
                        [](const FontRef& v) -> json { return *v.name; },
                    },
                    s.ref);
}

void read_value(const Setting& s, const json& j, const std::string& where) {
  const auto wrong = [&](const char* wanted) {
    return shot_fault(where, "is " + shown(j) + " in the file.", std::string("It should be ") + wanted + ".");
  };
  const auto in_range = [&](double v) {
    if (!std::isfinite(v) || v < s.low || v > s.high)
      throw shot_fault(where, "is " + shown(j) + " in the file, which is out of range.",
                       "Choose between " + format_quantity(s.low, s.unit) + " and " +
                           format_quantity(s.high, s.unit) + ".");
    return v;
  };
  const auto numbers = [&](size_t n) {
    if (!j.is_array() || j.size() != n) throw wrong("a list of numbers");
    std::vector<double> out;
    for (const json& e : j) {
      if (!e.is_number()) throw wrong("a list of numbers");
      out.push_back(e.get<double>());
      if (!std::isfinite(out.back())) throw wrong("a list of finite numbers");
    }
    return out;
  };
  const auto whole = [&](double v) {
    in_range(v);
    if (v != std::round(v)) throw wrong("a whole number");
    return int(v);
  };
  std::visit(overloaded{
                 [&](double* v) {
                   if (!j.is_number()) throw wrong("a number");
                   *v = in_range(j.get<double>());
                 },
                 [&](int* v) {
                   if (!j.is_number()) throw wrong("a whole number");
                   *v = whole(j.get<double>());
                 },
                 [&](bool* v) {
                   if (!j.is_boolean()) throw wrong("true or false");
                   *v = j.get<bool>();
                 },
                 [&](Vec3d* v) {
                   const auto n = numbers(3);
                   *v = {in_range(n[0]), in_range(n[1]), in_range(n[2])};
                 },
                 [&](Color* v) {
                   const auto n = numbers(3);
                   *v = {in_range(n[0]), in_range(n[1]), in_range(n[2])};
                 },
                 [&](FrameRange* v) {
                   const auto n = numbers(2);
                   *v = {whole(n[0]), whole(n[1])};
                   if (v->last < v->first) throw wrong("two frames, the first one first");
                 },
                 [&](const auto&) {
                   if (!j.is_string()) throw wrong("a word in quotes");
                   from_text(s, j.get<std::string>(), where);
                 },
             },
             s.ref);
}

void read_group(const Group& g, const json& j, const std::string& where) {
  const std::string place = (g.list.empty() ? "" : g.list + ".") + g.key;
  if (!j.is_object())
    throw shot_fault(where, "“" + place + "” is not a group of settings.", "Write it in braces { }.");
  for (const auto& [key, value] : j.items()) {
    if (key == "id") continue;
    const Setting* found = nullptr;
    std::vector<std::string> known;
    for (const Setting& s : g.settings) {
      known.push_back(s.key);
      if (s.key == key) found = &s;
    }
    if (!found) {
      const std::string near = nearest(key, known);
      throw shot_fault(where, "“" + place + "." + key + "” is not a setting.",
                       near.empty() ? "Remove it." : "Did you mean “" + near + "”?");
    }
    read_value(*found, value, where + ": " + place + "." + key);
  }
}

template <class T>
void read_list(std::vector<T>& list, const json& j, const std::string& key, const std::string& where) {
  if (!j.is_array()) throw shot_fault(where, "“" + key + "” is not a list.", "Write it in brackets [ ].");
  if (j.size() > most_items)
    throw shot_fault(where, "“" + key + "” has more than " + std::to_string(most_items) + " entries.",
                     "Remove some of them.");
  std::set<std::string> ids;
  for (const json& e : j) {
    if (!e.is_object() || !e.contains("id") || !e["id"].is_string() || e["id"].get<std::string>().empty() ||
        e["id"].get<std::string>().size() > text_longest)
      throw shot_fault(where, "an entry of “" + key + "” has no id.",
                       "Give it one, for example \"id\": \"word\".");
    T item;
    item.id = e["id"].get<std::string>();
    if (!ids.insert(item.id).second)
      throw shot_fault(where, "two entries of “" + key + "” are called “" + item.id + "”.",
                       "Rename one of them.");
    list.push_back(item);
    read_group(describe(list.back()), e, where);
  }
}

}  // namespace

Json shot_as_json(const Shot& shot) {
  Shot copy = shot;
  json out;
  out["easy_pour"] = shot_file_version;
  out["pieces"] = json::array(), out["smokes"] = json::array();
  for (const Group& g : describe(copy)) {
    json j = json::object();
    if (!g.list.empty()) j["id"] = g.key;
    for (const Setting& s : g.settings) j[s.key] = value_of(s);
    if (g.list.empty())
      out[g.key] = j;
    else
      out[g.list].push_back(j);
  }
  return out;
}

std::string shot_to_json(const Shot& shot) { return shot_as_json(shot).dump(2) + "\n"; }

Shot shot_from_json(const std::string& text, const std::string& where) {
  return shot_from_json(parse_json(text, where, "a readable shot"), where);
}

Shot shot_from_json(const json& j, const std::string& where) {
  if (!j.is_object() || !j.contains("easy_pour"))
    throw shot_fault(where, "is not an Easy Pour shot.", "Open a .pour file.");
  const int version = whole_in(j, "easy_pour", 1, 1000000, where);
  if (version > shot_file_version)
    throw shot_fault(where,
                     "was saved by a newer Easy Pour (file version " + std::to_string(version) +
                         ", this one knows " + std::to_string(shot_file_version) + ").",
                     "Update Easy Pour; the file was left as it is.");
  Shot shot;
  if (j.contains("pieces")) read_list(shot.pieces, j["pieces"], "pieces", where);
  if (j.contains("smokes")) read_list(shot.smokes, j["smokes"], "smokes", where);
  const auto groups = describe(shot);
  for (const auto& [key, value] : j.items()) {
    if (key == "easy_pour" || key == "pieces" || key == "smokes") continue;
    const Group* found = nullptr;
    std::vector<std::string> known;
    for (const Group& g : groups) {
      if (!g.list.empty()) continue;
      known.push_back(g.key);
      if (g.key == key) found = &g;
    }
    if (!found) {
      const std::string near = nearest(key, known);
      throw shot_fault(where, "“" + key + "” is not a group of settings.",
                       near.empty() ? "Remove it." : "Did you mean “" + near + "”?");
    }
    read_group(*found, value, where);
  }
  return shot;
}

Shot load_shot(const std::filesystem::path& file) {
  return shot_from_json(read_whole(file, most_bytes), file.string());
}

void save_shot(const Shot& shot, const std::filesystem::path& file) { write_whole(file, shot_to_json(shot)); }

}  // namespace pour
