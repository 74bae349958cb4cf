// The world that solvers see in a step: lattice, solids, sources, forces. SI units; independent of shots and
// files.
#pragma once
#include <vector>

#include "world/field.h"
#include "world/solid.h"
#include "world/source.h"

namespace pour {

enum Side { side_left, side_right, side_bottom, side_top, side_back, side_front };

/// A closed space such as a letter that holds fluid, simulated in its own frame of reference. Motion of the
/// room becomes fictitious forces.
struct Room {
  LevelSet inside;            // in the room's frame of reference; negative inside
  Pose from, to;              // pose in the world at both ends of the step
  Vec3d acceleration{};       // of its origin, in the world, m/s²
  Vec3d spin{}, spin_rate{};  // ω and dω/dt in the room's frame of reference, rad/s and rad/s²
  bool moves = false;
};

/// Random eddies added to smoke.
struct Eddies {
  double speed = 0, size = 1, rate = 0;  // m/s; m, of the largest; 1/s
  Strength strength = {};
  bool inside = true;  // also in rooms
};
/// Swirls that vorticity confinement keeps alive.
struct Swirls {
  double speed = 0, size = 0.01;  // m/s, m
  Strength strength = {};
  bool inside = true;  // also in rooms
};

struct World {
  double cell_size = 0.01;
  Vec3i low, cells;  // the bounds in cells; low in whole blocks, cells + 1 a multiple of 8
  bool open[6] = {true, true, true, true, true, true};  // by Side; the others are free-slip walls
  std::vector<Room> rooms;                              // room r + 1 of the grid; room 0 is the open space
  std::vector<Solid> solids;                            // in room 0
  std::vector<Solid> drains;                            // in room 0; they remove fluid
  std::vector<Source> sources;
  double gravity = 9.81;  // m/s², downwards
  std::vector<Eddies> turbulences;
  std::vector<Swirls> confinements;
  std::vector<Acting> fields;
};

/// The bounds in metres.
inline Box bounds_of(const World& w) {
  return {to<double>(w.low) * w.cell_size, to<double>(w.low + w.cells) * w.cell_size};
}

}  // namespace pour
