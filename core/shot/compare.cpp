#include "shot/compare.h"

#include <algorithm>
#include <tuple>

#include "base/text.h"
#include "shot/clock.h"
#include "shot/describe.h"
#include "shot/items.h"

namespace pour {
namespace {

/// “1 → 0.4”, with as many digits as it takes to tell the two apart.
std::string difference(const Setting& a, const Setting& b) {
  const auto both = [&](int digits) {
    return std::pair{to_words(a, a.value, digits), to_words(b, b.value, digits)};
  };
  auto words = both(17);
  for (const int digits : {12, 9, 6, 3})
    if (const auto fewer = both(digits); fewer.first != fewer.second) words = fewer;
  return words.first + " → " + words.second;
}

/// Differences between two tracks, in words.
std::vector<std::string> differences(const Setting& about, const Track& a, const Track& b) {
  std::vector<std::string> out;
  const std::string name = about.name;
  const auto at = [&](const Key& k) {
    return filled("{name}: key at {time}", {{"name", name}, {"time", time_in_words(about, k.time)}});
  };
  const auto as = [&](const Value& v) {
    Setting s = about;
    s.value = v;
    return s;
  };
  for (const Key& k : b.keys) {
    const Key* old = a.key_at(k.time);
    if (!old)
      out.push_back(
          filled("{key} is new, {value}", {{"key", at(k)}, {"value", to_words(about, k.value, 3)}}));
    else if (old->value != k.value)
      out.push_back(at(k) + " " + difference(as(old->value), as(k.value)));
    else if (old->ease != k.ease)
      out.push_back(at(k) + " " + ease_names[int(old->ease)].label + " → " + ease_names[int(k.ease)].label);
    else if (!(old->handles == k.handles))
      out.push_back(filled("{key} has other handles", {{"key", at(k)}}));
    else if (old->time != k.time)
      out.push_back(filled("{key} moved by less than a millionth of a second", {{"key", at(k)}}));
  }
  for (const Key& k : a.keys)
    if (!b.key_at(k.time)) out.push_back(filled("{key} was removed", {{"key", at(k)}}));
  const auto beyond = [&](const char* when, Beyond x, Beyond y) {
    if (x != y)
      out.push_back(
          filled("{name}: {when} its keys {before} → {after}", {{"name", name},
                                                                {"when", when},
                                                                {"before", beyond_names[int(x)].label},
                                                                {"after", beyond_names[int(y)].label}}));
  };
  beyond("before", a.before, b.before), beyond("after", a.after, b.after);
  if (!(a.wobble == b.wobble)) out.push_back(filled("{name} wobbles in another way", {{"name", name}}));
  return out;
}

std::vector<std::string> difference_of(const Setting& a, const Setting& b) {
  const std::string name = b.name;
  if (a.track && b.track) return differences(b, *a.track, *b.track);
  if (b.track)
    return {filled("{name} is animated: {value}", {{"name", name}, {"value", to_text(b, *b.track)}})};
  if (a.track)
    return {filled("{name} is no longer animated, {value}",
                   {{"name", name}, {"value", to_words(b, b.value, 3)}})};
  if (a.value != b.value) return {name + " " + difference(a, b)};
  return {};
}

const Group* at_same_place(const std::vector<Group>& groups, const Group& wanted) {
  for (const Group& g : groups)
    if (g.list == wanted.list && g.key == wanted.key) return &g;
  return nullptr;
}

bool in_other_order(const Shot& a, const Shot& b, const char* wanted) {
  const auto ids = [&](const Shot& of, const Shot& also_in) {
    std::vector<std::string> out;
    each_list(of, [&](const std::string& key, const auto& list) {
      if (key != wanted) return;
      each_list(also_in, [&](const std::string& other_key, const auto& other) {
        if (other_key != wanted) return;
        for (const auto& item : list)
          if (std::any_of(other.begin(), other.end(), [&](const auto& o) { return o.id == item.id; }))
            out.push_back(item.id);
      });
    });
    return out;
  };
  return ids(a, b) != ids(b, a);
}

}  // namespace

std::vector<Change> changes(const Shot& before, const Shot& after) {
  const auto old_groups = describe(before), groups = describe(after);
  std::vector<Change> out;
  for (const Group& g : groups) {
    const Group* old = at_same_place(old_groups, g);
    if (!old) {
      out.push_back({g.path(), filled("{name} is new", {{"name", g.name}})});
      continue;
    }
    for (const Setting& s : g.settings)
      if (const Setting* t = old->find(s.key))
        for (const std::string& text : difference_of(*t, s)) out.push_back({g.path(s), text});
  }
  for (const Group& g : old_groups)
    if (!at_same_place(groups, g))
      out.push_back({g.path(), filled("{name} was removed", {{"name", g.name}})});
  each_list(before, [&](const char* key, const auto&) {
    if (in_other_order(before, after, key))
      out.push_back({key, filled("The {key} are in another order", {{"key", std::string(key)}})});
  });
  return out;
}

std::string moved_in_film(const Shot& before, const Shot& after) {
  const auto speed = [](const Shot& s) {
    const auto track = s.film.tracks.find("capture");
    return std::tuple(s.film.frame_rate, s.film.capture,
                      track == s.film.tracks.end() ? Track() : track->second);
  };
  if (speed(before) == speed(after)) return {};
  std::vector<std::string> moved;
  const auto old_groups = describe(before);
  for (const Group& g : describe(after)) {
    const Group* old = at_same_place(old_groups, g);
    for (const Setting& s : g.settings) {
      const Setting* was = old ? old->find(s.key) : nullptr;
      if (!was || !was->clock || !s.clock || was->value != s.value || was->track != s.track) continue;
      const bool keys = s.track.has_value();
      const std::string a = keys ? to_text(*was, *was->track) : was->text(),
                        b = keys ? to_text(s, *s.track) : s.text();
      if (a != b) moved.push_back(g.name + ", " + s.name + (keys ? " (keys)" : ": " + a + " → " + b));
    }
  }
  if (moved.empty()) return {};
  constexpr size_t most = 3;
  std::string list;
  for (size_t i = 0; i < std::min(most, moved.size()); ++i) list += (i ? "; " : "") + moved[i];
  return moved.size() > most
             ? filled("Times in seconds stay, so these are at other frames now: {list}; and {others} more.",
                      {{"list", list}, {"others", std::to_string(moved.size() - most)}})
             : filled("Times in seconds stay, so these are at other frames now: {list}.", {{"list", list}});
}

namespace {

template <class T>
const Row<T>* row_called(const std::string& key, const T& item) {
  for (const Row<T>& row : settings_of(item))
    if (row.key == key) return &row;
  return nullptr;
}

}  // namespace

Shot seen_as(Shot shot, const Shot& other) {
  shot.look.lights = other.look.lights, shot.materials = other.materials;
  shot.out_of_range = other.out_of_range;  // which says something of a file, not of what is computed
  each_item(shot, [&]<class T>(const ItemPlace& place, T& item) {
    each_item(other, [&]<class O>(const ItemPlace& same, const O& like) {
      if constexpr (std::is_same_v<T, O>) {
        if (!(place == same)) return;
        for (const Row<T>& row : settings_of(item))
          if (row.touches == Touches::name || row.touches == Touches::picture ||
              row.touches == Touches::light) {
            const Row<T>* own = row_called(row.key, like);
            if (!own) continue;  // it is of another kind
            row.set(item, own->get(like));
            item.tracks.erase(row.key);
            if (const auto track = like.tracks.find(row.key); track != like.tracks.end())
              item.tracks[row.key] = track->second;
          }
      }
    });
  });
  return shot;
}

Shot undelivered(Shot shot) {
  Film& f = shot.film;
  const Film usual;
  f.title = usual.title, f.width = usual.width, f.height = usual.height;
  f.samples = usual.samples, f.noise = usual.noise, f.image_format = usual.image_format, f.loop = usual.loop;
  f.image_names = usual.image_names;
  return shot;
}

namespace {

/// seen_as() for comparing simulations: which pieces are ever shown stays, because smoke may start at them.
Shot compared_as(const Shot& shot, const Shot& other) {
  Shot out = seen_as(shot, other);
  for (const Piece& was : shot.pieces) {
    const Piece* like = other.piece(was.id);
    if (!like || like->may_show() == was.may_show()) continue;
    Piece& p = *out.piece(was.id);
    p.shows = was.shows, p.tracks.erase("shows");
    if (const auto track = was.tracks.find("shows"); track != was.tracks.end()) p.tracks.insert(*track);
  }
  return out;
}

}  // namespace

bool same_simulation(const Shot& a, const Shot& b) { return compared_as(b, a) == a; }

std::vector<Change> simulation_changes(const Shot& before, const Shot& after) {
  return changes(compared_as(before, after), after);
}

}  // namespace pour
