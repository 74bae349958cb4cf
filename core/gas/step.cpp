#include <cmath>

#include "base/parallel.h"
#include "base/simd.h"
#include "gas/carried.h"
#include "gas/gas.h"
#include "solve/cells.h"
#include "solve/rows.h"
#include "world/near_solids.h"
#include "world/push.h"

namespace pour {
namespace {

/// Half of a field goes in each half-life, s; 0: nothing goes.
void fade(const BlockGrid& g, Floats& field, double half_life, double dt) {
  if (half_life <= 0) return;
  const float factor = float(std::exp2(-dt / half_life));
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    for (int c = 0; c < block_cells; ++c) field.block(int(i) + first_block)[c] *= factor;
  });
}

}  // namespace

GasReport GasSolver::step(GasState& s, const GasWorld& world, double dt, Ledger& ledger) {
  GasReport report;
  update_region(s, world, dt, ledger);
  move_solids(s, world, dt);
  if (s.grid.blocks()) {
    apply_forces(s, world, dt);
    apply_fields(s, world, dt);
    apply_viscosity(s, world, dt);
    apply_sources(s, world, dt, ledger);
    report = project(s, world, dt);
    advect_whole_way(s, world, dt, ledger);
    const double before = smoke_mass(s, world.cell_size);
    for (const Carried& f : carried) fade(s.grid, s.*f.values, world.*f.half_life, dt);
    ledger.in_shot = smoke_mass(s, world.cell_size);
    ledger.decayed += before - ledger.in_shot;
    drain(s, world, ledger);
  }
  s.time += dt;
  return report;
}

void GasSolver::drain(GasState& s, const GasWorld& world, Ledger& ledger) {
  if (world.drains.empty()) return;
  const double h = world.cell_size;
  const double gone = ordered_sum<double>(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    if (s.grid.key(b).room) return 0.0;
    const NearSolids drains(world.drains, h, s.grid.key(b).at * 8);
    double mass = 0;
    for (int c = 0; c < block_cells && !drains.empty(); ++c) {
      const double part = std::clamp(0.5 - drains.distance(cell_middle(s.grid, b, c, h), h) / h, 0.0, 1.0);
      if (part <= 0) continue;
      const uint8_t volume = s.geometry.volume.block(b)[c];
      if (volume != outside_volume)
        mass += part * double(s.density.block(b)[c]) * volume / full_volume * h * h * h;
      for (const Carried& f : carried) (s.*f.values).block(b)[c] *= float(1 - part);
    }
    return mass;
  });
  ledger.drained += gone, ledger.in_shot -= gone;
}

double smoke_mass(const GasState& s, double h) {
  return ordered_sum<double>(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const uint8_t* v = s.geometry.volume.block(b);
    double m = 0;
    for (int c = 0; c < block_cells; ++c)
      m += v[c] == outside_volume ? 0 : double(s.density.block(b)[c]) * v[c];
    return m * h * h * h / full_volume;
  });
}

GasMeasure measure(const GasState& s, double h) {
  struct Part {
    double cells = 0, mass = 0, speed = 0, energy = 0;
    Vec3d moment;
    Part& operator+=(const Part& o) {
      cells += o.cells, mass += o.mass, energy += o.energy, moment += o.moment;
      speed = std::max(speed, o.speed);
      return *this;
    }
  };
  const Part p = ordered_sum<Part>(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const Vec3i at = s.grid.key(b).at;
    const uint8_t* v = s.geometry.volume.block(b);
    Part q;
    for (int c = 0; c < block_cells; ++c) {
      if (v[c] == 0 || v[c] == outside_volume) continue;
      const double part = v[c] / double(full_volume), m = s.density.block(b)[c] * part;
      q.cells += 1, q.mass += m;
      q.moment +=
          Vec3d{at.x * 8 + (c & 7) + 0.5, at.y * 8 + (c >> 3 & 7) + 0.5, at.z * 8 + (c >> 6) + 0.5} * m;
      const double x = s.u.block(b)[c], y = s.v.block(b)[c], z = s.w.block(b)[c], sq = x * x + y * y + z * z;
      q.speed = std::max(q.speed, std::sqrt(sq));
      q.energy += 0.5 * 1.2 * sq * part * h * h * h;
    }
    return q;
  });
  GasMeasure m;
  m.cells = p.cells, m.max_speed = p.speed, m.kinetic_energy = p.energy;
  if (p.mass > 0) m.centroid = p.moment * (h / p.mass);
  return m;
}

double most_speed(const GasState& s) {
  std::vector<float> most(size_t(s.grid.blocks()), 0);
  parallel_for(most.size(), [&](size_t i) {
    v8 m{};
    for (const Floats* f : {&s.u, &s.v, &s.w})
      for (int c = 0; c < block_cells; c += 8) {
        const v8 v = load(f->block(int(i) + first_block) + c);
        m = vmax(m, vmax(v, -v));
      }
    for (int k = 0; k < 8; ++k) most[i] = std::max(most[i], m[k]);
  });
  return most.empty() ? 0 : double(*std::max_element(most.begin(), most.end()));
}

void GasSolver::advect_whole_way(GasState& s, const GasWorld& world, double dt, Ledger& ledger) {
  const double crossed = most_speed(s) * dt / world.cell_size;
  // A flow that blew up is told by its figures, not by steps without end.
  const int parts = int(std::clamp(std::ceil(crossed / most_crossed), 1.0, 64.0));
  for (int i = 0; i < parts; ++i) advect(s, world, dt / parts, ledger);
}

double longest_step(const GasState& s, const GasWorld& world, double courant, double longest) {
  struct Most {
    float heat = 0, density = 0;
    Most& operator+=(const Most& o) {
      heat = std::max(heat, o.heat), density = std::max(density, o.density);
      return *this;
    }
  };
  const Most most = ordered_sum<Most>(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    Most m;
    for (int c = 0; c < block_cells; ++c)
      m += {std::abs(s.heat.block(b)[c]), std::abs(s.density.block(b)[c])};
    return m;
  });
  double speed = most_speed(s);
  for (const Source& source : world.sources) {
    speed = std::max(speed, source.speed() + length(source.motion));
    // Gas pushed out on all sides leaves at about a third of divergence · radius.
    speed = std::max(speed,
                     std::abs(source.divergence) * length(source.shape.bounds.size()) / 6 / std::sqrt(3.0));
  }
  const double h = world.cell_size;
  // speed · dt + push · dt² = most_crossed · h
  double push = most_lift(world, double(most.heat), double(most.density));
  for (const Eddies& e : world.turbulences) push += e.strength.depends.most() * e.speed * e.speed / e.size;
  for (const Swirls& c : world.confinements) push += c.strength.depends.most() * c.speed * c.speed / c.size;
  const Field::Most fields = most_push(world.fields, bounds_of(world));
  push += fields.acceleration, speed = std::max(speed, fields.speed);
  for (const Room& r : world.rooms)
    if (r.moves)
      push += length(r.spin_rate) * length(to<double>(r.inside.count())) * world.cell_size +
              2 * length(r.spin) * speed;
  double dt = speed > 0 ? courant * h / speed : longest;
  const double way = std::max(courant, most_crossed) * h;
  if (push > 0) dt = std::min(dt, 2 * way / (speed + std::sqrt(speed * speed + 4 * push * way)));
  if (world.viscosity > 0) dt = std::min(dt, h * h / (6 * world.viscosity));
  return std::min(dt, longest);
}

}  // namespace pour
