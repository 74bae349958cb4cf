// A piece of the set as geometry in its place.
#pragma once
#include <vector>

#include "shape/pose.h"

namespace pour {

/// Its bodies in its own space. Throws Fault (Blame::shot) naming the piece.
std::shared_ptr<const std::vector<Body>> bodies_of(const Piece&, const StopAsked& stop = {});
/// What pictures show of it in its own space: of a model at once, while its bodies may take long. None where
/// that is the meshes of its bodies. Throws Fault (Blame::shot) naming the piece.
std::vector<Body::Seen> seen_of(const Piece&);
/// Its bodies in the set, with what they hold too. Throws Fault (Blame::shot) naming the piece.
std::vector<Body> placed_bodies(const Shot&, const Piece&, const StopAsked& stop = {});
/// All bodies as one mesh, in the set.
Mesh piece_mesh(const Shot&, const Piece&);

}  // namespace pour
