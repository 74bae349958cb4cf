// A piece of the set as geometry in its place.
#pragma once
#include <vector>

#include "base/work.h"
#include "shape/lettering.h"
#include "shape/mesh.h"
#include "shot/shot.h"

namespace pour {

/// One connected part of a piece: a letter, a ball.
struct ShapePart {
  Mesh mesh;          // in the set, m
  double stroke = 0;  // its widest stroke, m
  struct Seed {
    Vec3d place;      // in the set, m
    double room = 0;  // radius of the largest ball there that stays inside, m
  };
  std::vector<Seed> seeds[3];  // by SeedPlace
};

/// Throws Fault (Blame::shot) naming the piece.
std::vector<ShapePart> piece_parts(const Piece&, const StopAsked& stop = {});
/// All parts as one mesh.
Mesh piece_mesh(const Piece&);

}  // namespace pour
