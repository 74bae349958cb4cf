#include <algorithm>
#include <cmath>

#include "base/parallel.h"
#include "liquid/liquid.h"
#include "solve/cells.h"
#include "solve/move_blocks.h"
#include "world/inertia.h"
#include "world/push.h"

namespace pour {
namespace {

/// All blocks with particles within this many cells: as far as velocity is carried on.
constexpr int margin = 2;

std::vector<BlockKey> blocks_around(const Particles& p, const LiquidWorld& world) {
  // Towards which neighbours of its block a particle is near: bit x + 3 y + 9 z, each 0 to 2; by whether it
  // is near the lower side, neither or the upper one along x, y and z.
  std::array<uint32_t, 27> near_by_side{};
  for (int n = 0; n < 27; ++n) {
    const auto reaches = [](int side, int to) { return to == 1 || to == side; };
    for (int to = 0; to < 27; ++to)
      if (reaches(n % 3, to % 3) && reaches(n / 3 % 3, to / 3 % 3) && reaches(n / 9, to / 9))
        near_by_side[size_t(n)] |= 1u << to;
  }
  // The same of each run of particles of one block.
  struct Near {
    Vec3i at;
    uint32_t neighbours;
  };
  constexpr size_t chunk = 16384;
  std::vector<std::vector<Near>> found((p.size() + chunk - 1) / chunk);
  parallel_for(
      found.size(),
      [&](size_t k) {
        for (size_t n = k * chunk; n < std::min(p.size(), (k + 1) * chunk); ++n) {
          Vec3i at;
          int sides = 0;
          for (int a = 2; a >= 0; --a) {
            const int cell = int(std::floor(p.place[size_t(a)][n])), in = cell & 7;
            at[a] = cell >> 3, sides = 3 * sides + 1 - int(in < margin) + int(in >= 8 - margin);
          }
          const uint32_t all = near_by_side[size_t(sides)];
          if (found[k].empty() || !(found[k].back().at == at))
            found[k].push_back({at, all});
          else
            found[k].back().neighbours |= all;
        }
      },
      1);
  std::vector<BlockKey> keys;
  for (const auto& of_chunk : found)
    for (const Near& near : of_chunk)
      for (int n = 0; n < 27; ++n)
        if (near.neighbours >> n & 1)
          keys.push_back({0, near.at + Vec3i{n % 3 - 1, n / 3 % 3 - 1, n / 9 - 1}});
  std::sort(keys.begin(), keys.end());
  keys.erase(std::unique(keys.begin(), keys.end()), keys.end());
  std::erase_if(keys, [&](const BlockKey& k) {
    for (int a = 0; a < 3; ++a)
      if (k.at[a] * 8 + 8 <= world.low[a] || k.at[a] * 8 > world.low[a] + world.cells[a]) return true;
    return false;
  });
  return keys;
}

}  // namespace

void LiquidSolver::update_region(LiquidState& s, const LiquidWorld& world, double dt) {
  const std::vector<BlockKey> keys = blocks_around(s.particles, world);
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
    decltype(walls_) walls(size_t(next.blocks()));
    for (size_t i = 0; i < walls.size(); ++i)
      if (const int old = s.grid.find(next.key(int(i) + first_block)) - first_block;
          old >= 0 && size_t(old) < walls_.size())
        walls[i] = std::move(walls_[size_t(old)]);
    // Where one looks at a surface from beside a solid depends on which blocks are there.
    for (size_t i = 0; i < walls.size(); ++i) {
      const int b = int(i) + first_block, old = s.grid.find(next.key(b));
      for (int n = 0; n < 27 && old >= 0; ++n)
        if ((next.around(b)[n] >= first_block) != (s.grid.around(old)[n] >= first_block))
          walls[i].cells_known = false;
    }
    walls_ = std::move(walls);
    s.grid = std::move(next);
  }
  move_solids(s, world, dt);
  find_walls(s);
  cells_ = sort_particles(s.particles, s.grid);
}

void LiquidSolver::move_solids(LiquidState& s, const LiquidWorld& world, double dt) {
  for (Floats& f : carried_) f.resize(0);
  const auto may_move = [](const Solid& b) { return b.moves; };
  if (std::none_of(world.solids.begin(), world.solids.end(), may_move)) return;
  // A piece's speed is that of one step, even if it has just stopped.
  for (size_t i = 0; i < walls_.size() && i < size_t(s.grid.blocks()); ++i)
    if (is_moved_through(world, s.grid.key(int(i) + first_block))) walls_[i] = {};
  const auto comes_on = [](const Solid& b) { return b.moves && b.farthest() > 0; };
  if (std::none_of(world.solids.begin(), world.solids.end(), comes_on)) return;
  for (Floats& f : carried_) f.resize(s.grid.size());
  CellGeometry& g = s.geometry;
  const Bytes* face[3] = {&g.fx, &g.fy, &g.fz};
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    if (!is_moved_through(world, s.grid.key(b))) return;
    cut_block(g, world, s.grid.key(b), b);
    const NearSolids near(world.solids, world.cell_size, s.grid.key(b).at * 8);
    for (int a = 0; a < 3; ++a)
      for (int c = 0; c < block_cells; ++c)
        if (face[a]->block(b)[c] < 255) {
          const double h = world.cell_size;
          carried_[a].block(b)[c] = float(near.velocity(face_middle(s.grid, b, c, a, h), h, dt)[a]);
        }
  });
}

void LiquidSolver::find_walls(const LiquidState& s) {
  const BlockGrid& g = s.grid;
  std::vector<uint8_t> wall(size_t(g.size()), 0);
  for (int b = 0; b < first_block; ++b) wall[size_t(b)] = 1;
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const uint8_t* v = s.geometry.volume.block(int(i) + first_block);
    wall[i + first_block] = std::any_of(v, v + block_cells, [](uint8_t part) { return part != full_volume; });
  });
  near_wall_.assign(size_t(g.size()), 0);
  for (int b = first_block; b < g.size(); ++b)
    for (int n = 0; n < 27; ++n) near_wall_[size_t(b)] |= wall[size_t(g.around(b)[n])];
}

void LiquidSolver::restore(LiquidState& s, const LiquidWorld& world) {
  walls_.clear();
  CellGeometry& g = s.geometry;
  for (Bytes* f : {&g.fx, &g.fy, &g.fz, &g.volume}) f->resize(s.grid.size());
  BlockGrid known(s.grid.keys(), [&](const BlockKey& k) { return beyond_grid(world, k); });
  s.grid = std::move(known);
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    cut_block(g, world, s.grid.key(b), b);
  });
  std::fill_n(g.volume.block(outside_open), block_cells, uint8_t(outside_volume));
}

void LiquidSolver::find_slopes(LiquidState& s, const LiquidWorld& world) {
  for (auto& slope : s.particles.slope) std::fill(slope.begin(), slope.end(), 0.f);
  if (!s.particles.size()) return;
  update_region(s, world, 0);
  gather(s);
  extrapolate(s);
  for (Floats& f : shift_) f.resize(0);
  // Face velocities are smoother than the particles' own.
  Particles was = s.particles;
  Ledger none;
  advect(s, world, 0, none);
  std::swap(s.particles.slope, was.slope);
  s.particles = std::move(was);
}

void LiquidSolver::apply_forces(LiquidState& s, const LiquidWorld& world, double dt) {
  if (world.room && world.room->moves) return;  // push_with_room() has
  if (!world.fields.empty()) return;            // apply_fields() has
  const float pull = float(-world.gravity * dt);
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    for (int c = 0; c < block_cells; ++c)
      if (known_[1].block(b)[c]) s.v.block(b)[c] += pull;
  });
}

void LiquidSolver::push_with_room(LiquidState& s, const LiquidWorld& world, double dt) {
  if (!world.room || !world.room->moves) return;
  const Inertia in = inertia_of(*world.room, world.gravity);
  // Coriolis's force turns a velocity, which it leaves as large as it is.
  const double angle = -2 * length(in.spin) * dt;
  const Vec3d axis = angle != 0 ? normalized(in.spin) : Vec3d{};
  const double sine = std::sin(angle), cosine = std::cos(angle);
  Particles& p = s.particles;
  parallel_for(
      p.size(),
      [&](size_t n) {
        Vec3d at, v;
        for (size_t a = 0; a < 3; ++a)
          at[int(a)] = double(p.place[a][n]) * world.cell_size, v[int(a)] = double(p.velocity[a][n]);
        v += (in.pull + in.pull_by_place * at) * dt;
        v = v * cosine + cross(axis, v) * sine + axis * (dot(axis, v) * (1 - cosine));
        for (size_t a = 0; a < 3; ++a) p.velocity[a][n] = float(v[int(a)]);
      },
      4096);
}

namespace {

/// Marks cells on or next to a marked cell, from -1 to 8 along each axis; false if there are none.
bool spread_to(uint8_t (&near)[tile_cells], const Bytes& marks, const std::vector<uint8_t>& any,
               const int* around) {
  if (std::none_of(around, around + 27, [&](int b) { return any[size_t(b)]; })) return false;
  for (int z = -1, at = 0; z < 9; ++z)
    for (int y = -1; y < 9; ++y)
      for (int x = -1; x < 9; ++x)
        near[at++] = marks.block(around[((z >> 3) + 1) * 9 + ((y >> 3) + 1) * 3 + (x >> 3) +
                                        1])[((z & 7) * 8 + (y & 7)) * 8 + (x & 7)];
  uint8_t once[tile_cells];
  for (const int step : {1, 10, 100}) {
    std::copy_n(near, 1000, once);
    for (int i = step; i < 1000 - step; ++i) near[i] = once[i] | once[i - step] | once[i + step];
  }
  return true;
}

/// Open cells that are liquid and have no air on or beside them, in all directions: they are full, and what
/// is there of a level set shows by chance holes between particles.
Bytes full_cells(const LiquidState& s, std::vector<uint8_t>& any) {
  const BlockGrid& g = s.grid;
  const auto is_open = [&](int b, int c) {
    const uint8_t v = s.geometry.volume.block(b)[c];
    return v != 0 && v != outside_volume;
  };
  Bytes air(g.size()), full(g.size());
  std::vector<uint8_t> has_air(size_t(g.size()), 0);
  std::fill_n(air.block(outside_open), block_cells, uint8_t(1)), has_air[outside_open] = 1;
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    for (int c = 0; c < block_cells; ++c) {
      const bool here =
          s.geometry.volume.block(b)[c] == outside_volume || (is_open(b, c) && s.surface.block(b)[c] >= 0);
      air.block(b)[c] = here, has_air[size_t(b)] |= here;
    }
  });
  any.assign(size_t(g.size()), 0);
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    uint8_t near[tile_cells];
    const bool airy = spread_to(near, air, has_air, g.around(b));
    for (int c = 0; c < block_cells; ++c) {
      const bool here = is_open(b, c) && !(airy && near[in_tile(c)]);
      full.block(b)[c] = here, any[size_t(b)] |= here;
    }
  });
  return full;
}

Filled filled(const LiquidState& s, const ParticleCells& particles) {
  const BlockGrid& g = s.grid;
  if (s.surface.size() != g.size()) return {};
  std::vector<uint8_t> has_full;
  const Bytes full = full_cells(s, has_full);
  return ordered_sum<Filled>(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = g.around(b);
    Filled f;
    uint8_t near[tile_cells];
    const bool any = spread_to(near, full, has_full, around);
    if (!any && particles.begin(b, 0) == particles.end(b, block_cells - 1)) return f;
    for (int c = 0; c < block_cells; ++c) {
      const uint8_t v = s.geometry.volume.block(b)[c];
      if (v == 0 || v == outside_volume) continue;
      if (!any || !near[in_tile(c)]) {
        f.drops += particles.count(b, c) / 8.0;
        continue;
      }
      const double part = full.block(b)[c] ? 1 : std::clamp(0.5 - double(s.surface.block(b)[c]), 0.0, 1.0);
      f.volume += part * v / full_volume, f.cells += part > 0.5;
    }
    return f;
  });
}

}  // namespace

void LiquidSolver::keep_books(LiquidState& s, const LiquidWorld& world, Ledger& ledger) const {
  s.filled = filled(s, cells_);
  ledger.in_shot = (s.filled.volume + s.filled.drops) * std::pow(world.cell_size, 3);
  ledger.numeric = ledger.in_shot - (ledger.poured - ledger.left - ledger.drained - ledger.decayed);
}

LiquidReport LiquidSolver::step(LiquidState& s, const LiquidWorld& world, double dt, Ledger& ledger) {
  LiquidReport report;
  const auto asks_for_room = [](const Source& source) { return !source.mouth[0]; };
  if (std::any_of(world.sources.begin(), world.sources.end(), asks_for_room)) update_region(s, world, dt);
  pour(s, world, dt, ledger);
  update_region(s, world, dt);
  if (let_through(s, world)) update_region(s, world, dt);
  mix_colors(s, world, dt);
  push_with_room(s, world, dt);
  share_out(s, world);
  apply_fields(s, world, dt);
  gather(s);
  find_inflow(s, world, dt);
  keep_books(s, world, ledger);
  keep_before(s, world);
  if (s.particles.size()) {
    apply_forces(s, world, dt);
    find_tension(s, world, dt);
    throw_back(s, world, dt);
    open_holes(s, world, dt);
    report = project(s, world);
    pull_.resize(0);
    // Viscosity acts on a divergence-free velocity; otherwise it would resist the expansion.
    if (apply_viscosity(s, world, dt)) {
      const int before = report.solver_iterations;
      report = project(s, world), report.solver_iterations += before;
    }
    part_crowds(s, dt);
    let_lines_go(s);
    extrapolate(s);
    slide_along_solids(s, world, dt);
    free_jets(s, world);
    const auto gone = [&] { return ledger.left + ledger.drained + ledger.decayed; };
    const double before = gone();
    advect(s, world, dt, ledger);
    hold_back(s, world);
    ledger.in_shot -= gone() - before;
  }
  s.time += dt;
  return report;
}

/// The fastest waves that find_tension() sees swing with ω = 0.45 √(σ / (ρ h³)): shorter ones are smoothed
/// away. Steps of about a third of 1 / ω follow them; thick liquids slow them down (Galusinski & Vigneaux
/// 2008).
double longest_step_under_tension(const Matter& m, double h) {
  constexpr double fast = 100;  // 1/s, at which what thins is still as thick as this
  const double viscous = 0.5 * m.viscosity * std::pow(fast, m.exponent - 1) * h / m.tension;
  const double free = 0.8 * std::sqrt(m.density * std::pow(h, 3) / m.tension);
  return 0.5 * (viscous + std::sqrt(viscous * viscous + 4 * free * free));
}

double longest_step(const LiquidState& s, const LiquidWorld& world, double courant, double longest) {
  double most = 0;
  for (const auto& v : s.particles.velocity)
    for (const float x : v) most = std::max(most, double(std::abs(x)));
  for (const Source& source : world.sources) most = std::max(most, source.speed() + length(source.motion));
  // speed · dt + gravity · dt² = courant · h
  const Field::Most fields = most_push(world.fields, bounds_of(world));
  const double g = (world.room ? most_pull(*world.room, world.gravity) : std::abs(world.gravity)) +
                   fields.acceleration,
               way = courant * world.cell_size;
  most = std::max(most, fields.speed);
  for (const Matter& m : world.liquids)
    if (m.tension > 0 && m.density > 0)
      longest = std::min(longest, longest_step_under_tension(m, world.cell_size));
  if (most == 0 && g == 0) return longest;
  // The shortest waves swing with ω² = π g / h; in steps longer than about 1 / ω they would be driven, not
  // damped.
  if (g > 0) longest = std::min(longest, 0.5 * std::sqrt(world.cell_size / g));
  return std::min(longest, 2 * way / (most + std::sqrt(most * most + 4 * g * way)));
}

LiquidMeasure measure(const LiquidState& s, double h) {
  LiquidMeasure m;
  m.volume = s.filled.volume * h * h * h, m.cells = s.filled.cells, m.drops = s.filled.drops * h * h * h;
  const Particles& p = s.particles;
  for (size_t n = 0; n < p.size(); ++n) {
    Vec3d at, v;
    for (size_t a = 0; a < 3; ++a) at[int(a)] = double(p.place[a][n]), v[int(a)] = double(p.velocity[a][n]);
    m.centroid += at;
    m.max_speed = std::max(m.max_speed, length(v));
    m.kinetic_energy += 0.5 * 1000 * particle_volume(h) * dot(v, v);
  }
  if (p.size()) m.centroid = m.centroid * (h / double(p.size()));
  return m;
}

}  // namespace pour
