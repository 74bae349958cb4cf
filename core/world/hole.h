// A hole in a wall that is finer than cells.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <numbers>

#include "base/vec.h"

namespace pour {

/// The wall is closed on the lattice. Liquid runs through the hole by the law of an orifice, Q = C A √(2
/// Δp/ρ), and leaves it as a jet (Lamb, “Hydrodynamics”, §24).
struct Hole {
  Vec3d end[2];             // of its axis, beside the wall that the solver sees, m
  double radius = 0.001;    // m
  double count = 1;         // number of such holes that it stands for; 0: it is not there
  double discharge = 0.61;  // coefficient of discharge: share of the area that a jet fills
  double pinned = 1;        // sine of the contact angle at its rim, at most 90°
  Vec3d velocity;           // of the wall, m/s

  double area() const { return count * std::numbers::pi * radius * radius; }
  double spread() const { return radius * std::sqrt(count); }  // radius of one hole of the same area, m
  Vec3d middle() const { return (end[0] + end[1]) * 0.5; }
  /// Unit vector out of the wall at one of its ends.
  Vec3d out(int side) const { return normalized(end[side] - end[1 - side]); }
  /// Difference of pressure that a surface of this tension withstands (Young–Laplace), Pa.
  double held(double tension) const { return 2 * tension * pinned / radius; }
  /// Flow under a pressure divided by density, m²/s², in m³/s.
  double flow(double pressure) const { return discharge * area() * std::sqrt(2 * std::max(pressure, 0.0)); }
};

/// What runs through a hole.
struct Stream {
  double flow = 0;          // m³/s; positive from end 0 to end 1
  double owed = 0;          // volume that is to move, less than a particle after a step, m³
  double pressure[2] = {};  // at both ends, brought to the middle of the wall, divided by density, m²/s²
  bool operator==(const Stream&) const = default;
};

}  // namespace pour
