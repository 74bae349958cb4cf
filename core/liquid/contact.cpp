// Contact of the surface with solids: contact angle and clinging.
//
// In solids the smoothed fill is continued so that its surface meets them at their contact angle (Ding &
// Spelt, Phys. Rev. E 75, 2007): where it does not, what bends there draws the liquid along. An edge whose
// angle is between the receding and the advancing one stays where it is, and nothing bends there (contact
// angle hysteresis): a drop clings until its weight makes it lean further than that (Furmidge 1962).
#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/parallel.h"
#include "liquid/liquid.h"
#include "liquid/looks.h"
#include "solve/cells.h"

namespace pour {
namespace {

constexpr float most_slanted = 5;  // cotangent of a contact angle
// Smoothing takes some of the slant of what wets and adds to that of what repels; measured on drops on a
// plate.
constexpr float wets_more = 1.22f, repels_less = 0.75f;
// Of the cotangent of the angle at which a surface really stands, so much is seen beside the solid, and so
// much more because it is round; measured on caps that have just been put down.
constexpr float seems = 1.2f, seems_more = 0.286f;
// An edge is seen steeper and flatter by chance from step to step; let go each time, it would creep. It stays
// until it is beyond both cotangents by this part of what is between them; measured on drops on a tilted
// plate, which begin to slide where Furmidge says.
constexpr float by_chance = 0.25f;

/// Corrected cotangent that yields the wanted contact angle.
float corrected(float cotangent) {
  return std::clamp(cotangent * (cotangent > 0 ? wets_more : repels_less), -most_slanted, most_slanted);
}

/// At which an edge is continued whose angle has the cotangent `now`. One that clings would be as it is, but
/// drifts then; drawn half of the way to the middle of both angles, it stays.
float held_slant(float now, float advancing, float receding) {
  if (now <= advancing) return advancing;
  if (now >= receding) return receding;
  const float middle = (advancing + receding) / 2;
  return middle + 0.5f * (now - middle);
}

/// Whether the edge of the surface is where so much is filled.
bool is_at_line(float fill) { return fill > 0.01f && fill < 0.99f; }

/// The cosine of the angle, in the liquid, between a solid and a surface across this slope of the fill.
float cosine(const Vec3f& slope, const Vec3f& out) {
  return -dot(slope, out) / std::max(length(slope), 1e-3f);
}

/// The cotangent of the angle at which the surface stands on a solid, seen from a place that is `far` cells
/// from it and so much filled.
float cotangent(const Looks& looks, const Vec3f& place, const Vec3f& out, float far, float fill) {
  constexpr float furthest = 2.5f;  // cells
  const Vec3f slope = looks.slope(place), level = slope - out * dot(slope, out);
  const float steep = std::max(length(level), 1e-3f);
  const Vec3f edge = place + level * (std::clamp((0.5f - fill) / steep, -furthest, furthest) / steep);
  // The cosine goes evenly with the height where the surface is round.
  const float here = cosine(looks.slope(edge), out), further = cosine(looks.slope(edge + out), out);
  const float c = std::clamp(here - far * (further - here), -0.99f, 0.99f);
  return (c / std::sqrt(1 - c * c) - seems_more) / seems;
}

}  // namespace

bool LiquidSolver::is_wall(uint8_t volume) { return volume <= full_volume / 2; }

std::vector<LiquidSolver::WallCell> LiquidSolver::wall_cells_of(const LiquidState& s,
                                                                const LiquidWorld& world, int b,
                                                                double dt) const {
  constexpr double deepest = 3, least_look = 1.5;  // cells
  const double h = world.cell_size;
  std::vector<WallCell> out;
  const NearSolids near(world.solids, h, s.grid.key(b).at * 8);
  for (int c = 0; c < block_cells; ++c) {
    if (!is_wall(s.geometry.volume.block(b)[c])) continue;
    const Vec3d p = cell_middle(s.grid, b, c, h);
    const Solid* solid = near.empty() ? nullptr : near.nearest(p, deepest * h);
    double depth = solid ? -near.distance(p, deepest * h) : 0;
    Vec3d away;
    if (solid) {
      if (depth > deepest * h) continue;
      away = near.away(p, 0.25 * h);
    } else {
      for (int a = 0; a < 3; ++a)
        if (const double beyond = p[a] - (world.low[a] + world.cells[a]) * h; beyond > 0)
          away = {}, away[a] = -1, depth = beyond;
    }
    if (dot(away, away) < 0.5) continue;
    const double way = std::max(0.0, depth) + std::max(least_look * h, depth);
    WallCell w{.cell = c,
               .look = to<float>((p + away * way) / h),
               .out = to<float>(away),
               .way = float(way / h),
               .far = float((way - std::max(0.0, depth)) / h)};
    if (solid && solid->contact_angle > 0) {
      const double advancing = solid->contact_angle,
                   receding = solid->clings() ? solid->receding_angle : advancing;
      w.advancing = float(1 / std::tan(advancing)), w.receding = float(1 / std::tan(receding));
      w.cling = float(std::cos(receding) - std::cos(advancing));
      w.held = to<float>(solid->velocity(p, dt));
    }
    w.is_skin = depth < h;
    out.push_back(w);
    find_corners(out.back(), s, b);
  }
  return out;
}

void LiquidSolver::find_corners(WallCell& w, const LiquidState& s, int b) {
  const Vec3i origin = s.grid.key(b).at * 8;
  float all = 0;
  for (int q = 0; q < 8; ++q) {
    int at[3], block = 0;
    float weight = 1;
    for (int a = 0; a < 3; ++a) {
      const float x = w.look[a] - 0.5f, low = std::floor(x), part = x - low;
      at[a] = int(low) + (q >> a & 1) - origin[a];
      weight *= q >> a & 1 ? part : 1 - part;
      constexpr int steps[3] = {1, 3, 9};
      block += (std::clamp(at[a] >> 3, -1, 1) + 1) * steps[a];
    }
    const int cell = ((at[2] & 7) * 8 + (at[1] & 7)) * 8 + (at[0] & 7), from = s.grid.around(b)[block];
    if (from >= first_block && is_wall(s.geometry.volume.block(from)[cell])) weight = 0;
    w.corners[q] = {uint8_t(block), uint16_t(cell), weight};
    all += weight;
  }
  for (WallCell::Corner& c : w.corners) c.weight = all > 0 ? c.weight / all : 0;
}

void LiquidSolver::continue_into_walls(const LiquidState& s, const LiquidWorld& world,
                                       const std::vector<int>& blocks, const BlockTable& table, double dt,
                                       Walls mode, Floats& fill) {
  const Looks looks{fill, s.geometry.volume, table};
  parallel_for(blocks.size(), [&](size_t i) {
    const int b = blocks[i];
    if (!near_wall_[size_t(b)]) return;
    const int* around = s.grid.around(b);
    NearWall& wall = walls_[size_t(b - first_block)];
    if (!wall.cells_known) wall.cells = wall_cells_of(s, world, b, dt), wall.cells_known = true;
    for (const WallCell& cell : wall.cells) {
      float value = cell.read(fill, around);
      if (is_at_line(value) && (cell.advancing != 0 || cell.cling > 0)) {
        const Vec3f slope = looks.slope(cell.look);
        const float rise = -dot(slope, cell.out), along = length(slope + cell.out * rise);
        float slant = cell.advancing;
        if (cell.cling > 0) slant = held_slant(cell.now, slant, cell.receding);
        const bool as_it_is = mode == Walls::as_it_is;
        value = std::clamp(value + cell.way * (as_it_is ? rise : corrected(slant) * along), 0.f, 1.f);
      }
      fill.block(b)[cell.cell] = value;
    }
  });
}

bool LiquidSolver::find_slants(const LiquidState& s, const LiquidWorld& world, const std::vector<int>& blocks,
                               const BlockTable& table, double dt) {
  if (std::none_of(world.solids.begin(), world.solids.end(), [](const Solid& b) { return b.clings(); }))
    return false;
  const Floats fill = smooth_fill(s, world, blocks, table, dt, Walls::as_it_is);
  const Looks looks{fill, s.geometry.volume, table};
  constexpr float thick_enough = 0.15f;  // what is thinner is drawn along, not left behind
  parallel_for(blocks.size(), [&](size_t i) {
    if (!near_wall_[size_t(blocks[i])]) return;
    for (WallCell& w : walls_[size_t(blocks[i] - first_block)].cells) {
      w.clings = w.crumb = false;
      if (w.cling <= 0) continue;
      w.now = (w.advancing + w.receding) / 2;
      const float value = w.read(fill, s.grid.around(blocks[i]));
      if (!is_at_line(value)) continue;
      w.now = cotangent(looks, w.look, w.out, w.far, value);
      const float beyond = by_chance * (w.receding - w.advancing);
      w.clings =
          w.is_skin && value > thick_enough && w.now > w.advancing - beyond && w.now < w.receding + beyond;
      w.crumb = w.is_skin && value <= thick_enough;
    }
  });
  return true;
}

/// Whether what is in and around a cell is so small that its edge holds it (Furmidge 1962): m g ≤ σ w (cos θr
/// - cos θa) with the width w of a ball; `pull` is σ (cos θr - cos θa) / ρ.
bool LiquidSolver::stays_by_itself(const LiquidState& s, int block, int c, const LiquidWorld& world,
                                   double pull) const {
  const Vec3i at = s.grid.key(block).at * 8 + Vec3i{c & 7, c >> 3 & 7, c >> 6};
  const int* around = s.grid.around(block);
  uint32_t particles = 0;
  for (int n = 0; n < 27; ++n) {
    const Vec3i p{(at.x & 7) + n % 3 - 1, (at.y & 7) + n / 3 % 3 - 1, (at.z & 7) + n / 9 - 1};
    const int b = around[((p.z >> 3) + 1) * 9 + ((p.y >> 3) + 1) * 3 + (p.x >> 3) + 1];
    if (b >= first_block) particles += cells_.count(b, ((p.z & 7) * 8 + (p.y & 7)) * 8 + (p.x & 7));
  }
  const double volume = particles / 8.0 * std::pow(world.cell_size, 3);
  return particles && volume * std::abs(world.gravity) <= pull * std::cbrt(6 * volume / std::numbers::pi);
}

void LiquidSolver::hold_lines(LiquidState& s, const LiquidWorld& world, const std::vector<int>& blocks,
                              const BlockTable& table) {
  struct Line {
    int block, cell;
    Vec3f held;
  };
  double density = 0;
  for (const Matter& m : world.liquids) density = std::max(density, m.density);
  std::vector<std::vector<Line>> found(blocks.size());
  parallel_for(blocks.size(), [&](size_t i) {
    const int b = blocks[i];
    if (!near_wall_[size_t(b)]) return;
    for (const WallCell& w : walls_[size_t(b - first_block)].cells) {
      if (!w.clings && !w.crumb) continue;
      const Vec3f beside = to<float>(cell_middle(s.grid, b, w.cell, 1)) + w.out;
      Vec3i at;
      for (int a = 0; a < 3; ++a) at[a] = int(std::floor(beside[a]));
      const int nb = table.find({at.x >> 3, at.y >> 3, at.z >> 3});
      const int c = ((at.z & 7) * 8 + (at.y & 7)) * 8 + (at.x & 7);
      if (nb < 0 || is_wall(s.geometry.volume.block(nb)[c])) continue;
      // Fast liquid cannot be held.
      const Vec3f v = cell_velocity(s, nb, c) - w.held;
      const double tension = tension_of(s, world, nb, c);
      const float most = float(2 * tension / (density * world.cell_size));
      if (dot(v, v) >= most * w.cling) continue;
      if (w.crumb && !stays_by_itself(s, nb, c, world, tension * w.cling / density)) continue;
      found[i].push_back({nb, c, w.held});
      // Includes the liquid between it and the solid.
      if (s.geometry.volume.block(b)[w.cell]) found[i].push_back({b, w.cell, w.held});
    }
  });
  const bool moving = carried_[0].size() == s.grid.size();
  holds_.resize(s.grid.size());
  Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  for (const auto& lines : found)
    for (const Line& line : lines) {
      holds_.block(line.block)[line.cell] = 1;
      for (int a = 0; a < 3; ++a)
        for (const size_t n : {size_t(line.block) * block_cells + size_t(line.cell),
                               after(s.grid.around(line.block), line.block, line.cell, a)}) {
          uint8_t& open = face[a]->data()[n];
          if (n < size_t(first_block) * block_cells || !open) continue;
          held_.push_back({a, n, open, line.held[a]});
          open = 0;
          if (moving) carried_[a].data()[n] = line.held[a];
        }
    }
}

void LiquidSolver::let_lines_go(LiquidState& s) {
  Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  for (const HeldFace& f : held_) {
    face[f.axis]->data()[f.face] = f.open;
    velocity[f.axis]->data()[f.face] = f.velocity, known_[f.axis].data()[f.face] = 1;
  }
  held_.clear();
}

Vec3f LiquidSolver::cell_velocity(const LiquidState& s, int b, int c) {
  const Floats* velocity[3] = {&s.u, &s.v, &s.w};
  Vec3f v;
  for (int a = 0; a < 3; ++a)
    v[a] = 0.5f * (velocity[a]->block(b)[c] + velocity[a]->data()[after(s.grid.around(b), b, c, a)]);
  return v;
}

}  // namespace pour
