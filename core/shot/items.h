// All items of a shot that have settings, in the order of the recipe: the only such list.
#pragma once
#include <string>

#include "base/error.h"
#include "shot/shot.h"

namespace pour {

/// The place of an item: `key` is the key of a single item, or the id of an item in a list.
struct ItemPlace {
  std::string list, key, name;
  bool operator==(const ItemPlace& o) const { return list == o.list && key == o.key; }
  std::string path() const { return (list.empty() ? "" : list + ".") + key; }
};

/// Calls f(place, item) for each item, mutable if the shot is.
template <class AnyShot, class F>
void each_item(AnyShot& shot, const F& f) {
  f(ItemPlace{"", "film", "Film"}, shot.film);
  for (auto& p : shot.pieces) f(ItemPlace{"pieces", p.id, p.name}, p);
  for (auto& i : shot.fluids) f(ItemPlace{"fluids", i.id, i.name}, i);
  for (auto& p : shot.pours) f(ItemPlace{"pours", p.id, p.name}, p);
  for (auto& m : shot.materials) f(ItemPlace{"materials", m.id, m.name}, m);
  f(ItemPlace{"", "gas", "How the smoke behaves"}, shot.gas);
  for (auto& i : shot.forces) f(ItemPlace{"forces", i.id, i.name}, i);
  f(ItemPlace{"", "run", "Run"}, shot.run);
  f(ItemPlace{"", "surface", "Surface"}, shot.surface);
  for (auto& l : shot.look.lights) f(ItemPlace{"lights", l.id, l.name}, l);
  f(ItemPlace{"", "look", "Look"}, shot.look);
  f(ItemPlace{"", "camera", "Shot camera"}, shot.camera);
}

/// Fault (Blame::shot) that names the nearest known path.
Fault unknown_setting(const Shot&, const std::string& path);

/// Calls use(item, row) for the setting at a path. Throws unknown_setting() if there is none.
template <class AnyShot, class F>
void with_setting(AnyShot& shot, const std::string& path, const F& use) {
  bool found = false;
  each_item(shot, [&](const ItemPlace& place, auto& item) {
    const std::string start = place.path() + ".";
    if (found || !path.starts_with(start)) return;
    for (const auto& row : settings_of(std::as_const(item)))
      if (!found && row.is_called(std::string_view(path).substr(start.size()))) found = true, use(item, row);
  });
  if (!found) throw unknown_setting(shot, path);
}

/// Calls f(key, list) for each list of items.
template <class AnyShot, class F>
void each_list(AnyShot& shot, const F& f) {
  f("pieces", shot.pieces);
  f("fluids", shot.fluids);
  f("pours", shot.pours);
  f("materials", shot.materials);
  f("forces", shot.forces);
  f("lights", shot.look.lights);
}

/// Calls f(path, name, material) for each item that can have a material.
template <class AnyShot, class F>
void each_made(AnyShot& shot, const F& f) {
  for (auto& p : shot.pieces) f("pieces." + p.id, p.name, p.material);
  for (auto& fluid : shot.fluids)
    if (auto* liquid = fluid.template as<Liquid>()) f("fluids." + fluid.id, fluid.name, liquid->material);
}

}  // namespace pour
