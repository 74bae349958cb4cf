// The extent of a shot: its pieces, cell size and bounds.
#pragma once
#include <vector>

#include "base/vec.h"
#include "base/work.h"
#include "shape/placed.h"
#include "shot/shot.h"

namespace pour {

struct Space {
  /// Throws as the shapes of the pieces.
  explicit Space(const Shot&, const StopAsked& stop = {});

  std::vector<std::vector<Body>> bodies;  // of each piece in the set at frame 1
  std::vector<Box> boxes;                 // around each piece over its whole motion, m
  double surface = 0;                     // of pieces that hold, block or pour, m²

  Box pieces;                 // around all of them, m
  Box flow;                   // around the pieces that interact with fluid, or all if none do
  bool flows_freely = false;  // smoke is poured outside of rooms
  bool pours = false;         // liquid is poured outside of rooms
  double cell_size = 0;       // m: from the size of the set and its strokes, or the shot's own
  Box bounds;                 // of the simulated space, m
  /// The region that a picture of the shot should show, m.
  const Box& subject() const { return flows_freely ? bounds : pieces; }
};

/// Whether any pour comes out of a piece.
bool is_source(const Shot&, const Piece&);
/// Whether a force gathers fluid into a piece.
bool is_target(const Shot&, const Piece&);
/// Whether a piece takes no part in the simulation.
bool is_prop(const Shot&, const Piece&);

/// Rounds to 1, 1.2, 1.5, 2, 2.5, 3, 4, 5, 6 or 8 times a power of ten.
double round_kindly(double);
/// Rounds down to two significant digits.
double floor_kindly(double);

constexpr double filled_share = 0.8;  // share of the bounds that free smoke fills

/// The shot camera, moved without turning so that its picture holds the subject.
Camera framed(const Shot&, const Space&);
/// Lifts every visible piece that reaches below the floor (y = 0) onto it.
void stand_on_floor(Shot&);
/// Whether a visible piece reaches out of the shot camera's picture.
bool out_of_picture(const Shot&, const Piece&, const Box& around_it);
inline bool out_of_picture(const Shot& shot, const Piece& piece) {
  return out_of_picture(shot, piece, piece_mesh(shot, piece).bounds());
}

}  // namespace pour
