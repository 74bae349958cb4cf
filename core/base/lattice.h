// Values between the points of a lattice, eight places at a time.
#pragma once
#include <vector>

#include "base/simd.h"
#include "base/vec.h"

namespace pour {

/// A value, and by how much it grows along each axis from one point of the lattice to the next.
struct Between {
  v8 value;
  Vec3<v8> slope;
};

/// Trilinear. `corner` gives the value at the corner so many values after the first; `up` is the step to the
/// next point along each axis, and `share` the place between the corners, 0 to 1.
template <class Corner>
Between between(const Corner& corner, const int (&up)[3], const Vec3<v8>& share) {
  v8 at[8];
  for (int k = 0; k < 8; ++k) at[k] = corner((k & 1) * up[0] + (k >> 1 & 1) * up[1] + (k >> 2) * up[2]);
  const auto mean = [](v8 a, v8 b, v8 t) { return a + (b - a) * t; };
  v8 row[4], along[4];
  for (int k = 0; k < 4; ++k) along[k] = at[2 * k + 1] - at[2 * k], row[k] = at[2 * k] + along[k] * share.x;
  const v8 low = mean(row[0], row[1], share.y), high = mean(row[2], row[3], share.y);
  return {mean(low, high, share.z),
          {mean(mean(along[0], along[1], share.y), mean(along[2], along[3], share.y), share.z),
           mean(row[1] - row[0], row[3] - row[2], share.z), high - low}};
}
inline Between between(const std::vector<float>& values, v8i first, const int (&up)[3],
                       const Vec3<v8>& share) {
  return between([&](int step) { return gather(values.data(), first + step); }, up, share);
}

}  // namespace pour
