// Places in a letter from which smoke can fill it.
#pragma once
#include <vector>

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
  Spot one_side;             // on the left
  double stroke = 0;         // widest stroke: twice the radius of the largest circle inside, m
};
/// `letter_size`: height of a capital, m.
Spots find_spots(const Outline::Part&, double letter_size);

}  // namespace pour
