// Seeds in letters.
#pragma once
#include <vector>

#include "shape/body.h"
#include "shape/extrude.h"

namespace pour {

/// A circle inside a part of a letter.
struct Spot {
  Vec3d center;       // m, z = 0
  double radius = 0;  // to the nearest outline, m
};
/// Spots of a part for each place of seeds.
struct Spots {
  std::vector<Spot> low;     // one in every foot, a low end at least about as deep as a stroke is wide
  std::vector<Spot> centre;  // one, or one per letter width if letters are joined
  Spot left, right, top;     // as far to that side as possible
  double stroke = 0;         // widest stroke: twice the radius of the largest circle inside, m
};
/// `letter_size`: height of a capital, m.
Spots find_spots(const Outline::Part&, double letter_size);

/// Adds the seeds to a body of this depth, m, with radii up to `most`, m.
void add_seeds(Body&, const Spots&, double depth, double most = 1e300);

/// Distance from a point in the plane to the outline of a part, m; negative outside.
double distance_inside(const Outline::Part&, double x, double y);

}  // namespace pour
