// How joined vessels look: without walls between them.
#pragma once
#include <map>

#include "picture/layers.h"
#include "shape/vessels.h"

namespace pour {

/// The walls of a vessel that is joined with others, without what lies inside them.
struct JoinedWalls {
  struct Other {
    Shape shape;
    size_t body;
    Pose pose;  // in the space of the piece, rounded: it must not change while both move as one
    bool operator==(const Other&) const = default;
  };
  Shape shape;
  std::vector<std::vector<Other>> others;  // of each of its bodies
  bool operator==(const JoinedWalls&) const = default;
};

/// The walls of each piece that is joined with others, by its index in the shot.
std::map<size_t, JoinedWalls> joined_walls(const Shot&);
/// The visible surface of such a piece, in its own frame of reference.
Surface surface_of(const JoinedWalls&, const Piece&);

}  // namespace pour
