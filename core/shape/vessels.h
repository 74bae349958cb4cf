// Vessels: the closed spaces that hold fluid, joined where a piece says so.
#pragma once
#include "shape/placed.h"

namespace pour {

struct Vessel {
  struct Part {
    size_t piece, body;
    auto operator<=>(const Part&) const = default;
  };
  std::vector<Part> parts;  // by piece and body
  /// The piece in whose frame of reference the vessel is simulated.
  size_t piece() const { return parts.front().piece; }
};

/// The vessels of a shot, in the order of their first bodies. A piece that joins is one vessel with every
/// vessel that it overlaps. Takes the bodies of each piece in the set at one time.
std::vector<Vessel> vessels_of(const Shot&, const std::vector<std::vector<Body>>&);

/// Whether two closed bodies have space in common.
bool overlap(const Mesh&, const Mesh&);

/// The part of a surface that lies outside of other closed bodies, cut along them.
Mesh outside_of(const Mesh&, const std::vector<const Mesh*>& others);

}  // namespace pour
