// Surface tension: what the curvature of the surface adds to the pressure under it (Young and Laplace), and
// the angle at which it meets solids.
//
// Particles fill the space around cells unevenly, so how much they fill is smoothed before curvature is taken
// from it: that of a sphere stays a sphere. In solids it is continued (contact.cpp).
#include <algorithm>
#include <array>
#include <cmath>

#include "base/parallel.h"
#include "liquid/liquid.h"
#include "liquid/looks.h"
#include "solve/cells.h"

namespace pour {
namespace {

constexpr int passes = 6;  // each spreads by √½ cells along each axis
// Of all that is smoothed, the square of the width, cells²; particles spread over two cells.
constexpr float spread = passes * 0.5f + 1 / 6.f;
constexpr float evening = 0.1f;   // of the curvature of what is too short for `spread` that is felt
constexpr float most_bent = 1;    // 1/cell: a drop of two cells' radius; smaller ones can't be told
constexpr float most_off = 1.5f;  // cells from the smoothed surface that count
/// The cells of a block and one more on each side, which goes on as it is beyond walls of the bounds.
struct FillTile {
  static constexpr int across = 10, count = across * across * across, stride[3] = {1, across, across*across};
  float value[count];

  static int at(int c) { return (((c >> 6) + 1) * across + (c >> 3 & 7) + 1) * across + (c & 7) + 1; }
  FillTile(const Floats& f, const int* around) {
    float* to = value;
    for (int z = -1; z < 9; ++z)
      for (int y = -1; y < 9; ++y, to += across) {
        const int n = ((z >> 3) + 1) * 9 + ((y >> 3) + 1) * 3, row = ((z & 7) * 8 + (y & 7)) * 8;
        to[0] = f.block(around[n])[row + 7];
        std::copy_n(f.block(around[n + 1]) + row, 8, to + 1);
        to[9] = f.block(around[n + 2])[row];
      }
    constexpr int minus[3] = {x_minus, y_minus, z_minus}, plus[3] = {x_plus, y_plus, z_plus};
    for (int a = 0; a < 3; ++a) {
      if (around[minus[a]] == outside_wall) repeat(a, 1, 0);
      if (around[plus[a]] == outside_wall) repeat(a, across - 2, across - 1);
    }
  }
  void smooth() {
    float once[count];
    for (const int step : stride) {
      std::copy_n(value, count, once);
      for (int i = step; i < count - step; ++i)
        value[i] = 0.25f * (once[i - step] + once[i + step]) + 0.5f * once[i];
    }
  }
  Vec3f slope(int i) const {  // 1/cell
    Vec3f d;
    for (int a = 0; a < 3; ++a) d[a] = 0.5f * (value[i + stride[a]] - value[i - stride[a]]);
    return d;
  }
  /// Of the surface of equal values through a cell, positive where it bulges out of the larger ones: the sum
  /// of the principal curvatures, 1/cell.
  float curvature(int i) const {
    float d[3], dd[3];
    for (int a = 0; a < 3; ++a) {
      const float low = value[i - stride[a]], high = value[i + stride[a]];
      d[a] = 0.5f * (high - low), dd[a] = high + low - 2 * value[i];
    }
    const auto mixed = [&](int a, int b) {
      const int s = stride[a], t = stride[b];
      return 0.25f * (value[i + s + t] + value[i - s - t] - value[i + s - t] - value[i - s + t]);
    };
    const float steep = d[0] * d[0] + d[1] * d[1] + d[2] * d[2] + 1e-4f;
    const float along =
        d[0] * d[0] * dd[0] + d[1] * d[1] * dd[1] + d[2] * d[2] * dd[2] +
        2 * (d[0] * d[1] * mixed(0, 1) + d[1] * d[2] * mixed(1, 2) + d[0] * d[2] * mixed(0, 2));
    const float k = (along / steep - (dd[0] + dd[1] + dd[2])) / std::sqrt(steep);
    return std::clamp(k, -most_bent, most_bent);
  }

 private:
  void repeat(int axis, int from, int to) {
    const int s = stride[axis], t = stride[axis == 0 ? 1 : 0], u = stride[axis == 2 ? 1 : 2];
    for (int i = 0; i < across; ++i)
      for (int k = 0; k < across; ++k) value[to * s + i * t + k * u] = value[from * s + i * t + k * u];
  }
};

std::vector<int> blocks_near_surface(const LiquidState& s) {
  const BlockGrid& g = s.grid;
  std::vector<uint8_t> has(size_t(g.size()), 0);  // bit 0: liquid, bit 1: air
  has[outside_open] = 2;
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const float* surface = s.surface.block(int(i) + first_block);
    for (int c = 0; c < block_cells; ++c) has[i + first_block] |= surface[c] < 0 ? 1 : 2;
  });
  std::vector<int> out;
  for (int b = first_block; b < g.size(); ++b) {
    uint8_t all = 0;
    for (int n = 0; n < 27; ++n) all |= has[size_t(g.around(b)[n])];
    if (all == 3) out.push_back(b);
  }
  return out;
}

}  // namespace

Floats LiquidSolver::smooth_fill(const LiquidState& s, const LiquidWorld& world,
                                 const std::vector<int>& blocks, const BlockTable& table, double dt,
                                 Walls mode) {
  const BlockGrid& g = s.grid;
  walls_.resize(size_t(g.blocks()));
  const auto is_wall_cell = [&](int b, int c) { return is_wall(s.geometry.volume.block(b)[c]); };
  Floats fill(g.size());
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    for (int c = 0; c < block_cells; ++c)
      fill.block(b)[c] = is_wall_cell(b, c) ? 0 : std::min(1 + s.crowd.block(b)[c], 1.f);
  });
  continue_into_walls(s, world, blocks, table, dt, mode, fill);
  Floats next = fill;  // also where nothing will change
  for (int pass = 0; pass < passes; ++pass) {
    parallel_for(blocks.size(), [&](size_t i) {
      const int b = blocks[i];
      FillTile tile(fill, g.around(b));
      tile.smooth();
      for (int c = 0; c < block_cells; ++c)
        next.block(b)[c] = is_wall_cell(b, c) ? fill.block(b)[c] : tile.value[FillTile::at(c)];
    });
    if (pass % 2)
      continue_into_walls(s, world, blocks, table, dt, mode, next);  // every other time is as good
    std::swap(fill, next);
  }
  return fill;
}

double LiquidSolver::tension_of(const LiquidState& s, const LiquidWorld& world, int b, int c) const {
  if (world.liquids.size() == 1) return world.liquids[0].tension;
  uint32_t first = cells_.begin(b, c), last = cells_.end(b, c);
  if (first == last) first = cells_.begin(b, 0), last = std::min(first + 64, cells_.end(b, block_cells - 1));
  double sum = 0;
  for (uint32_t n = first; n < last; ++n) sum += world.liquids[s.particles.liquid[n]].tension;
  if (first < last) return sum / (last - first);
  for (const Matter& m : world.liquids) sum = std::max(sum, m.tension);
  return sum;
}

void LiquidSolver::find_tension(LiquidState& s, const LiquidWorld& world, double dt) {
  pull_.resize(0);
  double most = 0, density = 0;
  for (const Matter& m : world.liquids)
    most = std::max(most, m.tension), density = std::max(density, m.density);
  if (most <= 0 || density <= 0) return;
  const BlockGrid& g = s.grid;
  const BlockTable table(g);
  const std::vector<int> blocks = blocks_near_surface(s);
  held_.clear(), holds_.resize(0);
  const bool clings = find_slants(s, world, blocks, table, dt);
  const Floats fill = smooth_fill(s, world, blocks, table, dt, Walls::at_angle);
  Floats bend(g.size());
  parallel_for(blocks.size(), [&](size_t i) {
    const FillTile tile(fill, g.around(blocks[i]));
    for (int c = 0; c < block_cells; ++c) bend.block(blocks[i])[c] = tile.curvature(FillTile::at(c));
  });
  // Smoothing moves a surface by its curvature times spread / 2. What is further out than that is a bump too
  // small for it: it must be given the curvature of what it stands on, for its own is less, and it would grow
  // without end.
  const Looks looks{bend, s.geometry.volume, table};
  const double scale = dt / (density * world.cell_size * world.cell_size);
  pull_.resize(g.size());
  parallel_for(blocks.size(), [&](size_t i) {
    const int b = blocks[i];
    const FillTile tile(fill, g.around(b));
    for (int c = 0; c < block_cells; ++c) {
      const float part = tile.value[FillTile::at(c)];
      if (std::abs(part - 0.5f) > 0.48f || is_wall(s.geometry.volume.block(b)[c])) continue;
      const Vec3f slope = tile.slope(FillTile::at(c));
      const float steep = length(slope) + 0.01f;
      const float off =
          std::clamp((0.5f - part) / steep - bend.block(b)[c] * spread / 2, -most_off, most_off);
      const Vec3f here = to<float>(cell_middle(g, b, c, 1));
      const float curvature = looks.at(here + slope * (off / steep)) + evening * 2 / spread * off;
      pull_.block(b)[c] = float(scale * tension_of(s, world, b, c)) * curvature;
    }
  });
  touch_walls(s, pull_);  // what is continued into solids has its surface elsewhere
  if (clings) hold_lines(s, world, blocks, table);
}

}  // namespace pour
