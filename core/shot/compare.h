// What differs between two shots, and what of it matters to a run.
#pragma once
#include <string>
#include <vector>

#include "shot/shot.h"

namespace pour {

/// A line for each setting that differs: "Heat lift 1 → 0.4"; pieces and smokes that came or went too.
struct Change {
  std::string path, text;
};
std::vector<Change> changes(const Shot& before, const Shot& after);

/// What stands at other frames of the film in another shot because time goes at another speed there, though
/// it keeps its seconds: a sentence for people, or nothing.
std::string moved_in_film(const Shot& before, const Shot& after);

/// A shot with the names, look, camera and picture size of another: what a run does not depend on.
Shot seen_as(Shot shot, const Shot& other);
/// The same shot with its title and all of how it is delivered as usual.
Shot undelivered(Shot);
/// Whether nothing differs that needs a new run.
bool same_simulation(const Shot&, const Shot&);

/// A T with only what touches one of these as in `from`; the rest is as usual, or as `out` was.
template <class T>
T only(std::initializer_list<Touches> touched, const T& from, T out = {}) {
  for (const Row<T>& row : table<T>())
    for (const Touches t : touched)
      if (row.touches == t) row.set(out, row.get(from));
  return out;
}

}  // namespace pour
