// Places in a letter from which smoke can fill it.
#pragma once
#include <vector>

#include "shape/body.h"
#include "shape/extrude.h"

namespace pour {

/// A round spot inside a part, with room to the outline on all sides.
struct Spot {
  Vec3d center;       // m, z = 0
  double radius = 0;  // to the nearest outline, m
};
/// Where smoke can start in a part.
struct Spots {
  std::vector<Spot> low;     // one in every foot: a low end about as deep as a common stroke is wide, or more
  std::vector<Spot> centre;  // one, or one for each letter's width where letters are joined
  Spot left, right, top;     // as far that way as there is room
  double stroke = 0;         // widest stroke: twice the radius of the largest circle inside, m
};
/// `letter_size`: height of a capital, m.
Spots find_spots(const Outline::Part&, double letter_size);

/// Adds them to a body that is this deep, m. Each keeps at most so much room to itself, m.
void add_seeds(Body&, const Spots&, double depth, double most = 1e300);

/// How far inside of a part a place in the plane is, m; negative outside.
double distance_inside(const Outline::Part&, double x, double y);

}  // namespace pour
