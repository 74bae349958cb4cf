// Liquid that runs through holes finer than cells. In the pressure solve a hole is an opening into what lies
// behind the wall: the law of the orifice, made linear about the flow of the last step (Newton), adds to the
// diagonal of the cells in front of it. What flowed moves as particles to the other side.
#include <algorithm>
#include <cmath>

#include "liquid/liquid.h"
#include "liquid/scatter.h"
#include "solve/cells.h"

namespace pour {
namespace {

using Cell = LiquidSolver::Opening::Cell;

/// How far a hole reaches from its axis: over a cell at least, m.
double wide_of(const Hole& hole, double h) { return std::max(hole.spread(), 0.75 * h); }

/// f(block, cell) for each cell that may have a point this near to a place, m.
template <class F>
void each_cell_about(const BlockTable& table, const Vec3d& place, double reach, double h, const F& f) {
  Vec3i low, high;
  for (int a = 0; a < 3; ++a)
    low[a] = int(std::floor((place[a] - reach) / h)), high[a] = int(std::floor((place[a] + reach) / h));
  for (int z = low.z; z <= high.z; ++z)
    for (int y = low.y; y <= high.y; ++y)
      for (int x = low.x; x <= high.x; ++x)
        if (const int b = table.find({x >> 3, y >> 3, z >> 3}); b >= 0)
          f(b, ((z & 7) * 8 + (y & 7)) * 8 + (x & 7));
}

/// The cells, at least half open, in front of a hole's end, as far to the side as the hole is wide and `more`
/// beyond, m.
std::vector<Cell> cells_at(const LiquidState& s, const BlockTable& table, const Hole& hole, int side,
                           double h, double more = 0) {
  constexpr double behind = -0.6, before = 1.2;  // the end, in cells
  const Vec3d end = hole.end[side], out = hole.out(side);
  const double wide = wide_of(hole, h) + more;
  std::vector<Cell> cells;
  each_cell_about(table, end, wide + before * h, h, [&](int b, int c) {
    if (s.geometry.volume.block(b)[c] < full_volume / 2) return;
    const Vec3d off = cell_middle(s.grid, b, c, h) - end;
    const double along = dot(off, out);
    if (along > behind * h && along < before * h && length(off - out * along) < wide) cells.push_back({b, c});
  });
  return cells;
}

/// Those of them that hold liquid.
std::vector<Cell> liquid_at(const LiquidState& s, const BlockTable& table, const Hole& hole, int side,
                            double h) {
  std::vector<Cell> cells = cells_at(s, table, hole, side, h);
  std::erase_if(cells, [&](const Cell& c) { return !s.is_liquid(c.block, c.cell); });
  return cells;
}

/// Whether a hole ends in liquid, not in air or in a jet.
bool is_submerged(const LiquidState& s, const ParticleCells& particles, const BlockTable& table,
                  const Hole& hole, int side, double h) {
  constexpr double beside = 1.5;  // cells; most of them are empty around a jet
  size_t open = 0, liquid = 0;
  for (const auto& [b, c] : cells_at(s, table, hole, side, h, beside * h))
    if (s.geometry.volume.block(b)[c] == full_volume) ++open, liquid += particles.count(b, c) > 0;
  return open > 0 && 4 * liquid > 3 * open;
}

/// Moves particles out of a hole, as a jet at its end. Adds to `places` where each comes out.
void put_out(Particles& p, const std::vector<uint32_t>& which, const Hole& hole, int side, double speed,
             double each, double h, std::vector<Vec3d>& places) {
  const double area = hole.discharge * hole.area(), wide = std::sqrt(area / std::numbers::pi),
               reach = double(which.size()) * each / area;
  const Vec3d way = hole.out(side),
              one = normalized(cross(way, std::abs(way.x) < 0.7 ? Vec3d{1, 0, 0} : Vec3d{0, 1, 0}));
  const Mouth mouth{hole.end[side], one * wide, cross(way, one) * wide, true};
  for (size_t i = 0; i < which.size(); ++i) {
    const uint32_t n = which[i];
    const auto [u, v] = in_mouth(mouth, double(p.id[n]));
    const Vec3d out = mouth.middle + mouth.along * u + mouth.across * v,
                at = out + way * (reach * (double(i) + 0.5) / double(which.size())),
                velocity = way * speed + hole.velocity;
    for (size_t a = 0; a < 3; ++a) {
      p.place[a][n] = float(at[int(a)] / h), p.velocity[a][n] = float(velocity[int(a)]);
      for (size_t d = 0; d < 3; ++d) p.slope[3 * a + d][n] = 0;
    }
    places.push_back(out + way * (h / 4));
  }
}

}  // namespace

bool LiquidSolver::let_through(LiquidState& s, const LiquidWorld& world) {
  s.streams.resize(world.holes.size());
  jets_.clear();
  if (world.holes.empty()) return false;
  const double h = world.cell_size, each = particle_volume(h);
  const BlockTable table(s.grid);
  bool any = false;
  for (size_t k = 0; k < world.holes.size(); ++k) {
    const Hole& hole = world.holes[k];
    Stream& stream = s.streams[k];
    const size_t owed = size_t(stream.owed / each);
    if (!owed || hole.count <= 0) continue;
    stream.owed -= double(owed) * each;
    const int from = stream.flow > 0 ? 0 : 1, to = 1 - from;
    std::vector<std::pair<float, uint32_t>> near;  // distance, particle
    for (const auto& [b, c] : cells_at(s, table, hole, from, h))
      for (uint32_t n = cells_.begin(b, c); n < cells_.end(b, c); ++n) {
        Vec3d at;
        for (size_t a = 0; a < 3; ++a) at[int(a)] = double(s.particles.place[a][n]) * h;
        near.emplace_back(float(length(at - hole.end[from])), n);
      }
    std::sort(near.begin(), near.end());
    std::vector<uint32_t> which;
    for (size_t i = 0; i < std::min(owed, near.size()); ++i) which.push_back(near[i].second);
    if (which.empty()) continue;
    const double speed = std::abs(stream.flow) / (hole.discharge * hole.area());
    std::vector<Vec3d> places;
    put_out(s.particles, which, hole, to, speed, each, h, places);
    const bool submerged = is_submerged(s, cells_, table, hole, to, h);
    if (submerged) pushed_.insert(pushed_.end(), places.begin(), places.end());
    jets_.push_back({k, to, speed, submerged});
    any = true;
  }
  return any;
}

void LiquidSolver::part_jets(const LiquidState& s, const LiquidWorld& world) {
  constexpr double far = 2;  // cells out of the wall
  if (jets_.empty()) return;
  const double h = world.cell_size;
  const BlockTable table(s.grid);
  for (const Jet& jet : jets_) {
    if (jet.submerged) continue;
    if (torn_.size() != s.grid.size()) torn_.resize(s.grid.size());
    Hole hole = world.holes[jet.hole];
    for (int step = 0; step < far; ++step) {
      for (const Cell& c : cells_at(s, table, hole, jet.side, h, h)) torn_.block(c.block)[c.cell] = 1;
      for (Vec3d& end : hole.end) end += hole.out(jet.side) * h;
    }
  }
}

namespace {

/// Gives the closed faces around a hole's end a velocity.
void carry(LiquidState& s, const BlockTable& table, const Hole& hole, int side, const Vec3d& speed,
           double wide, double h) {
  constexpr double behind = 1, before = 0.6;  // the end, in cells
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  const Vec3d end = hole.end[side], out = hole.out(side);
  each_cell_about(table, end, wide + behind * h, h, [&](int b, int c) {
    for (int a = 0; a < 3; ++a) {
      const size_t m = pour::before(s.grid.around(b), b, c, a);
      const uint8_t here = s.geometry.volume.block(b)[c], there = s.geometry.volume.data()[m];
      if (face[a]->block(b)[c] && std::min(here, there) > full_volume / 2) continue;
      const Vec3d off = face_middle(s.grid, b, c, a, h) - end;
      const double along = dot(off, out);
      if (along > -behind * h && along < before * h && length(off - out * along) < wide)
        velocity[a]->block(b)[c] = float(speed[a]);
    }
  });
}

}  // namespace

void LiquidSolver::free_jets(LiquidState& s, const LiquidWorld& world) const {
  if (world.holes.empty()) return;
  const BlockTable table(s.grid);
  const double h = world.cell_size;
  for (size_t k = 0; k < world.holes.size(); ++k) {
    const Hole& hole = world.holes[k];
    const double flow = s.streams[k].flow;
    if (flow == 0) continue;
    const int from = flow > 0 ? 0 : 1;
    const std::vector<Cell> cells = liquid_at(s, table, hole, from, h);
    if (cells.empty()) continue;
    const double speed = std::abs(flow) / (double(cells.size()) * h * h);
    carry(s, table, hole, from, hole.out(from) * -speed + hole.velocity, wide_of(hole, h), h);
  }
  for (const Jet& jet : jets_) {
    const Hole& hole = world.holes[jet.hole];
    carry(s, table, hole, jet.side, hole.out(jet.side) * jet.speed + hole.velocity, wide_of(hole, h) + h, h);
  }
}

void LiquidSolver::open_holes(const LiquidState& s, const LiquidWorld& world, double dt) {
  constexpr double least_way = 0.01;  // cells that a jet goes in a step: what is slower counts as this fast
  openings_.clear();
  if (world.holes.empty()) return;
  const double h = world.cell_size;
  const BlockTable table(s.grid);
  for (size_t k = 0; k < world.holes.size(); ++k) {
    const Hole& hole = world.holes[k];
    if (hole.count <= 0) continue;
    const Stream& last = s.streams[k];
    Opening o;
    o.hole = k, o.per_pressure = h / dt;
    for (int side = 0; side < 2; ++side) {
      Opening::Side& at = o.sides[side];
      at.cells = liquid_at(s, table, hole, side, h);
      for (const Cell& c : at.cells) {
        const double up = cell_middle(s.grid, c.block, c.cell, h).y - hole.middle().y;
        at.lift += world.gravity * up / double(at.cells.size());
      }
    }
    const bool wet[2] = {!o.sides[0].cells.empty(), !o.sides[1].cells.empty()};
    if (!wet[0] && !wet[1]) continue;
    o.from = !wet[0] || (wet[1] && last.pressure[1] > last.pressure[0]) ? 1 : 0;
    const Cell& first = o.sides[o.from].cells.front();
    const Matter& matter = cells_.count(first.block, first.cell)
                               ? world.liquids[s.particles.liquid[cells_.begin(first.block, first.cell)]]
                               : world.liquids.front();
    const double drives = last.pressure[o.from];
    o.against = last.pressure[1 - o.from];
    if (!is_submerged(s, cells_, table, hole, 1 - o.from, h)) {
      // A meniscus in the hole holds twice of what a jet has to overcome.
      const double held = matter.density > 0 ? hole.held(matter.tension) / matter.density : 0;
      o.closed = last.flow == 0 && drives <= held;
      o.against = held / 2;
    }
    const double jet = hole.discharge * hole.area(), fast = least_way * h / dt * jet,
                 about = std::max({std::abs(last.flow), hole.flow(drives - o.against), fast});
    if (!o.closed) o.base = about / 2, o.gain = jet * jet / about;
    openings_.push_back(std::move(o));
  }
}

void LiquidSolver::add_to_system(const Opening& o, double h) {
  const Opening::Side& from = o.sides[o.from];
  const double share = 1 / double(from.cells.size());
  for (const Cell& c : from.cells)
    weights_.anchor.block(c.block)[c.cell] += float(255 * share * o.gain * o.per_pressure / (h * h));
}

void LiquidSolver::add_to_outflow(const Opening& o, double h, Floats& rhs) {
  const Opening::Side& from = o.sides[o.from];
  const double flow = o.base + o.gain * (from.lift - o.against);
  for (const Cell& c : from.cells)
    rhs.block(c.block)[c.cell] -= float(flow / double(from.cells.size()) / (h * h));
}

void LiquidSolver::close_holes(LiquidState& s, const LiquidWorld& world) {
  const double h = world.cell_size;
  for (Stream& stream : s.streams) stream.flow = 0, stream.pressure[0] = stream.pressure[1] = 0;
  if (!openings_.empty() && inflow_.size() != s.grid.size()) inflow_.resize(s.grid.size());
  for (const Opening& o : openings_) {
    Stream& stream = s.streams[o.hole];
    for (int side = 0; side < 2; ++side) {
      const Opening::Side& at = o.sides[side];
      for (const Cell& c : at.cells)
        stream.pressure[side] +=
            double(s.pressure.block(c.block)[c.cell]) * o.per_pressure / double(at.cells.size());
      stream.pressure[side] += at.lift;
    }
    const double flow = o.base + o.gain * (stream.pressure[o.from] - o.against);
    const std::vector<Cell>& cells = o.sides[o.from].cells;
    for (const Cell& c : cells)
      inflow_.block(c.block)[c.cell] -= float(flow / double(cells.size()) / (h * h));
    stream.flow = (o.from ? -1 : 1) * std::max(flow, 0.0);
    stream.owed += std::abs(stream.flow) * h / o.per_pressure;
  }
  openings_.clear();
}

}  // namespace pour
