// The geometry of pieces, in their own frame of reference and in the set.
#pragma once
#include <vector>

#include "shape/pose.h"

namespace pour {

/// The bodies of a piece in its own frame of reference. Throws Fault (Blame::shot) naming the piece.
std::shared_ptr<const std::vector<Body>> bodies_of(const Piece&, const StopAsked& stop = {});
/// The visible surface of a piece in its own frame of reference, available before the bodies of a model are
/// built. Empty if it equals the meshes of its bodies. Throws Fault (Blame::shot) naming the piece.
std::vector<Body::Seen> seen_of(const Piece&);
/// The bodies of a piece in the set. Throws Fault (Blame::shot) naming the piece.
std::vector<Body> placed_bodies(const Shot&, const Piece&, const StopAsked& stop = {});
/// All bodies as one mesh in the set.
Mesh piece_mesh(const Shot&, const Piece&);

}  // namespace pour
