// Interpolation of a cell-centred field.
#pragma once
#include <cmath>

#include "liquid/liquid.h"

namespace pour {

/// Trilinear interpolation between cell centres that skips cells in solids.
struct Looks {
  const Floats& f;
  const Bytes& volume;
  const BlockTable& table;

  /// Value at a position in cells; 0 if all cells around are solid.
  float at(const Vec3f& place) const {
    int base[3];
    float t[3];
    for (int a = 0; a < 3; ++a) {
      const float x = place[a] - 0.5f, low = std::floor(x);
      base[a] = int(low), t[a] = x - low;
    }
    float value = 0, weight = 0;
    for (int q = 0; q < 8; ++q) {
      const int x = base[0] + (q & 1), y = base[1] + (q >> 1 & 1), z = base[2] + (q >> 2);
      const int b = table.find({x >> 3, y >> 3, z >> 3}), c = ((z & 7) * 8 + (y & 7)) * 8 + (x & 7);
      if (b >= 0 && LiquidSolver::is_wall(volume.block(b)[c])) continue;
      const float w = (q & 1 ? t[0] : 1 - t[0]) * (q & 2 ? t[1] : 1 - t[1]) * (q & 4 ? t[2] : 1 - t[2]);
      weight += w, value += b < 0 ? 0 : w * f.block(b)[c];
    }
    return weight > 0 ? value / weight : 0;
  }
  /// Gradient, per cell.
  Vec3f slope(const Vec3f& place) const {
    Vec3f out;
    for (int a = 0; a < 3; ++a) {
      Vec3f half;
      half[a] = 0.5f;
      out[a] = at(place + half) - at(place - half);
    }
    return out;
  }
};

}  // namespace pour
