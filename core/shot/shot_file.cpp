#include "shot/shot_file.h"

#include <set>

#include "base/error.h"
#include "base/file.h"
#include "base/json.h"
#include "base/text.h"
#include "shape/pose.h"
#include "shot/items.h"
#include "shot/migrate.h"

namespace pour {
namespace {

using json = Json;

constexpr size_t most_items = 2000;      // of a list
constexpr size_t most_bytes = 64000000;  // of a file

template <class T>
void read_tracks(T& item, const std::string& place, const json& j, const std::string& where) {
  if (!j.is_object())
    throw shot_fault(where, "“" + place + ".tracks” is not a group of tracks.", "Write it in braces { }.");
  for (const auto& [key, value] : j.items()) {
    const Row<T>* found = nullptr;
    for (const Row<T>& row : settings_of(item))
      if (row.key == key) found = &row;
    if (!found)
      throw shot_fault(where, "“" + place + "." + key + "” has a track, but is not a setting.",
                       "Remove the track, or name the setting that it is of.");
    item.tracks[key] = track_from_json(*found, found->get(item), value, where + ": " + place + "." + key);
  }
}

template <class T>
void read_item(T& item, const std::string& place, const json& j, const std::string& where) {
  if (!j.is_object())
    throw shot_fault(where, "“" + place + "” is not a group of settings.", "Write it in braces { }.");
  const auto read = [&](const std::string& key, const json& value) {
    const Row<T>* found = nullptr;
    std::vector<std::string> known;
    for (const Row<T>& row : settings_of(item)) {
      known.push_back(row.key);
      if (row.key == key) found = &row;
    }
    if (!found) {
      const std::string near = nearest(key, known);
      throw shot_fault(where, "“" + place + "." + key + "” is not a setting.",
                       near.empty() ? "Remove it." : "Did you mean “" + near + "”?");
    }
    found->set(item, from_json(*found, found->get(item), value, where + ": " + place + "." + key));
  };
  // What something is says what other settings it has, or what they begin as.
  const auto comes_first = [](const std::string& key) { return key == "kind" || key == "liquid"; };
  for (const char* key : {"kind", "liquid"})
    if (j.contains(key)) read(key, j[key]);
  for (const auto& [key, value] : j.items())
    if (key != "id" && !comes_first(key) && key != "tracks") read(key, value);
  if (j.contains("tracks")) read_tracks(item, place, j["tracks"], where);
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
    read_item(item, key + "." + item.id, e, where);
    list.push_back(std::move(item));
  }
}

template <class T>
json item_as_json(const T& item) {
  json j = json::object();
  if constexpr (requires { item.id; }) j["id"] = item.id;
  for (const Row<T>& row : settings_of(item)) {
    j[row.key] = to_json(row, row.get(item));
    if (const auto track = item.tracks.find(row.key); track != item.tracks.end())
      j["tracks"][row.key] = to_json(row, track->second);
  }
  return j;
}

}  // namespace

Json shot_as_json(const Shot& shot) {
  json out;
  out["easy_pour"] = shot_file_version;
  each_list(shot, [&](const char* key, const auto&) { out[key] = json::array(); });
  each_item(shot, [&](const ItemPlace& place, const auto& item) {
    if (place.list.empty())
      out[place.key] = item_as_json(item);
    else
      out[place.list].push_back(item_as_json(item));
  });
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
  if (version < shot_file_version) return shot_from_json(brought_up_to_date(j, where), where);
  Shot shot;
  std::set<std::string> known{"easy_pour"};
  each_list(shot, [&](const char* key, auto& list) {
    known.insert(key);
    if (j.contains(key)) list.clear(), read_list(list, j[key], key, where);
  });
  each_item(shot, [&](const ItemPlace& place, auto& item) {
    if (!place.list.empty()) return;
    known.insert(place.key);
    if (j.contains(place.key)) read_item(item, place.key, j[place.key], where);
  });
  try {
    refuse_circles(shot);
  } catch (const Fault& f) {
    throw Fault(f.blame, where + ": " + f.where, f.problem, f.mend);
  }
  for (const auto& [key, value] : j.items()) {
    if (known.contains(key)) continue;
    const std::string near = nearest(key, {known.begin(), known.end()});
    throw shot_fault(where, "“" + key + "” is not a group of settings.",
                     near.empty() ? "Remove it." : "Did you mean “" + near + "”?");
  }
  return shot;
}

Shot load_shot(const std::filesystem::path& file) {
  return shot_from_json(read_whole(file, most_bytes), file.string());
}

void save_shot(const Shot& shot, const std::filesystem::path& file) { write_whole(file, shot_to_json(shot)); }

}  // namespace pour
