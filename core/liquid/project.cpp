// The pressure under the surface, and the velocity above it.
#include <algorithm>
#include <cmath>
#include <map>
#include <optional>

#include "base/parallel.h"
#include "liquid/liquid.h"
#include "solve/cells.h"

namespace pour {
namespace {

constexpr float least_part = 0.05f;  // of a cell between liquid and surface: less only makes the system stiff
constexpr int carried_on = 3;        // cells into the air
constexpr int sides[6] = {x_minus, x_plus, y_minus, y_plus, z_minus, z_plus};

/// Which cells are liquid, and where the surface is between them and air.
struct Inside {
  const LiquidState& s;
  const Bytes* torn = nullptr;   // cells that count as air
  const Floats* pull = nullptr;  // what the surface adds to the pressure

  bool liquid(int b, int c) const { return s.is_liquid(b, c) && !is_torn(b, c); }
  bool is_torn(int b, int c) const { return torn && torn->size() == s.grid.size() && torn->block(b)[c]; }
  bool is_torn(size_t n) const { return is_torn(int(n / block_cells), int(n % block_cells)); }
  bool liquid(size_t n) const { return liquid(int(n / block_cells), int(n % block_cells)); }
  /// Of a face between liquid and air, how much of the way lies in the liquid.
  float part(size_t in, size_t out) const {
    const float inner = s.surface.data()[in];
    const float outer = out < size_t(first_block) * block_cells ? 0.5f : std::max(s.surface.data()[out], 0.f);
    return std::clamp(inner / (inner - outer), least_part, 1.f);
  }
  /// The pressure at the surface between them.
  float at_surface(size_t in, size_t out) const {
    if (!pull || pull->size() != s.grid.size()) return 0;
    const float inner = pull->data()[in];
    return out < size_t(first_block) * block_cells ? inner
                                                   : inner + part(in, out) * (pull->data()[out] - inner);
  }
  /// How far p rises from cell m to cell n, of which at least one is liquid.
  float step(const Floats& p, size_t n, size_t m, bool here, bool below) const {
    if (here && below) return p.data()[n] - p.data()[m];
    return here ? (p.data()[n] - at_surface(n, m)) / part(n, m)
                : (at_surface(m, n) - p.data()[m]) / part(m, n);
  }
};

/// Takes from each closed space that is full what it can't give, evenly over it. Returns how much of it, by
/// pocket.
std::vector<double> spread_evenly(const BlockGrid& g, const Pockets& pockets, Floats& rhs) {
  std::vector<double> excess(pockets.pockets.size(), 0);
  for (int b = first_block; b < g.size(); ++b)
    for (int c = 0; c < block_cells; ++c)
      if (const int k = pockets.at(b, c); k >= 0 && !pockets.pockets[size_t(k)].anchored)
        excess[size_t(k)] += double(rhs.block(b)[c]);
  for (size_t k = 0; k < excess.size(); ++k)
    if (!pockets.pockets[k].anchored) excess[k] /= pockets.pockets[k].cells;
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    for (int c = 0; c < block_cells; ++c) {
      const int k = pockets.at(b, c);
      rhs.block(b)[c] = k < 0 ? 0 : rhs.block(b)[c] - float(excess[size_t(k)]);
    }
  });
  return excess;
}

}  // namespace

void LiquidSolver::make_system(const LiquidState& s, double cell_size) {
  const BlockGrid& g = s.grid;
  const Inside inside{s, &torn_};
  weights_.resize(g.size());
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  Bytes* weight[3] = {&weights_.x, &weights_.y, &weights_.z};
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = g.around(b);
    for (int c = 0; c < block_cells; ++c) {
      const size_t n = size_t(b) * block_cells + size_t(c);
      const bool here = inside.liquid(b, c);
      for (int a = 0; a < 3; ++a) {
        const size_t m = before(around, b, c, a), p = after(around, b, c, a);
        const uint8_t low = face[a]->data()[n], high = face[a]->data()[p];
        const bool below = inside.liquid(m), above = inside.liquid(p);
        weight[a]->data()[n] = here && below ? low : 0;
        if (!here) continue;
        if (!below && low) weights_.anchor.data()[n] += float(low) / inside.part(n, m);
        if (!above && high) weights_.anchor.data()[n] += float(high) / inside.part(n, p);
      }
    }
  });
  for (const Opening& o : openings_) add_to_system(o, cell_size);
  poisson_.set(g, weights_);
}

float LiquidSolver::outflow(const LiquidState& s, int b, int c) const {
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  const Floats* velocity[3] = {&s.u, &s.v, &s.w};
  const bool moving = carried_[0].size() == s.grid.size(), inflow = inflow_.size() == s.grid.size();
  const int* around = s.grid.around(b);
  float out = 0;
  for (int a = 0; a < 3; ++a) {
    const size_t next = after(around, b, c, a), here = size_t(b) * block_cells + size_t(c);
    out +=
        face[a]->data()[next] * velocity[a]->data()[next] - face[a]->data()[here] * velocity[a]->data()[here];
    if (moving)  // what the solid part of each face carries through it
      out += (255 - face[a]->data()[next]) * carried_[a].data()[next] -
             (255 - face[a]->data()[here]) * carried_[a].data()[here];
  }
  return out / 255 - (inflow ? inflow_.block(b)[c] : 0);
}

LiquidReport LiquidSolver::find_pressure(LiquidState& s, const LiquidWorld& world,
                                         std::vector<double>& excess) {
  const BlockGrid& g = s.grid;
  const Inside inside{s, &torn_, &pull_};
  if (s.pressure.size() != g.size()) s.pressure.resize(g.size());
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  make_system(s, world.cell_size);
  Floats rhs(g.size());
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = g.around(b);
    for (int c = 0; c < block_cells; ++c) {
      if (!inside.liquid(b, c)) {
        s.pressure.block(b)[c] = 0;
        continue;
      }
      const size_t n = size_t(b) * block_cells + size_t(c);
      float from_surface = 0;
      for (int a = 0; a < 3; ++a) {
        const size_t m = before(around, b, c, a), p = after(around, b, c, a);
        const uint8_t low = face[a]->data()[n], high = face[a]->data()[p];
        if (low && !inside.liquid(m)) from_surface += low * inside.at_surface(n, m) / inside.part(n, m);
        if (high && !inside.liquid(p)) from_surface += high * inside.at_surface(n, p) / inside.part(n, p);
      }
      rhs.block(b)[c] = from_surface / 255 - outflow(s, b, c);
    }
  });
  for (const Opening& o : openings_) add_to_outflow(o, world.cell_size, rhs);
  excess = spread_evenly(g, poisson_.pockets(), rhs);
  const SolveReport solved = poisson_.solve(rhs, s.pressure, 1e-5);
  return {.solver_iterations = solved.iterations, .solver_residual = solved.relative_residual};
}

bool LiquidSolver::tear(const LiquidState& s, const LiquidWorld& world) {
  // A tension that changes velocities by less than this in a step is noise of the solve.
  constexpr float least = 1e-3f;  // m/s · cell
  const auto is_set = [](uint8_t opens) { return opens; };
  if (std::none_of(world.opens.begin(), world.opens.end(), is_set)) return false;
  const BlockGrid& g = s.grid;
  if (torn_.size() != g.size()) torn_.resize(g.size());
  const bool all = std::all_of(world.opens.begin(), world.opens.end(), is_set);
  std::vector<uint8_t> more(size_t(g.blocks()), 0);
  parallel_for(more.size(), [&](size_t i) {
    const int b = int(i) + first_block;
    for (int c = 0; c < block_cells; ++c) {
      if (s.pressure.block(b)[c] >= -least) continue;
      const uint32_t first = cells_.begin(b, c);
      if (!(cells_.count(b, c) ? world.opens[s.particles.liquid[first]] : all)) continue;
      torn_.block(b)[c] = more[i] = 1;
    }
  });
  return std::any_of(more.begin(), more.end(), is_set);
}

void LiquidSolver::apply_pressure(LiquidState& s) {
  const BlockGrid& g = s.grid;
  const Inside inside{s, &torn_, &pull_};
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  const bool moving = carried_[0].size() == g.size();
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = g.around(b);
    for (int a = 0; a < 3; ++a)
      for (int c = 0; c < block_cells; ++c) {
        const size_t n = size_t(b) * block_cells + size_t(c), m = before(around, b, c, a);
        const bool here = inside.liquid(b, c), below = inside.liquid(m);
        float& v = velocity[a]->data()[n];
        if (!face[a]->data()[n])
          v = moving ? carried_[a].data()[n] : 0;
        else if (here || below)
          v -= inside.step(s.pressure, n, m, here, below);
        // Faces that no liquid touches are carried on from those that it does.
        known_[a].data()[n] = (here || below || inside.is_torn(n) || inside.is_torn(m)) && face[a]->data()[n];
      }
  });
}

LiquidReport LiquidSolver::project(LiquidState& s, const LiquidWorld& world) {
  constexpr int most_tears = 4;  // each adds the cells that the last one left without support
  torn_.resize(0);
  part_jets(s, world);
  std::vector<double> excess;
  LiquidReport report = find_pressure(s, world, excess);
  for (int k = 0; k < most_tears && tear(s, world); ++k) {
    const int before = report.solver_iterations;
    report = find_pressure(s, world, excess), report.solver_iterations += before;
  }
  apply_pressure(s);
  close_holes(s, world);
  const Pockets& pockets = poisson_.pockets();
  std::vector<float> most(size_t(s.grid.blocks()), 0);
  parallel_for(most.size(), [&](size_t i) {
    const int b = int(i) + first_block;
    for (int c = 0; c < block_cells; ++c)
      if (const int k = pockets.at(b, c); k >= 0)
        most[i] = std::max(most[i], std::abs(outflow(s, b, c) + float(excess[size_t(k)])));
  });
  for (const float m : most)
    report.max_divergence = std::max(report.max_divergence, double(m) / world.cell_size);
  return report;
}

namespace {

constexpr float low_crowd = -0.3f, high_crowd = 1;  // of the particles that fill a space

float beyond(float x, float usual) { return x - std::clamp(x, -usual, usual); }

/// How crowded a block's cells and those beside them are.
struct Crowds {
  float crowd[tile_cells];
  bool whole[tile_cells];  // liquid, and no part of it solid

  Crowds(const LiquidState& s, const int* around) {
    const Inside inside{s};
    for (int z = -1, at = 0; z < 9; ++z)
      for (int y = -1; y < 9; ++y)
        for (int x = -1; x < 9; ++x, ++at) {
          const int b = around[((z >> 3) + 1) * 9 + ((y >> 3) + 1) * 3 + (x >> 3) + 1],
                    c = ((z & 7) * 8 + (y & 7)) * 8 + (x & 7);
          whole[at] = inside.liquid(b, c) && s.geometry.volume.block(b)[c] == full_volume;
          crowd[at] = whole[at] ? std::clamp(s.crowd.block(b)[c], low_crowd, high_crowd) : 0;
        }
  }
  /// Of a cell and its 26 neighbours, one, two and one parts along each axis, where all of them are whole;
  /// else 0.
  float mean(int c) const {
    const int at = in_tile(c);
    float sum = 0;
    for (int n = 0; n < 27; ++n) {
      const int x = n % 3 - 1, y = n / 3 % 3 - 1, z = n / 9 - 1, m = at + x + 10 * y + 100 * z;
      if (!whole[m]) return 0;
      sum += float((2 - x * x) * (2 - y * y) * (2 - z * z)) * crowd[m];
    }
    return sum / 64;
  }
};

/// By how much its particles are more (above 0) or fewer than fill the space within its surface.
float looseness(const LiquidState& s) {
  if (s.filled.cells < 1) return 0;
  return float((double(s.particles.size()) / 8 - s.filled.volume - s.filled.drops) / s.filled.volume);
}

}  // namespace

void LiquidSolver::part_crowds(const LiquidState& s, double dt) {
  constexpr double settling = 0.01;  // s, in which a crowd is down to 1/e
  // More or fewer are everywhere, the more so the less room a cell has: where each chance crowd in the corner
  // of a vessel was pushed out of it, narrow ones stirred themselves. A mean over many cells away from walls
  // is less by chance; what is splashed about would else stay looser by a few parts in a hundred.
  const auto usual = [](float room) { return 0.1f + (1 - room); };
  constexpr float usual_mean = 0.05f;
  constexpr float farthest = 0.25f;  // that any goes, in cells
  const BlockGrid& g = s.grid;
  const Inside inside{s, &torn_};
  const float share = float(1 - std::exp(-dt / settling));
  // Where strokes are a few cells wide, nearly all cells lie beside walls or the surface, and what they let
  // pass adds up: all of the liquid together closes up, too, until its surface holds what its particles are.
  // What would part or close up the other way has to wait meanwhile.
  constexpr double settling_of_all = 0.005;  // s
  constexpr float usual_of_all = 0.001f, most_of_all = 0.1f, much = 0.01f;
  const float loose = std::clamp(beyond(looseness(s), usual_of_all), -most_of_all, most_of_all);
  const float all = loose * float(1 - std::exp(-dt / settling_of_all));
  const float against = 1 - std::min(1.f, std::abs(loose) / much);
  Floats rhs(g.size());
  std::vector<float> most(size_t(g.blocks()), 0);
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = g.around(b);
    std::optional<Crowds> crowds;
    for (int c = 0; c < block_cells; ++c) {
      if (!inside.liquid(b, c)) continue;
      if (!crowds) crowds.emplace(s, around);
      // Beside the surface there are fewer, as there should be.
      bool deep = true;
      for (int a = 0; a < 3; ++a)
        for (const size_t n : {before(around, b, c, a), after(around, b, c, a)})
          deep = deep && s.surface.data()[n] < 0;
      const float room = float(s.geometry.volume.block(b)[c]) / full_volume,
                  here = std::clamp(s.crowd.block(b)[c], deep ? low_crowd : 0.f, high_crowd),
                  mean = beyond(crowds->mean(c), usual_mean);
      float crowd = beyond(here, usual(room));
      if (std::abs(mean) > std::abs(crowd)) crowd = mean;
      if (crowd * loose < 0) crowd *= against;
      rhs.block(b)[c] = (crowd * share + all) * room;
      most[i] = std::max({most[i], std::abs(crowd), std::abs(all)});
    }
  });
  for (Floats& f : shift_) f.resize(0);
  if (*std::max_element(most.begin(), most.end()) == 0) return;
  spread_evenly(g, poisson_.pockets(), rhs);
  Floats push(g.size());
  poisson_.solve(rhs, push, 0.05, 8);
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  for (Floats& f : shift_) f.resize(g.size());
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = g.around(b);
    for (int a = 0; a < 3; ++a)
      for (int c = 0; c < block_cells; ++c) {
        const size_t n = size_t(b) * block_cells + size_t(c), m = before(around, b, c, a);
        const bool here = inside.liquid(b, c), below = inside.liquid(m);
        if (face[a]->data()[n] && (here || below))
          shift_[a].data()[n] = -std::clamp(inside.step(push, n, m, here, below), -farthest, farthest);
      }
  });
}

void LiquidSolver::extrapolate(LiquidState& s) const {
  const BlockGrid& g = s.grid;
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  struct Reached {
    uint32_t face;
    float value;
  };
  std::vector<std::vector<Reached>> reached(size_t(g.blocks()));
  for (int k = 0; k < 3; ++k) {
    Bytes known = known_[k];
    std::vector<uint8_t> any(size_t(g.size()), 0);  // by block: something in it is known
    for (int pass = 0; pass < carried_on; ++pass) {
      parallel_for(reached.size(), [&](size_t i) {
        const uint8_t* here = known.block(int(i) + first_block);
        any[i + first_block] = std::any_of(here, here + block_cells, [](uint8_t x) { return x; });
      });
      parallel_for(reached.size(), [&](size_t i) {
        const int b = int(i) + first_block;
        const int* around = g.around(b);
        reached[i].clear();
        if (!any[size_t(b)] &&
            std::none_of(std::begin(sides), std::end(sides), [&](int n) { return any[size_t(around[n])]; }))
          return;
        for (int c = 0; c < block_cells; ++c) {
          if (known.block(b)[c]) continue;
          float sum = 0;
          int count = 0;
          for (int a = 0; a < 3; ++a)
            for (const size_t n : {before(around, b, c, a), after(around, b, c, a)})
              if (known.data()[n]) sum += velocity[k]->data()[n], ++count;
          if (count) reached[i].push_back({uint32_t(c), sum / float(count)});
        }
      });
      parallel_for(reached.size(), [&](size_t i) {
        const int b = int(i) + first_block;
        for (const Reached& r : reached[i])
          velocity[k]->block(b)[r.face] = r.value, known.block(b)[r.face] = 1;
      });
    }
  }
}

std::vector<LiquidSolver::Contact> LiquidSolver::contacts_of(const LiquidState& s, const LiquidWorld& world,
                                                             int b, double dt) const {
  constexpr double reach = 2.5;  // cells into a solid: as far as particles beside it read
  const double h = world.cell_size;
  std::vector<Contact> out;
  const NearSolids near(world.solids, h, s.grid.key(b).at * 8);
  if (near.empty()) return out;
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  for (int a = 0; a < 3; ++a)
    for (int c = 0; c < block_cells; ++c) {
      if (face[a]->block(b)[c]) continue;
      const Vec3d p = face_middle(s.grid, b, c, a, h);
      const double d = near.distance(p, 2 * h);
      if (d < -reach * h || d > h) continue;
      const Solid* solid = near.nearest(p, 2 * h);
      if (!solid) continue;
      const Vec3d away = near.away(p, 0.25 * h);
      // What flows past meets its surface, which moves in another way than what is deeper in it where it
      // turns.
      out.push_back({a, c, to<float>(away), to<float>(solid->velocity(p - away * d, dt)),
                     float(1 - solid->friction), float(solid->bounce), float(1 - solid->stickiness)});
    }
  return out;
}

const std::vector<LiquidSolver::Contact>& LiquidSolver::contacts(const LiquidState& s,
                                                                 const LiquidWorld& world, int b, double dt) {
  NearWall& wall = walls_[size_t(b - first_block)];
  if (!wall.contacts_known) wall.contacts = contacts_of(s, world, b, dt), wall.contacts_known = true;
  return wall.contacts;
}

/// The velocity at a face in a solid, against that of the solid.
Vec3f LiquidSolver::beside(const LiquidState& s, int b, const Contact& f) {
  const BlockGrid& g = s.grid;
  const Floats* velocity[3] = {&s.u, &s.v, &s.w};
  // The other components stand at the edges of the two cells on either side.
  Vec3f v;
  const size_t here = size_t(b) * block_cells + size_t(f.face), m = before(g.around(b), b, f.face, f.axis);
  for (int k = 0; k < 3; ++k) {
    const auto mean = [&](size_t n) {
      const int nb = int(n / block_cells), nc = int(n % block_cells);
      if (nb < first_block) return 0.f;
      return 0.5f * (velocity[k]->data()[n] + velocity[k]->data()[after(g.around(nb), nb, nc, k)]);
    };
    v[k] = (k == f.axis ? velocity[k]->data()[here] : 0.5f * (mean(here) + mean(m))) - f.held[k];
  }
  return v;
}

void LiquidSolver::throw_back(LiquidState& s, const LiquidWorld& world, double dt) {
  const auto is_special = [](const Solid& b) { return b.bounce > 0 || b.stickiness < 1; };
  if (std::none_of(world.solids.begin(), world.solids.end(), is_special)) return;
  const BlockGrid& g = s.grid;
  walls_.resize(size_t(g.blocks()));
  if (carried_[0].size() != g.size())
    for (Floats& f : carried_) f.resize(g.size());
  // Liquid at rest does not hit.
  const float least = float(0.05 + 2 * std::abs(world.gravity) * dt);
  std::vector<std::vector<Contact*>> hits(walls_.size());
  parallel_for(walls_.size(), [&](size_t i) {
    const int b = int(i) + first_block;
    if (!near_wall_[size_t(b)]) return;
    (void)contacts(s, world, b, dt);
    for (Contact& f : walls_[i].contacts) {
      const size_t here = size_t(b) * block_cells + size_t(f.face);
      const float out = known_[f.axis].data()[here] ? dot(beside(s, b, f), f.out) : 0;
      f.thrown = std::max(out, 0.f) * f.lets_go;
      carried_[f.axis].data()[here] = f.held[f.axis] + f.thrown * f.out[f.axis];
      if (f.bounce > 0 && out < -least) hits[i].push_back(&f);
    }
  });
  throw_drops(s, hits);
}

/// A drop that hits is reversed as a whole; larger bodies spread.
void LiquidSolver::throw_drops(LiquidState& s, const std::vector<std::vector<Contact*>>& hits) {
  constexpr float deep = -0.4f;  // of the level set: there is liquid on all sides
  constexpr int drop = 2;        // cells, to all sides of the one that hits
  const BlockGrid& g = s.grid;
  const BlockTable table(g);
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  struct Turned {
    Vec3f out, held;
    float bounce;
  };
  std::map<size_t, Turned> cells;  // by their number
  const auto number = [&](const Vec3i& at) -> std::optional<size_t> {
    const int b = table.find({at.x >> 3, at.y >> 3, at.z >> 3});
    if (b < 0) return std::nullopt;
    return size_t(b) * block_cells + size_t(((at.z & 7) * 8 + (at.y & 7)) * 8 + (at.x & 7));
  };
  for (size_t i = 0; i < hits.size(); ++i)
    for (Contact* f : hits[i]) {
      Vec3i at = g.key(int(i) + first_block).at * 8 + Vec3i{f->face & 7, f->face >> 3 & 7, f->face >> 6};
      if (f->out[f->axis] < 0) --at[f->axis];
      bool is_drop = true;
      std::vector<size_t> around;
      constexpr int across = 2 * drop + 1;
      for (int n = 0; n < across * across * across && is_drop; ++n)
        if (const auto c = number(at + Vec3i{n % across, n / across % across, n / (across * across)} -
                                  Vec3i{drop, drop, drop})) {
          is_drop = s.surface.data()[*c] > deep;
          around.push_back(*c);
        }
      if (!is_drop) continue;
      for (const size_t c : around) cells.try_emplace(c, Turned{f->out, f->held, f->bounce});
      // Or the floor would hold it back.
      f->thrown = -f->bounce * dot(beside(s, int(i) + first_block, *f), f->out);
      carried_[f->axis].block(int(i) + first_block)[f->face] = f->held[f->axis] + f->thrown * f->out[f->axis];
    }
  std::map<std::pair<int, size_t>, std::pair<float, int>> change;  // of a face: sum, and of how many
  for (const auto& [c, t] : cells) {
    const int b = int(c / block_cells), n = int(c % block_cells);
    const float into = std::min(0.f, dot(cell_velocity(s, b, n) - t.held, t.out));
    for (int a = 0; a < 3; ++a)
      for (const size_t face : {c, after(g.around(b), b, n, a)}) {
        auto& [sum, count] = change[{a, face}];
        sum -= (1 + t.bounce) * into * t.out[a], ++count;
      }
  }
  for (const auto& [face, by] : change)
    if (face.second >= size_t(first_block) * block_cells)
      velocity[face.first]->data()[face.second] += by.first / float(by.second);
}

void LiquidSolver::slide_along_solids(LiquidState& s, const LiquidWorld& world, double dt) {
  const BlockGrid& g = s.grid;
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  std::vector<std::vector<float>> slid(size_t(g.blocks()));
  walls_.resize(slid.size());
  parallel_for(slid.size(), [&](size_t i) {
    const int b = int(i) + first_block;
    if (!near_wall_[size_t(b)]) return;
    for (const Contact& f : contacts(s, world, b, dt)) {
      const Vec3f v = beside(s, b, f);
      slid[i].push_back(f.held[f.axis] + f.slip * (v[f.axis] - dot(v, f.out) * f.out[f.axis]) +
                        f.thrown * f.out[f.axis]);
    }
  });
  parallel_for(slid.size(), [&](size_t i) {
    for (size_t n = 0; n < slid[i].size(); ++n) {
      const Contact& f = walls_[i].contacts[n];
      velocity[f.axis]->block(int(i) + first_block)[f.face] = slid[i][n];
    }
  });
}

}  // namespace pour
