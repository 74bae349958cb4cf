// Colours of liquids that touch become one.
#include <algorithm>
#include <bit>
#include <cmath>

#include "base/parallel.h"
#include "base/srgb.h"
#include "liquid/liquid.h"

namespace pour {
namespace {

constexpr int side = 10, cube = side * side * side;  // a block and a cell more on all sides

/// Colours and how many have them; all of them in one.
struct Sum {
  Vec3f color;
  float count = 0;
};

Vec3f color_of(const Particles& p, size_t i, const LiquidWorld& w) {
  if (p.tint[i]) return unpack_tint(p.tint[i]);
  return p.liquid[i] < w.colors.size() ? w.colors[p.liquid[i]] : Vec3f{1, 1, 1};
}

double mixes_in(const Particles& p, size_t i, const LiquidWorld& w) {
  return p.liquid[i] < w.mixes_in.size() ? w.mixes_in[p.liquid[i]] : 0;
}

/// Replaces each value by its sum with both neighbours, along each axis.
void add_neighbours(std::vector<Sum>& sums) {
  std::vector<Sum> once(sums.size());
  for (const int step : {1, side, side * side}) {
    once = sums;
    for (int i = step; i < cube - step; ++i)
      for (const int k : {i - step, i + step}) {
        sums[size_t(i)].color += once[size_t(k)].color;
        sums[size_t(i)].count += once[size_t(k)].count;
      }
  }
}

/// A colour as eight bits of sRGB each, up or down by chance: as it is on the mean, however little it
/// changes.
uint32_t pack_by_chance(const Vec3f& linear, uint32_t id, uint32_t step) {
  uint32_t out = 1;
  for (uint32_t k = 0; k < 3; ++k) {
    uint32_t x = id * 0x9E3779B9u ^ (step + k * 0x85EBCA6Bu) * 0xC2B2AE35u;
    x ^= x >> 16, x *= 0x7FEB352Du, x ^= x >> 15, x *= 0x846CA68Bu, x ^= x >> 16;
    const float code = 255 * to_srgb(std::clamp(linear[int(k)], 0.f, 1.f));
    out = out << 8 | std::min(255u, uint32_t(code + float(x >> 8) / float(1 << 24)));
  }
  return out;
}

/// Whether two colours look alike.
bool alike(const Vec3f& a, const Vec3f& b) {
  for (int k = 0; k < 3; ++k)
    if (std::abs(to_srgb(std::max(0.f, a[k])) - to_srgb(std::max(0.f, b[k]))) > 0.6f / 255) return false;
  return true;
}

}  // namespace

void LiquidSolver::mix_colors(LiquidState& s, const LiquidWorld& world, double dt) const {
  if (std::none_of(world.mixes_in.begin(), world.mixes_in.end(), [](double t) { return t > 0; })) return;
  const BlockGrid& g = s.grid;
  Particles& p = s.particles;
  // Of each cell; read before anything changes.
  std::vector<Sum> cells(size_t(g.size()) * block_cells);
  parallel_for(size_t(g.blocks()), [&](size_t n) {
    const int b = int(n) + first_block;
    for (int c = 0; c < block_cells; ++c) {
      Sum& sum = cells[size_t(b) * block_cells + size_t(c)];
      for (uint32_t i = cells_.begin(b, c); i < cells_.end(b, c); ++i)
        sum.color += color_of(p, i, world), ++sum.count;
    }
  });
  const uint32_t step = std::bit_cast<uint32_t>(float(s.time));
  parallel_for(size_t(g.blocks()), [&](size_t n) {
    const int b = int(n) + first_block;
    if (cells_.begin(b, 0) == cells_.end(b, block_cells - 1)) return;
    const int* around = g.around(b);
    std::vector<Sum> near(cube);
    for (int z = -1, at = 0; z < 9; ++z)
      for (int y = -1; y < 9; ++y)
        for (int x = -1; x < 9; ++x) {
          const int block = around[((z >> 3) + 1) * 9 + ((y >> 3) + 1) * 3 + (x >> 3) + 1];
          near[size_t(at++)] =
              cells[size_t(block) * block_cells + size_t(((z & 7) * 8 + (y & 7)) * 8 + (x & 7))];
        }
    add_neighbours(near);
    for (int c = 0; c < block_cells; ++c) {
      const Sum& sum = near[size_t(((c >> 6) + 1) * 100 + ((c >> 3 & 7) + 1) * 10 + (c & 7) + 1)];
      const Vec3f mean = sum.color / std::max(1.f, sum.count);
      for (uint32_t i = cells_.begin(b, c); i < cells_.end(b, c); ++i) {
        const double half = mixes_in(p, i, world);
        const Vec3f own = color_of(p, i, world);
        if (half <= 0 || alike(own, mean)) continue;
        const float part = 1 - float(std::exp2(-dt / half));
        p.tint[i] = pack_by_chance(own + (mean - own) * part, p.id[i], step);
      }
    }
  });
}

}  // namespace pour
