// Differences between two shots, and whether they need a new run.
#pragma once
#include <string>
#include <vector>

#include "shot/shot.h"

namespace pour {

/// A line for each setting that differs, "Heat lift 1 → 0.4", and for each item that was added or removed.
struct Change {
  std::string path, text;
};
std::vector<Change> changes(const Shot& before, const Shot& after);

/// A sentence naming what moved to other film frames because frame rate or slow motion changed, while its
/// seconds stayed. Empty if nothing moved.
std::string moved_in_film(const Shot& before, const Shot& after);

/// A shot with the names, look, camera and picture size of another, on which a run does not depend.
Shot seen_as(Shot shot, const Shot& other);
/// The shot with its title and delivery settings reset.
Shot undelivered(Shot);
/// Whether a run of one is also a run of the other.
bool same_simulation(const Shot&, const Shot&);
/// The changes that need a new run; empty exactly if same_simulation().
std::vector<Change> simulation_changes(const Shot& before, const Shot& after);

/// A T whose settings that touch one of these come from `from`, and all others from `out`.
template <class T>
T only(std::initializer_list<Touches> touched, const T& from, T out = {}) {
  for (const Row<T>& row : table<T>())
    for (const Touches t : touched)
      if (row.touches == t) row.set(out, row.get(from));
  return out;
}

}  // namespace pour
