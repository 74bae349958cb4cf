// Sources, buoyancy, turbulence, viscosity.
#include <algorithm>
#include <cmath>

#include "base/noise.h"
#include "base/parallel.h"
#include "gas/gas.h"
#include "solve/cells.h"
#include "solve/rows.h"

namespace pour {
namespace {

template <class F>
void each_block(const BlockGrid& g, const F& f) {
  parallel_for(size_t(g.blocks()), [&](size_t i) { f(int(i) + first_block); });
}

/// Adds `push` times the noise to the open faces of a block. The finest octave is smooth over a quarter of
/// the size, so the noise is computed at every fourth or second cell and interpolated.
void stir(GasState& s, int b, const CurlNoise& curl_noise, float push, float size, const Strength& strength,
          const GasWorld& world) {
  const float h = float(world.cell_size);
  constexpr int most = 5;
  const int spacing = size > 32 * h ? 4 : 2, along = 8 / spacing, n = along + 1;
  const float scale = float(spacing) * h / size, step = 1.f / float(spacing);
  const Vec3i corner = s.grid.key(b).at * along;
  alignas(32) float noise[3][most][most][8] = {};
  const int points = n * n * n;
  for (int first = 0; first < points; first += 8) {
    Vec3<v8> p{};
    for (int i = 0; i < 8; ++i) {
      const int k = std::min(first + i, points - 1);
      p.x[i] = float(corner.x + k % n) * scale, p.y[i] = float(corner.y + k / n % n) * scale,
      p.z[i] = float(corner.z + k / (n * n)) * scale;
    }
    const Vec3<v8> v = curl_noise(p);
    for (int k = first; k < std::min(first + 8, points); ++k)
      for (int a = 0; a < 3; ++a) noise[a][k / (n * n)][k / n % n][k % n] = v[a][k - first];
  }
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  for (int a = 0; a < 3; ++a) {
    // Each component at the middle of its faces.
    const float off[3] = {a == 0 ? 0.f : 0.5f, a == 1 ? 0.f : 0.5f, a == 2 ? 0.f : 0.5f};
    const v8 x = (v8{0, 1, 2, 3, 4, 5, 6, 7} + off[0]) * step, x_floor = vfloor(x), fx = x - x_floor;
    const v8i left = __builtin_convertvector(x_floor, v8i);
    for (int z = 0; z < 8; ++z) {
      const float pz = (float(z) + off[2]) * step, fz = pz - std::floor(pz);
      for (int y = 0; y < 8; ++y) {
        const float py = (float(y) + off[1]) * step, fy = py - std::floor(py);
        const int j = int(py), k = int(pz);
        const auto row = [&](int yy, int zz) { return load(noise[a][zz][yy]); };
        const v8 line = (row(j, k) * (1 - fy) + row(j + 1, k) * fy) * (1 - fz) +
                        (row(j, k + 1) * (1 - fy) + row(j + 1, k + 1) * fy) * fz;
        const auto pick = [&](v8i at) { return v8(_mm256_permutevar8x32_ps(__m256(line), __m256i(at))); };
        const int c = Around<float>::row(y, z);
        v8 gust = pick(left) * (1.f - fx) + pick(left + 1) * fx;
        if (!strength.plain()) gust *= strength.share(gas_places(s, world, b, y, z, a));
        float* to = velocity[a]->block(b) + c;
        store(to, load(to) + choose(load(face[a]->block(b) + c) > splat(0), gust * push, splat(0)));
      }
    }
  }
}

}  // namespace

double most_lift(const GasWorld& w, double heat, double density) {
  return most_pull(w) * (std::abs(w.heat_lift) * heat / air::temperature +
                         std::abs(w.density_lift) * density / air::density);
}

void GasSolver::apply_forces(GasState& s, const GasWorld& world, double dt) {
  const BlockGrid& g = s.grid;

  // Buoyancy (Boussinesq) from heat and from the weight of the smoke. With fields it is in their sum.
  if (world.fields.empty() && world.gravity != 0 && (world.heat_lift != 0 || world.density_lift != 0)) {
    const v8 by_heat = splat(float(0.5 * dt * world.gravity * world.heat_lift / air::temperature));
    const v8 by_density = splat(float(0.5 * dt * world.gravity * world.density_lift / air::density));
    each_block(g, [&](int b) {
      if (const int room = g.key(b).room; room && world.rooms[size_t(room) - 1].moves) return;
      const Around<float> heat(s.heat, g.around(b), b), density(s.density, g.around(b), b);
      for (int k = 0; k < 8; ++k) {
        const LatticePlane<float> t = heat.plane(k), d = density.plane(k);
#pragma GCC unroll 8
        for (int j = 0; j < 8; ++j) {
          const int c = Around<float>::row(j, k);
          const v8 lift = by_heat * (t.at(j) + t.below(j)) + by_density * (d.at(j) + d.below(j));
          float* to = s.v.block(b) + c;
          store(to, load(to) + choose(load(s.geometry.fy.block(b) + c) > splat(0), lift, splat(0)));
        }
      }
    });
  }

  if (std::any_of(world.rooms.begin(), world.rooms.end(), [](const Room& r) { return r.moves; }))
    push_rooms(s, world, dt);

  // Clean, cool air is moved by the smoke alone.
  const auto acts = [](const auto& force) { return force.speed > 0; };
  if (std::none_of(world.turbulences.begin(), world.turbulences.end(), acts) &&
      std::none_of(world.confinements.begin(), world.confinements.end(), acts))
    return;
  const Presence present = find_presence(s, world);

  // Turbulence: eddies that bring gas at rest to their speed in one turnover, size / speed.
  for (const Eddies& e : world.turbulences) {
    if (!acts(e)) continue;
    const float push = float(dt * e.speed * e.speed / e.size);
    const CurlNoise curl_noise(float(s.time * e.rate * 6.2831853));
    each_block(g, [&](int b) {
      if (present.here[size_t(b)] && (e.inside || !g.key(b).room))
        stir(s, b, curl_noise, push, float(e.size), e.strength, world);
    });
  }
  for (const Swirls& c : world.confinements)
    if (acts(c)) confine(s, world, c, dt, present.here);
}

void GasSolver::apply_sources(GasState& s, const GasWorld& world, double dt, Ledger& ledger) {
  const double h = world.cell_size;
  const BlockGrid& g = s.grid;
  if (target_.size() != g.size())
    target_.resize(g.size());
  else
    each_block(g, [&](int b) { std::fill_n(target_.block(b), block_cells, 0.f); });
  for (const Source& source : world.sources) {
    std::vector<int> touched;
    for (int b = first_block; b < g.size(); ++b) {
      const BlockKey& k = g.key(b);
      if (k.room != source.room) continue;
      Box box;
      box.add(Vec3d{k.at.x * 8 * h, k.at.y * 8 * h, k.at.z * 8 * h}),
          box.add(Vec3d{(k.at.x + 1) * 8 * h, (k.at.y + 1) * 8 * h, (k.at.z + 1) * 8 * h});
      box.grow(h);
      if (box.overlaps(source.shape.bounds)) touched.push_back(b);
    }
    const double added = ordered_sum<double>(touched.size(), [&](size_t i) {
      const int b = touched[i];
      double mass = 0;
      for (int c = 0; c < block_cells; ++c) {
        const uint8_t volume = s.geometry.volume.block(b)[c];
        const Vec3d p = cell_middle(g, b, c, h);
        const auto weight_at = [&](const Vec3d& q) {
          return std::clamp(0.5 - source.shape.distance(q) / h, 0.0, 1.0);
        };
        if (source.blows && !source.fills) {
          const Vec3d offset[3] = {{h / 2, 0, 0}, {0, h / 2, 0}, {0, 0, h / 2}};
          Floats* velocity[3] = {&s.u, &s.v, &s.w};
          const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
          for (int a = 0; a < 3; ++a)
            if (face[a]->block(b)[c]) {
              float& v = velocity[a]->block(b)[c];
              if (const double weight = weight_at(p - offset[a]); weight > 0)
                v += float(weight * source.of_step) *
                     (float(source.velocity_at(p - offset[a], h, s.time)[a]) - v);
            }
        }
        if (volume == 0 || volume == outside_volume) continue;
        double weight = weight_at(p);
        if (weight <= 0) continue;
        if (source.fills) {
          s.heat.block(b)[c] += float(weight * (source.heat - s.heat.block(b)[c]));
        } else {
          if (source.divergence != 0)
            target_.block(b)[c] += float(weight * source.divergence * source.of_step);
          s.heat.block(b)[c] +=
              float(weight * (1 - std::exp(-8 * dt * source.of_step)) * (source.heat - s.heat.block(b)[c]));
        }
        weight *= source.patch(p, s.time);
        const float old = s.density.block(b)[c];
        const double change = source.sets || source.fills ? weight * (source.density - old)
                                                          : weight * source.density * dt * source.of_step;
        s.density.block(b)[c] = float(old + change);
        const float kept = change < 0 && old > 0 ? float((old + change) / old) : 1.f;
        const double gain = std::max(change, 0.0);
        const Vec3d color = source.color_at(p);
        s.red.block(b)[c] = s.red.block(b)[c] * kept + float(gain * color.x);
        s.green.block(b)[c] = s.green.block(b)[c] * kept + float(gain * color.y);
        s.blue.block(b)[c] = s.blue.block(b)[c] * kept + float(gain * color.z);
        mass += (double(s.density.block(b)[c]) - old) * volume / full_volume;
      }
      return mass * h * h * h;
    });
    ledger.poured += added;
  }
}

void GasSolver::fill(GasState& s, const GasWorld& world, std::vector<Source> sources, Ledger& ledger) {
  if (sources.empty()) return;
  GasWorld filled = world;
  for (Source& source : sources) source.fills = true;
  filled.sources = std::move(sources);
  update_region(s, filled, 0, ledger);
  apply_sources(s, filled, 0, ledger);
  ledger.in_shot = smoke_mass(s, world.cell_size);
}

void GasSolver::apply_viscosity(GasState& s, const GasWorld& world, double dt) {
  if (world.viscosity <= 0) return;
  const BlockGrid& g = s.grid;
  const float k = float(dt * world.viscosity / (world.cell_size * world.cell_size));
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  for (int component = 0; component < 3; ++component) {
    Floats& v = *velocity[component];
    const Bytes& open = *face[component];
    Floats next(g.size(), unset);
    each_block(g, [&](int b) {
      const int* around = g.around(b);
      const Vec3i at = g.key(b).at;
      for (int c = 0; c < block_cells; ++c) {
        const float here = v.block(b)[c];
        next.block(b)[c] = here;
        if (!open.block(b)[c]) continue;
        const int index[3] = {at.x * 8 + (c & 7), at.y * 8 + (c >> 3 & 7), at.z * 8 + (c >> 6)};
        float sum = 0;
        for (int axis = 0; axis < 3; ++axis)
          for (int up = 0; up < 2; ++up) {
            const size_t n = up ? after(around, b, c, axis) : before(around, b, c, axis);
            if (axis == component || open.data()[n]) {
              sum += v.data()[n] - here;
              continue;
            }
            const int beyond =
                up ? index[axis] + 1 - (world.low[axis] + world.cells[axis]) : world.low[axis] - index[axis];
            // A no-slip side holds its velocity on the wall itself, half a cell away.
            if (beyond >= 0 && world.no_slip[2 * axis + up])
              sum += 2 * (float(world.side_velocity[2 * axis + up][component]) - here);
          }
        next.block(b)[c] = here + k * sum;
      }
    });
    v = std::move(next);
  }
}

}  // namespace pour
