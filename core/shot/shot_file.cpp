#include "shot/shot_file.h"

#include <set>

#include "base/base64.h"
#include "base/error.h"
#include "base/file.h"
#include "base/json.h"
#include "base/text.h"
#include "shape/pose.h"
#include "shot/describe.h"
#include "shot/items.h"
#include "shot/migrate.h"

namespace pour {
namespace {

using json = Json;

constexpr size_t most_items = 2000;      // of a list
constexpr size_t most_bytes = 64000000;  // of a file

/// Numbers that were beyond their limits, by their paths.
using Found = std::vector<OutOfRange>;

template <class T>
void read_tracks(T& item, const std::string& place, const json& j, const std::string& where, Found& limits) {
  if (!j.is_object())
    throw shot_fault(where, filled("“{place}.tracks” is not a group of tracks.", {{"place", place}}),
                     "Write it in braces { }.");
  for (const auto& [key, value] : j.items()) {
    const Row<T>* found = nullptr;
    for (const Row<T>& row : settings_of(item))
      if (row.is_called(key)) found = &row;
    if (!found)
      throw shot_fault(
          where,
          filled("“{place}.{key}” has a track, but is not a setting.", {{"place", place}, {"key", key}}),
          "Remove the track, or name the setting that it is of.");
    const std::string path = place + "." + found->key;
    item.tracks[found->key] =
        track_from_json(*found, found->get(item), value, path, where + ": " + path, limits);
  }
}

template <class T>
void read_item(T& item, const std::string& place, const json& j, const std::string& where, Found& limits) {
  if (!j.is_object())
    throw shot_fault(where, filled("“{place}” is not a group of settings.", {{"place", place}}),
                     "Write it in braces { }.");
  const auto read = [&](const std::string& key, const json& value) {
    const Row<T>* found = nullptr;
    std::vector<std::string> known;
    for (const Row<T>& row : settings_of(item)) {
      known.push_back(row.key);
      if (row.is_called(key)) found = &row;
    }
    if (!found) {
      const std::string near = nearest(key, known);
      throw shot_fault(where, filled("“{place}.{key}” is not a setting.", {{"place", place}, {"key", key}}),
                       did_you_mean(near, "Remove it."));
    }
    const std::string path = place + "." + found->key;
    found->set(item, kept_within(*found, from_json(*found, found->get(item), value, where + ": " + path),
                                 path, limits));
  };
  // The kind decides which other settings exist and their defaults.
  const auto comes_first = [](const std::string& key) { return key == "kind" || key == "liquid"; };
  for (const char* key : {"kind", "liquid"})
    if (j.contains(key)) read(key, j[key]);
  for (const auto& [key, value] : j.items())
    if (key != "id" && !comes_first(key) && key != "tracks") read(key, value);
  if (j.contains("tracks")) read_tracks(item, place, j["tracks"], where, limits);
}

template <class T>
void read_list(std::vector<T>& list, const json& j, const std::string& key, const std::string& where,
               Found& limits) {
  if (!j.is_array())
    throw shot_fault(where, filled("“{key}” is not a list.", {{"key", key}}), "Write it in brackets [ ].");
  if (j.size() > most_items)
    throw shot_fault(
        where,
        filled("“{key}” has more than {most} entries.", {{"key", key}, {"most", std::to_string(most_items)}}),
        "Remove some of them.");
  std::set<std::string> ids;
  for (const json& e : j) {
    if (!e.is_object() || !e.contains("id") || !e["id"].is_string() || e["id"].get<std::string>().empty() ||
        e["id"].get<std::string>().size() > text_longest)
      throw shot_fault(where, filled("an entry of “{key}” has no id.", {{"key", key}}),
                       "Give it one, for example \"id\": \"word\".");
    T item;
    item.id = e["id"].get<std::string>();
    if (!ids.insert(item.id).second)
      throw shot_fault(where,
                       filled("two entries of “{key}” are called “{id}”.", {{"key", key}, {"id", item.id}}),
                       "Rename one of them.");
    read_item(item, key + "." + item.id, e, where, limits);
    list.push_back(std::move(item));
  }
}

void read_out_of_range(Found& list, const json& j, const std::string& where) {
  const std::string what = where + ": out_of_range";
  if (!j.is_array() || j.size() > most_items)
    throw shot_fault(what, "is not a list.", "Remove it, or write it in brackets [ ].");
  for (const json& e : j)
    list.push_back({text_in(e, "setting", what), text_in(e, "was", what), text_in(e, "now", what)});
}

/// The letters of all words, so that a shot can be opened where their fonts are missing.
json letters_as_json(const Shot& shot) {
  json out = json::array();
  std::set<std::pair<std::string, std::string>> known;
  for (const Piece& p : shot.pieces) {
    const auto* word = std::get_if<Lettering>(&p.shape);
    if (!word || !known.insert({word->font.name, word->text}).second) continue;
    const std::string bytes = pack_letters(word->text, word->font.name);
    if (!bytes.empty())
      out.push_back({{"font", word->font.name}, {"text", word->text}, {"outlines", to_base64(bytes)}});
  }
  return out;
}

void keep_letters_of(const json& j, const std::string& where) {
  const std::string what = where + ": letters";
  if (!j.is_array() || j.size() > most_items)
    throw shot_fault(what, "is not a list.", "Remove it, or write it in brackets [ ].");
  for (const json& e : j) {
    std::string bytes;
    if (!e.is_object() || !e.contains("outlines") || !e["outlines"].is_string() ||
        !from_base64(e["outlines"].get_ref<const std::string&>(), bytes))
      throw shot_fault(what, "has letters that are none.", "Restore the file from a copy, or remove them.");
    keep_letters(text_in(e, "text", what), text_in(e, "font", what), bytes, what);
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
  if (json letters = letters_as_json(shot); !letters.empty()) out["letters"] = std::move(letters);
  for (const OutOfRange& o : shot.out_of_range)
    out["out_of_range"].push_back({{"setting", o.path}, {"was", o.was}, {"now", o.now}});
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
    throw shot_fault(
        where,
        filled("was saved by a newer Easy Pour (file version {version}, this one knows {known}).",
               {{"version", std::to_string(version)}, {"known", std::to_string(shot_file_version)}}),
        "Update Easy Pour; the file was left as it is.");
  if (version < shot_file_version) return shot_from_json(brought_up_to_date(j, where), where);
  Shot shot;
  std::set<std::string> known{"easy_pour", "letters", "out_of_range"};
  if (j.contains("letters")) keep_letters_of(j["letters"], where);
  if (j.contains("out_of_range")) read_out_of_range(shot.out_of_range, j["out_of_range"], where);
  each_list(shot, [&](const char* key, auto& list) {
    known.insert(key);
    if (j.contains(key)) list.clear(), read_list(list, j[key], key, where, shot.out_of_range);
  });
  each_item(shot, [&](const ItemPlace& place, auto& item) {
    if (!place.list.empty()) return;
    known.insert(place.key);
    if (j.contains(place.key)) read_item(item, place.key, j[place.key], where, shot.out_of_range);
  });
  for (OutOfRange& o : shot.out_of_range) {
    const size_t key = std::min(o.path.find('@'), o.path.size());
    o.path = path_now(shot, o.path.substr(0, key)) + o.path.substr(key);
  }
  try {
    refuse_circles(shot);
  } catch (const Fault& f) {
    throw Fault(f.blame, where + ": " + f.where, f.problem, f.mend);
  }
  for (const auto& [key, value] : j.items()) {
    if (known.contains(key)) continue;
    const std::string near = nearest(key, {known.begin(), known.end()});
    throw shot_fault(where, filled("“{key}” is not a group of settings.", {{"key", key}}),
                     did_you_mean(near, "Remove it."));
  }
  return shot;
}

Shot load_shot(const std::filesystem::path& file) {
  return shot_from_json(read_whole(file, most_bytes), file.string());
}

void save_shot(const Shot& shot, const std::filesystem::path& file) { write_whole(file, shot_to_json(shot)); }

}  // namespace pour
