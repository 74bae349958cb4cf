// Solids that move through the gas, and rooms that move with the gas in them.
#include <algorithm>
#include <array>
#include <cmath>

#include "base/parallel.h"
#include "gas/gas.h"
#include "solve/cells.h"
#include "solve/rows.h"
#include "world/inertia.h"
#include "world/near_solids.h"

namespace pour {

void GasSolver::move_solids(GasState& s, const GasWorld& world, double dt) {
  moved_.clear(), laid_open_.clear(), before_ = {};
  std::vector<Solid> solids = world.solids;
  for (const Room& r : world.rooms)
    solids.push_back(r.moves ? Solid(r.inside, r.from, r.to) : Solid(r.inside));
  const auto comes_on = [](const Solid& b) { return b.moves && b.farthest() > 0; };
  if (std::none_of(solids.begin(), solids.end(), comes_on)) return;
  solids_ = std::move(solids);
  std::vector<uint8_t> touched(size_t(s.grid.size()), 0);
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    touched[i + first_block] = is_moved_through(world, s.grid.key(int(i) + first_block));
  });
  for (int b = first_block; b < s.grid.size(); ++b)
    if (touched[size_t(b)]) moved_.push_back(b);
  if (moved_.empty()) return;
  CellGeometry& g = s.geometry;
  Bytes* parts[4] = {&g.volume, &g.fx, &g.fy, &g.fz};
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  const double h = world.cell_size;
  before_ = g.volume;
  // By block: whether its geometry changed, and whether any of it is or was closed.
  std::vector<uint8_t> changed(moved_.size(), 0), closed(moved_.size(), 0);
  parallel_for(moved_.size(), [&](size_t i) {
    const int b = moved_[i];
    std::array<std::array<uint8_t, block_cells>, 4> old;
    for (size_t k = 0; k < 4; ++k) std::copy_n(parts[k]->block(b), block_cells, old[k].begin());
    cut_block(g, world, s.grid.key(b), b);
    for (size_t k = 0; k < 4; ++k) {
      const uint8_t *now = parts[k]->block(b), whole = k ? 255 : full_volume;
      for (size_t c = 0; c < block_cells; ++c)
        changed[i] |= now[c] != old[k][c], closed[i] |= now[c] < whole || old[k][c] < whole;
    }
    if (!changed[i]) return;
    // Where a solid has just left, the gas follows it.
    const NearSolids near(solids_, h, s.grid.key(b).at * 8);
    for (int a = 0; a < 3; ++a)
      for (int c = 0; c < block_cells; ++c)
        if (parts[a + 1]->block(b)[c] && !old[size_t(a) + 1][size_t(c)])
          velocity[a]->block(b)[c] = float(near.velocity(face_middle(s.grid, b, c, a, h), 3 * h, dt)[a]);
  });
  std::vector<int> cut;
  // A block reads the faces of those behind it too.
  std::vector<uint8_t> has_wall(size_t(s.grid.size()), 0);
  for (size_t i = 0; i < moved_.size(); ++i) has_wall[size_t(moved_[i])] = closed[i];
  for (size_t i = 0; i < moved_.size(); ++i) {
    const int* around = s.grid.around(moved_[i]);
    if (has_wall[size_t(moved_[i])] || has_wall[size_t(around[x_plus])] || has_wall[size_t(around[y_plus])] ||
        has_wall[size_t(around[z_plus])])
      cut.push_back(moved_[i]);
    if (changed[i]) laid_open_.push_back(moved_[i]);
  }
  moved_ = std::move(cut);
  if (laid_open_.empty())
    before_ = {};
  else
    moved_from_ = s.geometry_id, s.geometry_id = next_geometry_id();
}

double GasSolver::sweep(const GasState& s, const GasWorld& world, double dt, Floats& wanted) const {
  const double h = world.cell_size;
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  return ordered_sum<double>(moved_.size(), [&](size_t i) {
    const int b = moved_[i];
    const int* around = s.grid.around(b);
    const NearSolids near(solids_, h, s.grid.key(b).at * 8);
    double inward = 0;  // of all solids into the gas, m³/s
    for (int a = 0; a < 3; ++a) {
      // Volume carried through the solid part of each face; each cell reads both of its faces.
      for (int c = 0; c < block_cells; ++c) {
        const uint8_t volume = s.geometry.volume.block(b)[c];
        const bool gas = volume && volume != outside_volume;
        const size_t next = after(around, b, c, a);
        const int open = face[a]->block(b)[c];
        if (!gas) continue;
        double out = 0;
        if (open < 255)
          out -= (255 - open) / 255.0 * near.velocity(face_middle(s.grid, b, c, a, h), h, dt)[a];
        const int open_next = next >= size_t(first_block) * block_cells ? face[a]->data()[next] : 255;
        if (open_next < 255) {
          Vec3d p = face_middle(s.grid, b, c, a, h);
          p[a] += h;
          out += (255 - open_next) / 255.0 * near.velocity(p, h, dt)[a];
        }
        if (out == 0) continue;
        wanted.block(b)[c] -= float(out * full_volume / (volume * h));
        inward -= out * h * h;
      }
    }
    return inward;
  });
}

void GasSolver::carry_solids_along(GasState& s, const GasWorld& world, double dt) const {
  const double h = world.cell_size;
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  parallel_for(moved_.size(), [&](size_t i) {
    const int b = moved_[i];
    const int* around = s.grid.around(b);
    const NearSolids near(solids_, h, s.grid.key(b).at * 8);
    for (int a = 0; a < 3; ++a)
      for (int c = 0; c < block_cells; ++c) {
        if (face[a]->block(b)[c]) continue;
        const auto gas = [](uint8_t v) { return v && v != outside_volume; };
        if (gas(s.geometry.volume.block(b)[c]) || gas(s.geometry.volume.data()[before(around, b, c, a)]))
          velocity[a]->block(b)[c] = float(near.velocity(face_middle(s.grid, b, c, a, h), h, dt)[a]);
      }
  });
}

double most_pull(const GasWorld& world) {
  double most = std::abs(world.gravity);
  for (const Room& r : world.rooms) most = std::max(most, most_pull(r, world.gravity));
  return most;
}

void GasSolver::push_rooms(GasState& s, const GasWorld& world, double dt) const {
  const float h = float(world.cell_size);
  bool turning = false;
  for (const Room& r : world.rooms) turning = turning || (r.moves && !(r.spin == Vec3d{}));
  const Floats u = turning ? s.u : Floats(), v = turning ? s.v : Floats(), w = turning ? s.w : Floats();
  std::vector<Inertia> inertia;
  for (const Room& r : world.rooms) inertia.push_back(inertia_of(r, world.gravity));
  const float by_heat = float(-0.5 * dt * world.heat_lift / air::temperature),
              by_density = float(-0.5 * dt * world.density_lift / air::density);
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const BlockKey& key = s.grid.key(b);
    if (!key.room || !world.rooms[size_t(key.room) - 1].moves) return;
    const Inertia& in = inertia[size_t(key.room) - 1];
    const int* around = s.grid.around(b);
    const Around<float> heat(s.heat, around, b), density(s.density, around, b);
    Floats* velocity[3] = {&s.u, &s.v, &s.w};
    const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
    const Vec3i at = key.at * 8;
    for (int a = 0; a < 3; ++a) {
      const Vec3d &m = in.pull_by_place.row[a], &n = in.push_by_place.row[a];
      for (int z = 0; z < 8; ++z) {
        const LatticePlane<float> t = heat.plane(z), d = density.plane(z);
        const float pz = (float(at.z + z) + (a == 2 ? 0.f : 0.5f)) * h;
        for (int y = 0; y < 8; ++y) {
          const auto mean = [&](const LatticePlane<float>& p) {
            return p.at(y) + (a == 0 ? p.left(y) : a == 1 ? p.below(y) : p.behind(y));
          };
          const float py = (float(at.y + y) + (a == 1 ? 0.f : 0.5f)) * h;
          const v8 px = (v8{0, 1, 2, 3, 4, 5, 6, 7} + (float(at.x) + (a == 0 ? 0.f : 0.5f))) * h;
          const v8 pull = float(m.x) * px + float(in.pull[a] + m.y * py + m.z * pz);
          v8 push = (float(n.x) * px + float(n.y * py + n.z * pz)) * float(dt);
          push += pull * (by_heat * mean(t) + by_density * mean(d));
          if (turning) {  // Coriolis: -2 ω × v, with the mean of the two faces on either side
            const LatticePlane<float> pu = Around<float>(u, around, b).plane(z),
                                      pv = Around<float>(v, around, b).plane(z),
                                      pw = Around<float>(w, around, b).plane(z);
            const float x = float(2 * dt * in.spin.x), yy = float(2 * dt * in.spin.y),
                        zz = float(2 * dt * in.spin.z);
            if (a == 0)
              push -= yy * 0.5f * (pw.left(y) + pw.before(y)) - zz * 0.5f * (pv.left(y) + pv.above(y));
            else if (a == 1)
              push -= zz * 0.5f * (pu.below(y) + pu.right(y)) - x * 0.5f * (pw.below(y) + pw.before(y));
            else
              push -= x * 0.5f * (pv.behind(y) + pv.above(y)) - yy * 0.5f * (pu.behind(y) + pu.right(y));
          }
          const int c = Around<float>::row(y, z);
          float* to = velocity[a]->block(b) + c;
          store(to, load(to) + choose(load(face[a]->block(b) + c) > splat(0), push, splat(0)));
        }
      }
    }
  });
}

}  // namespace pour
