// Everything in a shot that has settings, in the order of the recipe: the one list of it.
#pragma once
#include <string>

#include "shot/shot.h"

namespace pour {

/// Where an item is: a single one by its key, one of a list by its id.
struct ItemPlace {
  std::string list, key, name;
  bool operator==(const ItemPlace& o) const { return list == o.list && key == o.key; }
};

/// Calls f(place, item) for each; a shot that is not const gives items that may be changed.
template <class AnyShot, class F>
void each_item(AnyShot& shot, const F& f) {
  f(ItemPlace{"", "film", "Film"}, shot.film);
  for (auto& p : shot.pieces) f(ItemPlace{"pieces", p.id, p.name}, p);
  for (auto& i : shot.fluids) f(ItemPlace{"fluids", i.id, i.name}, i);
  for (auto& p : shot.pours) f(ItemPlace{"pours", p.id, p.name}, p);
  f(ItemPlace{"", "gas", "How the smoke behaves"}, shot.gas);
  f(ItemPlace{"", "forces", "Forces"}, shot.forces);
  f(ItemPlace{"", "run", "Run"}, shot.run);
  f(ItemPlace{"", "look", "Look"}, shot.look);
  f(ItemPlace{"", "camera", "Shot camera"}, shot.camera);
}

/// Calls f(key, list) for each list of items.
template <class AnyShot, class F>
void each_list(AnyShot& shot, const F& f) {
  f("pieces", shot.pieces);
  f("fluids", shot.fluids);
  f("pours", shot.pours);
}

}  // namespace pour
