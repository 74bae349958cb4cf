// A Poisson problem as the gas solver meets them: a box with an open side, a solid ball inside, and
// fractional faces along its surface.
#pragma once
#include <cmath>
#include <vector>

#include "solve/poisson.h"

struct PoissonProblem {
  pour::BlockGrid grid;
  pour::PoissonWeights weights;
  pour::Floats b;
  int n;

  /// n³ cells, n a multiple of 8. `open` leaves the side at x = 0 open (p = 0 behind it).
  PoissonProblem(int n, bool open, bool ball) : n(n) {
    using namespace pour;
    std::vector<BlockKey> keys;
    const int nb = n / 8;
    for (int z = 0; z < nb; ++z)
      for (int y = 0; y < nb; ++y)
        for (int x = 0; x < nb; ++x) keys.push_back({0, {x, y, z}});
    grid = BlockGrid(std::move(keys), [](const BlockKey&) { return int(outside_wall); });
    weights.resize(grid.size()), b.resize(grid.size());
    const double r = 0.23 * n, cx = 0.55 * n, cy = 0.5 * n, cz = 0.45 * n;
    const auto fraction = [&](double x, double y, double z) {
      if (!ball) return 255;
      const double d = std::sqrt((x - cx) * (x - cx) + (y - cy) * (y - cy) + (z - cz) * (z - cz)) - r;
      return int(std::lround(255 * std::clamp(d + 0.5, 0.0, 1.0)));
    };
    double total = 0, count = 0;
    for (int pass = 0; pass < 2; ++pass)
      for (int k = first_block; k < grid.size(); ++k)
        for (int c = 0; c < block_cells; ++c) {
          const Vec3i at = grid.key(k).at;
          const int x = at.x * 8 + (c & 7), y = at.y * 8 + (c >> 3 & 7), z = at.z * 8 + (c >> 6);
          if (pass == 0) {
            weights.x.block(k)[c] = uint8_t(x ? fraction(x, y + 0.5, z + 0.5) : 0);
            weights.y.block(k)[c] = uint8_t(y ? fraction(x + 0.5, y, z + 0.5) : 0);
            weights.z.block(k)[c] = uint8_t(z ? fraction(x + 0.5, y + 0.5, z) : 0);
            weights.anchor.block(k)[c] = float(open && !x ? 255 : 0);
          } else if (diagonal(k, c) > 0) {
            const float v = float(std::sin(0.11 * x) * std::cos(0.07 * y + 1) + std::sin(0.9 * z + x) +
                                  ((x * 7 + y * 3 + z) % 11) * 0.1);
            b.block(k)[c] = v;
            total += v, ++count;
          }
        }
    if (!open)
      for (int k = first_block; k < grid.size(); ++k)
        for (int c = 0; c < block_cells; ++c)
          if (diagonal(k, c) > 0) b.block(k)[c] -= float(total / count);
  }

  double weight(int x, int y, int z, int axis) const {  // of the face towards smaller x, y, z; 0..1
    if (x >= n || y >= n || z >= n) return 0;
    const int k = block(x, y, z), c = cell(x, y, z);
    const auto& w = axis == 0 ? weights.x : axis == 1 ? weights.y : weights.z;
    return w.block(k)[c] / 255.0;
  }
  double diagonal(int k, int c) const {
    const pour::Vec3i at = grid.key(k).at;
    const int x = at.x * 8 + (c & 7), y = at.y * 8 + (c >> 3 & 7), z = at.z * 8 + (c >> 6);
    return weight(x, y, z, 0) + weight(x + 1, y, z, 0) + weight(x, y, z, 1) + weight(x, y + 1, z, 1) +
           weight(x, y, z, 2) + weight(x, y, z + 1, 2) + double(weights.anchor.block(k)[c]) / 255;
  }
  int block(int x, int y, int z) const {
    const int nb = n / 8;
    return pour::first_block + ((z / 8) * nb + y / 8) * nb + x / 8;
  }
  static int cell(int x, int y, int z) { return ((z & 7) * 8 + (y & 7)) * 8 + (x & 7); }
};
