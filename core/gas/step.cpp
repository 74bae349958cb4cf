#include <cmath>

#include "base/parallel.h"
#include "gas/gas.h"

namespace pour {

GasReport GasSolver::step(GasState& s, const GasWorld& world, double dt, Ledger& ledger) {
  GasReport report;
  update_region(s, world, dt, ledger);
  if (s.grid.blocks()) {
    apply_forces(s, world, dt);
    apply_viscosity(s, world, dt);
    apply_sources(s, world, dt, ledger);
    report = project(s, world);
    advect(s, world, dt, ledger);
    const auto fade = [&](double half_life, std::initializer_list<Floats*> fields) {
      if (half_life <= 0) return;
      const float factor = float(std::exp2(-dt / half_life));
      parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
        for (Floats* f : fields)
          for (int c = 0; c < block_cells; ++c) f->block(int(i) + first_block)[c] *= factor;
      });
    };
    const double before = smoke_mass(s, world.cell_size);
    fade(world.density_half_life, {&s.density, &s.red, &s.green, &s.blue});
    fade(world.heat_half_life, {&s.heat});
    ledger.in_shot = smoke_mass(s, world.cell_size);
    ledger.decayed += before - ledger.in_shot;
  }
  s.time += dt;
  return report;
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

double longest_step(const GasState& s, const GasWorld& world, double courant, double longest) {
  std::vector<float> most(size_t(s.grid.blocks()), 0);
  parallel_for(most.size(), [&](size_t i) {
    const int b = int(i) + first_block;
    for (const Floats* f : {&s.u, &s.v, &s.w})
      for (int c = 0; c < block_cells; ++c) most[i] = std::max(most[i], std::abs(f->block(b)[c]));
  });
  double speed = 0;
  for (const float m : most) speed = std::max(speed, double(m));
  for (const GasSource& source : world.sources) {
    speed = std::max(speed, length(source.velocity));
    // Gas pushed out on all sides leaves at about a third of divergence · radius.
    speed = std::max(speed, source.divergence * length(source.bounds.size()) / 6 / std::sqrt(3.0));
  }
  double dt = speed > 0 ? courant * world.cell_size / speed : longest;
  if (world.viscosity > 0) dt = std::min(dt, world.cell_size * world.cell_size / (6 * world.viscosity));
  return std::min(dt, longest);
}

}  // namespace pour
