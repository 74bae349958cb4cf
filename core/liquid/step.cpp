#include <algorithm>
#include <cmath>

#include "base/parallel.h"
#include "liquid/liquid.h"
#include "solve/move_blocks.h"

namespace pour {
namespace {

/// A number of 0 to 1 that is the same for the same three.
float scatter(uint32_t a, uint32_t b) {
  uint32_t x = a * 0x9E3779B9u ^ (b + 0x85EBCA6Bu) * 0xC2B2AE35u;
  x ^= x >> 16, x *= 0x7FEB352Du, x ^= x >> 15, x *= 0x846CA68Bu, x ^= x >> 16;
  return float(x >> 8) / float(1 << 24);
}

bool in_solid(const World& w, const Vec3d& p) {
  return std::any_of(w.solids.begin(), w.solids.end(), [&](const Solid& s) { return s.distance(p) < 0; });
}

bool in_bounds(const World& w, const Vec3i& cell) {
  for (int a = 0; a < 3; ++a)
    if (cell[a] < w.low[a] || cell[a] >= w.low[a] + w.cells[a]) return false;
  return true;
}

}  // namespace

void LiquidSolver::pour(LiquidState& s, const World& world, Ledger& ledger) {
  const double h = world.cell_size;
  const BlockTable table(s.grid);
  Particles& p = s.particles;
  for (const Source& source : world.sources) {
    Vec3i from, to;
    for (int a = 0; a < 3; ++a)
      from[a] = int(std::floor(source.shape.bounds.low[a] / h)),
      to[a] = int(std::floor(source.shape.bounds.high[a] / h));
    for (int z = from.z; z <= to.z; ++z)
      for (int y = from.y; y <= to.y; ++y)
        for (int x = from.x; x <= to.x; ++x) {
          if (!in_bounds(world, {x, y, z})) continue;
          uint8_t taken = 0;  // eighths of the cell that hold a particle
          if (const int b = table.find({x >> 3, y >> 3, z >> 3}); b >= 0 && !cells_.cell_start.empty()) {
            const int c = ((z & 7) * 8 + (y & 7)) * 8 + (x & 7);
            for (uint32_t n = cells_.begin(b, c); n < cells_.end(b, c); ++n)
              taken |=
                  uint8_t(1 << ((p.place[0][n] - float(x) >= 0.5f) + 2 * (p.place[1][n] - float(y) >= 0.5f) +
                                4 * (p.place[2][n] - float(z) >= 0.5f)));
          }
          for (int eighth = 0; eighth < 8; ++eighth) {
            if (taken >> eighth & 1) continue;
            const float at[3] = {float(x), float(y), float(z)};
            Vec3d middle;
            for (int a = 0; a < 3; ++a) middle[a] = (double(at[a]) + (eighth >> a & 1 ? 0.75 : 0.25)) * h;
            if (source.shape.distance(middle) >= 0 || in_solid(world, middle)) continue;
            const size_t n = p.size();
            p.resize(n + 1);
            p.id[n] = s.poured++;
            for (size_t a = 0; a < 3; ++a) {
              const float jitter = 0.3f * (scatter(p.id[n], uint32_t(a)) - 0.5f);
              p.place[a][n] = at[a] + (eighth >> a & 1 ? 0.75f : 0.25f) + jitter;
              p.velocity[a][n] = float(source.velocity[int(a)]);
            }
            ledger.poured += h * h * h / 8;
          }
        }
  }
}

void LiquidSolver::update_region(LiquidState& s, const World& world) {
  // All blocks with particles within three cells: as far as velocity is carried on.
  std::vector<BlockKey> keys;
  const Particles& p = s.particles;
  constexpr int margin = 3;
  BlockKey last{-1, {}};
  for (size_t n = 0; n < p.size(); ++n) {
    Vec3i low, high;
    for (int a = 0; a < 3; ++a) {
      const int at = int(std::floor(p.place[size_t(a)][n]));
      low[a] = (at - margin) >> 3, high[a] = (at + margin) >> 3;
    }
    for (int z = low.z; z <= high.z; ++z)
      for (int y = low.y; y <= high.y; ++y)
        for (int x = low.x; x <= high.x; ++x) {
          const BlockKey key{0, {x, y, z}};
          if (key == last) continue;
          keys.push_back(last = key);
        }
    if (keys.size() > 1 << 16) {
      std::sort(keys.begin(), keys.end());
      keys.erase(std::unique(keys.begin(), keys.end()), keys.end());
    }
  }
  std::sort(keys.begin(), keys.end());
  keys.erase(std::unique(keys.begin(), keys.end()), keys.end());
  std::erase_if(keys, [&](const BlockKey& k) {
    for (int a = 0; a < 3; ++a)
      if (k.at[a] * 8 + 8 <= world.low[a] || k.at[a] * 8 > world.low[a] + world.cells[a]) return true;
    return false;
  });
  if (keys != s.grid.keys()) {
    BlockGrid next(keys, [&](const BlockKey& k) { return beyond_grid(world, k); });
    CellGeometry& g = s.geometry;
    for (Bytes* f : {&g.fx, &g.fy, &g.fz, &g.volume}) move_blocks(*f, s.grid, next);
    move_blocks(s.pressure, s.grid, next);
    parallel_for(size_t(next.blocks()), [&](size_t i) {
      const int b = int(i) + first_block;
      if (s.grid.find(next.key(b)) < 0) cut_block(g, world, next.key(b), b);
    });
    std::fill_n(g.volume.block(outside_open), block_cells, uint8_t(outside_volume));
    s.grid = std::move(next);
  }
  cells_ = sort_particles(s.particles, s.grid);
}

void LiquidSolver::apply_forces(LiquidState& s, const World& world, double dt) {
  const float pull = float(-world.gravity * dt);
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    for (int c = 0; c < block_cells; ++c)
      if (known_[1].block(b)[c]) s.v.block(b)[c] += pull;
  });
}

LiquidReport LiquidSolver::step(LiquidState& s, const World& world, double dt, Ledger& ledger) {
  LiquidReport report;
  if (!world.sources.empty()) {
    update_region(s, world);  // where there is room for more
    pour(s, world, ledger);
  }
  update_region(s, world);
  if (s.particles.size()) {
    gather(s);
    apply_forces(s, world, dt);
    report = project(s, world);
    extrapolate(s);
    advect(s, world, dt, ledger);
  }
  s.time += dt;
  ledger.in_shot = measure(s, world.cell_size).volume;
  ledger.numeric = ledger.in_shot - (ledger.poured - ledger.left - ledger.drained - ledger.decayed);
  return report;
}

double longest_step(const LiquidState& s, const World& world, double courant, double longest) {
  double most = 0;
  for (const auto& v : s.particles.velocity)
    for (const float x : v) most = std::max(most, double(std::abs(x)));
  for (const Source& source : world.sources) most = std::max(most, length(source.velocity));
  // speed · dt + gravity · dt² = courant · h
  const double g = std::abs(world.gravity), way = courant * world.cell_size;
  if (most == 0 && g == 0) return longest;
  return std::min(longest, 2 * way / (most + std::sqrt(most * most + 4 * g * way)));
}

LiquidMeasure measure(const LiquidState& s, double h) {
  struct Part {
    double volume = 0, cells = 0;
    Part& operator+=(const Part& o) {
      volume += o.volume, cells += o.cells;
      return *this;
    }
  };
  const Part all = ordered_sum<Part>(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    Part p;
    if (s.surface.size() != s.grid.size()) return p;
    for (int c = 0; c < block_cells; ++c) {
      const uint8_t v = s.geometry.volume.block(b)[c];
      if (v == 0 || v == outside_volume) continue;
      const double part = std::clamp(0.5 - double(s.surface.block(b)[c]), 0.0, 1.0);
      p.volume += part * v / full_volume, p.cells += part > 0.5;
    }
    return p;
  });
  LiquidMeasure m;
  m.volume = all.volume * h * h * h, m.cells = all.cells;
  const Particles& p = s.particles;
  for (size_t n = 0; n < p.size(); ++n) {
    Vec3d at, v;
    for (size_t a = 0; a < 3; ++a) at[int(a)] = double(p.place[a][n]), v[int(a)] = double(p.velocity[a][n]);
    m.centroid += at;
    m.max_speed = std::max(m.max_speed, length(v));
    m.kinetic_energy += 0.5 * 1000 * h * h * h / 8 * dot(v, v);
  }
  if (p.size()) m.centroid = m.centroid * (h / double(p.size()));
  return m;
}

}  // namespace pour
