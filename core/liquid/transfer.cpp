// Between particles and faces: momentum one way, velocity and its slope the other.
#include <cmath>

#include "base/parallel.h"
#include "liquid/liquid.h"

namespace pour {
namespace {

// Values at the lattice points -1 to 8 of a block along each axis.
constexpr int across = 10, points = across * across * across;
constexpr int index_of(int x, int y, int z) { return ((z + 1) * across + y + 1) * across + x + 1; }

/// The eight lattice points of component k around a particle, and how far it is beyond the first.
struct Corners {
  int at;
  float part[3];
};
[[gnu::always_inline]] inline Corners corners_of(const Particles& p, uint32_t i, const Vec3i& block, int k) {
  Corners c;
  int base[3];
  for (int a = 0; a < 3; ++a) {
    const float x = p.place[size_t(a)][i] - float(block[a] * 8) - (a == k ? 0.f : 0.5f);
    const float floor = std::floor(x);
    base[a] = std::clamp(int(floor), -1, 7), c.part[a] = x - float(base[a]);
  }
  c.at = index_of(base[0], base[1], base[2]);
  return c;
}
constexpr int corner_step[8] = {0,
                                1,
                                across,
                                across + 1,
                                across* across,
                                across* across + 1,
                                across* across + across,
                                across* across + across + 1};
[[gnu::always_inline]] inline float corner_weight(const Corners& c, int n) {
  return (n & 1 ? c.part[0] : 1 - c.part[0]) * (n & 2 ? c.part[1] : 1 - c.part[1]) *
         (n & 4 ? c.part[2] : 1 - c.part[2]);
}

struct Tile {
  float momentum[points], weight[points];
};
constexpr int all_middles = 3;  // component of the cells' middles, which stands for no velocity

/// What a block's particles leave at the lattice points of a component around them.
void scatter(const Particles& p, uint32_t first, uint32_t last, const Vec3i& block, int k, Tile& tile) {
  std::fill_n(tile.momentum, points, 0.f), std::fill_n(tile.weight, points, 0.f);
  for (uint32_t n = first; n < last; ++n) {
    const Corners c = corners_of(p, n, block, k);
    float here = 0, slope[3] = {};
    if (k != all_middles) {
      here = p.velocity[size_t(k)][n];
      for (int a = 0; a < 3; ++a) slope[a] = p.slope[size_t(3 * k + a)][n], here -= slope[a] * c.part[a];
    }
    for (int q = 0; q < 8; ++q) {
      const float w = corner_weight(c, q);
      const float there =
          here + (q & 1 ? slope[0] : 0.f) + (q & 2 ? slope[1] : 0.f) + (q & 4 ? slope[2] : 0.f);
      tile.momentum[c.at + corner_step[q]] += w * there, tile.weight[c.at + corner_step[q]] += w;
    }
  }
}

/// Adds up what a block and its neighbours have left at its own lattice points, always in the same order.
struct Sum {
  float momentum[block_cells] = {}, weight[block_cells] = {};
  Sum(const std::vector<Tile>& tiles, const int* around) {
    for (int n = 0; n < 27; ++n) {
      if (around[n] < first_block) continue;
      const Vec3i d{n % 3 - 1, n / 3 % 3 - 1, n / 9 - 1};
      Vec3i from, to;
      for (int a = 0; a < 3; ++a) from[a] = d[a] > 0 ? 7 : 0, to[a] = d[a] < 0 ? 0 : 7;
      const Tile& tile = tiles[size_t(around[n])];
      for (int z = from.z; z <= to.z; ++z)
        for (int y = from.y; y <= to.y; ++y)
          for (int x = from.x; x <= to.x; ++x) {
            const int c = (z * 8 + y) * 8 + x, t = index_of(x - 8 * d.x, y - 8 * d.y, z - 8 * d.z);
            momentum[c] += tile.momentum[t], weight[c] += tile.weight[t];
          }
    }
  }
};

/// How far a flat surface is from a point around which this part of the space is liquid, in cells, where
/// parts count by trilinear weights: ½ + d - d²/2 at a depth d.
float distance_of(float part) {
  const float off = std::min(std::abs(part - 0.5f), 0.5f), depth = 1 - std::sqrt(1 - 2 * off);
  return part > 0.5f ? -depth : depth;
}

/// What of the space around the middle of each cell liquid could fill, by trilinear weights.
void find_room(const LiquidState& s, const int* around, float (&room)[block_cells]) {
  float parts[points];
  for (int z = -1; z <= 8; ++z)
    for (int y = -1; y <= 8; ++y)
      for (int x = -1; x <= 8; ++x) {
        const int from = around[((z >> 3) + 1) * 9 + ((y >> 3) + 1) * 3 + (x >> 3) + 1];
        const uint8_t v = from == outside_wall ? uint8_t(0)
                          : from == outside_open
                              ? uint8_t(full_volume)
                              : s.geometry.volume.block(from)[((z & 7) * 8 + (y & 7)) * 8 + (x & 7)];
        parts[index_of(x, y, z)] = v >= full_volume ? 1 : float(v) / full_volume;
      }
  for (int c = 0; c < block_cells; ++c) {
    const int at = index_of(c & 7, c >> 3 & 7, c >> 6);
    float sum = 0;
    for (int n = 0; n < 27; ++n) {
      const int x = n % 3 - 1, y = n / 3 % 3 - 1, z = n / 9 - 1;
      sum += (x ? 0.125f : 0.75f) * (y ? 0.125f : 0.75f) * (z ? 0.125f : 0.75f) *
             parts[at + x + across * y + across * across * z];
    }
    room[c] = sum;
  }
}

}  // namespace

void LiquidSolver::gather(LiquidState& s) {
  const BlockGrid& g = s.grid;
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  std::vector<Tile> tiles(static_cast<size_t>(g.size()));
  const auto each = [&](const auto& f) {
    parallel_for(size_t(g.blocks()), [&](size_t i) { f(int(i) + first_block); });
  };
  for (int k = 0; k <= all_middles; ++k) {
    each([&](int b) {
      scatter(s.particles, cells_.begin(b, 0), cells_.end(b, block_cells - 1), g.key(b).at, k,
              tiles[size_t(b)]);
    });
    if (k == all_middles) break;
    known_[k].resize(g.size());
    velocity[k]->resize(g.size(), unset);
    each([&](int b) {
      const Sum sum(tiles, g.around(b));
      for (int c = 0; c < block_cells; ++c) {
        const bool is_known = sum.weight[c] > 1e-4f;
        known_[k].block(b)[c] = is_known;
        velocity[k]->block(b)[c] = is_known ? sum.momentum[c] / sum.weight[c] : 0;
      }
    });
  }
  s.surface.resize(g.size(), unset);
  each([&](int b) {
    const Sum sum(tiles, g.around(b));
    float room[block_cells];
    find_room(s, g.around(b), room);
    for (int c = 0; c < block_cells; ++c)
      s.surface.block(b)[c] = distance_of(room[c] > 0 ? std::min(sum.weight[c] / (8 * room[c]), 1.f) : 0);
  });
}

namespace {

/// A block's faces of one component with those around them.
void fill_points(float (&to)[points], const Floats& f, const int* around) {
  for (int z = -1; z <= 8; ++z)
    for (int y = -1; y <= 8; ++y)
      for (int x = -1; x <= 8; ++x) {
        const int b = around[((z >> 3) + 1) * 9 + ((y >> 3) + 1) * 3 + (x >> 3) + 1];
        to[index_of(x, y, z)] = f.block(b)[((z & 7) * 8 + (y & 7)) * 8 + (x & 7)];
      }
}

/// Component k at any place, in cells. Beyond the grid the gas is still.
float velocity_at(const LiquidState& s, const BlockTable& table, int k, const float (&place)[3]) {
  const Floats& f = k == 0 ? s.u : k == 1 ? s.v : s.w;
  int base[3];
  float part[3];
  for (int a = 0; a < 3; ++a) {
    const float x = place[a] - (a == k ? 0.f : 0.5f), floor = std::floor(x);
    base[a] = int(floor), part[a] = x - floor;
  }
  float sum = 0;
  for (int q = 0; q < 8; ++q) {
    const int x = base[0] + (q & 1), y = base[1] + (q >> 1 & 1), z = base[2] + (q >> 2);
    const int b = table.find({x >> 3, y >> 3, z >> 3});
    if (b < 0) continue;
    sum += (q & 1 ? part[0] : 1 - part[0]) * (q & 2 ? part[1] : 1 - part[1]) *
           (q & 4 ? part[2] : 1 - part[2]) * f.block(b)[((z & 7) * 8 + (y & 7)) * 8 + (x & 7)];
  }
  return sum;
}

/// Out of the solids and inside closed sides; false where it left through an open one.
bool keep_inside(const World& w, float (&place)[3]) {
  const double h = w.cell_size;
  constexpr float least = 0.01f;  // of a cell, from a side
  for (int a = 0; a < 3; ++a) {
    const float low = float(w.low[a]), high = float(w.low[a] + w.cells[a]);
    if (place[a] < low + least) {
      if (w.open[2 * a] && place[a] < low) return false;
      if (!w.open[2 * a]) place[a] = low + least;
    }
    if (place[a] > high - least) {
      if (w.open[2 * a + 1] && place[a] > high) return false;
      if (!w.open[2 * a + 1]) place[a] = high - least;
    }
  }
  for (const Solid& solid : w.solids) {
    const Vec3d p = Vec3d{place[0], place[1], place[2]} * h;
    const double d = solid.distance(p);
    if (d >= 0) continue;
    Vec3d out;
    for (int a = 0; a < 3; ++a) {
      Vec3d step;
      step[a] = 0.25 * h;
      out[a] = solid.distance(p + step) - solid.distance(p - step);
    }
    const Vec3d to = p - normalized(out) * (d - 0.02 * h);
    for (int a = 0; a < 3; ++a) place[a] = float(to[a] / h);
  }
  return true;
}

}  // namespace

void LiquidSolver::advect(LiquidState& s, const World& world, double dt, Ledger& ledger) {
  const BlockGrid& g = s.grid;
  Particles& p = s.particles;
  const BlockTable table(g);
  const float step = float(dt / world.cell_size);
  std::vector<uint8_t> gone(p.size(), 0);
  const Floats* velocity[3] = {&s.u, &s.v, &s.w};
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const uint32_t first = cells_.begin(b, 0), last = cells_.end(b, block_cells - 1);
    if (first == last) return;
    for (int k = 0; k < 3; ++k) {
      float face[points];
      fill_points(face, *velocity[k], g.around(b));
      for (uint32_t n = first; n < last; ++n) {
        const Corners c = corners_of(p, n, g.key(b).at, k);
        const float* f = face + c.at;
        const auto mix = [](float a, float b2, float t) { return a + t * (b2 - a); };
        const float* t = c.part;
        float x[4], dx[4];
        for (int q = 0; q < 4; ++q) {
          const float low = f[corner_step[2 * q]], high = f[corner_step[2 * q + 1]];
          x[q] = mix(low, high, t[0]), dx[q] = high - low;
        }
        const float near = mix(x[0], x[1], t[1]), far = mix(x[2], x[3], t[1]);
        p.velocity[size_t(k)][n] = mix(near, far, t[2]);
        p.slope[size_t(3 * k)][n] = mix(mix(dx[0], dx[1], t[1]), mix(dx[2], dx[3], t[1]), t[2]);
        p.slope[size_t(3 * k + 1)][n] = mix(x[1] - x[0], x[3] - x[2], t[2]);
        p.slope[size_t(3 * k + 2)][n] = far - near;
      }
    }
    for (uint32_t n = first; n < last; ++n) {
      float mid[3], to[3];
      for (size_t a = 0; a < 3; ++a) mid[a] = p.place[a][n] + 0.5f * step * p.velocity[a][n];
      for (size_t a = 0; a < 3; ++a) to[a] = p.place[a][n] + step * velocity_at(s, table, int(a), mid);
      gone[n] = !keep_inside(world, to);
      for (size_t a = 0; a < 3; ++a) p.place[a][n] = to[a];
      p.age[n] += float(dt);
    }
  });
  const double each = std::pow(world.cell_size, 3) / 8;
  size_t kept = 0;
  for (size_t n = 0; n < p.size(); ++n) {
    if (gone[n]) continue;
    if (kept != n) p.each([&](auto& v) { v[kept] = v[n]; });
    ++kept;
  }
  ledger.left += double(p.size() - kept) * each;
  p.resize(kept);
}

}  // namespace pour
