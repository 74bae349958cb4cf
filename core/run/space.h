// How much room a shot takes: what stands in it, how fine its cells are and how far they reach.
#pragma once
#include <vector>

#include "base/vec.h"
#include "base/work.h"
#include "shape/placed.h"
#include "shot/shot.h"

namespace pour {

struct Space {
  /// Throws what the shapes of the pieces throw.
  explicit Space(const Shot&, const StopAsked& stop = {});

  std::vector<std::vector<Body>> bodies;  // of each piece, in the set, at frame 1
  std::vector<Box> boxes;                 // around each piece, wherever it goes, m
  double surface = 0;                     // of all that hold, block or pour, m²

  Box pieces;                 // around all of them, m
  Box flow;                   // around those that liquid or smoke has to do with; all, where there are none
  bool flows_freely = false;  // smoke comes out into the space around the pieces
  bool pours = false;         // so does liquid
  double cell_size = 0;       // m: a share of the set and of its strokes, or the shot's own
  Box bounds;                 // in which smoke is computed, m
  /// What a picture of the shot should hold, m.
  const Box& subject() const { return flows_freely ? bounds : pieces; }
};

/// Whether anything is poured from a piece.
bool is_source(const Shot&, const Piece&);
/// Whether a piece is only seen: nothing comes out of it, is held by it, meets it or goes into it.
bool is_prop(const Shot&, const Piece&);

/// The nearest of the numbers that people like: 1, 1.2, 1.5, 2, 2.5, 3, 4, 5, 6, 8 times a power of ten.
double round_kindly(double);
/// The largest number of two digits that is no larger.
double floor_kindly(double);

constexpr double filled_share = 0.8;  // of the bounds that smoke which flows freely comes to fill

/// The shot camera moved, straight ahead of where it looks from, so that its picture holds the subject.
Camera framed(const Shot&, const Space&);
/// Lifts every piece that is seen and reaches below the floor, y = 0, onto it.
void stand_on_floor(Shot&);
/// Whether a piece that is seen reaches out of the picture of the shot camera.
bool out_of_picture(const Shot&, const Piece&, const Box& around_it);
inline bool out_of_picture(const Shot& shot, const Piece& piece) {
  return out_of_picture(shot, piece, piece_mesh(shot, piece).bounds());
}

}  // namespace pour
