// Sources, buoyancy, turbulence, vorticity confinement, viscosity.
#include <cmath>

#include "base/noise.h"
#include "base/parallel.h"
#include "gas/gas.h"
#include "gas/tile.h"

namespace pour {
namespace {

constexpr double air_density = 1.2;      // kg/m³ at 20 °C and 1 bar; VDI-Wärmeatlas, from memory
constexpr double air_temperature = 293;  // K

template <class F>
void each_block(const BlockGrid& g, const F& f) {
  parallel_for(size_t(g.blocks()), [&](size_t i) { f(int(i) + first_block); });
}

/// Index of the cell before c along an axis, in whole-field indices.
size_t before(const int* around, int block, int c, int axis) {
  static constexpr int stride[3] = {1, 8, 64}, minus[3] = {x_minus, y_minus, z_minus};
  const bool inside = axis == 0 ? c & 7 : axis == 1 ? c >> 3 & 7 : c >> 6;
  return inside ? size_t(block) * block_cells + size_t(c - stride[axis])
                : size_t(around[minus[axis]]) * block_cells + size_t(c + 7 * stride[axis]);
}
size_t after(const int* around, int block, int c, int axis) {
  static constexpr int stride[3] = {1, 8, 64}, plus[3] = {x_plus, y_plus, z_plus};
  const int at = axis == 0 ? c & 7 : axis == 1 ? c >> 3 & 7 : c >> 6;
  return at < 7 ? size_t(block) * block_cells + size_t(c + stride[axis])
                : size_t(around[plus[axis]]) * block_cells + size_t(c - 7 * stride[axis]);
}

Vec3d cell_center(const BlockGrid& g, int b, int c, double h) {
  const Vec3i at = g.key(b).at;
  return {(at.x * 8 + (c & 7) + 0.5) * h, (at.y * 8 + (c >> 3 & 7) + 0.5) * h,
          (at.z * 8 + (c >> 6) + 0.5) * h};
}

}  // namespace

void GasSolver::apply_forces(GasState& s, const GasWorld& world, double dt) {
  const double h = world.cell_size;
  const BlockGrid& g = s.grid;
  scratch(s);

  // Buoyancy (Boussinesq): lighter than air rises, by heat and by what the smoke weighs.
  if (world.gravity != 0 && (world.heat_lift != 0 || world.density_lift != 0)) {
    const float by_heat = float(0.5 * dt * world.gravity * world.heat_lift / air_temperature);
    const float by_density = float(0.5 * dt * world.gravity * world.density_lift / air_density);
    each_block(g, [&](int b) {
      const int* around = g.around(b);
      const uint8_t* face = s.geometry.fy.block(b);
      for (int c = 0; c < block_cells; ++c) {
        if (!face[c]) continue;
        const size_t below = before(around, b, c, 1), here = size_t(b) * block_cells + size_t(c);
        s.v.block(b)[c] += by_heat * (s.heat.data()[here] + s.heat.data()[below]) +
                           by_density * (s.density.data()[here] + s.density.data()[below]);
      }
    });
  }

  // Turbulence: eddies that bring gas at rest to their speed in one turnover, size / speed.
  if (world.turbulence_speed > 0) {
    const float size = float(world.turbulence_size);
    const float push = float(dt * world.turbulence_speed * world.turbulence_speed / world.turbulence_size);
    const CurlNoise curl_noise(float(s.time * world.turbulence_rate * 6.2831853));
    each_block(g, [&](int b) {
      // The finest octave is smooth over a quarter of the size, so the noise is computed at every fourth or
      // second cell and interpolated.
      constexpr int most = 5;
      const float spacing = size > 32 * float(h) ? 4.f : 2.f;
      const int n = int(8 / spacing) + 1;
      Vec3f noise[most][most][most];
      const Vec3i at = g.key(b).at;
      const float scale = spacing * float(h) / size;
      for (int z = 0; z < n; ++z)
        for (int y = 0; y < n; ++y)
          for (int x = 0; x < n; ++x) {
            const float first = 8 / spacing;
            noise[z][y][x] = curl_noise({(float(at.x) * first + float(x)) * scale,
                                         (float(at.y) * first + float(y)) * scale,
                                         (float(at.z) * first + float(z)) * scale});
          }
      const auto sample = [&](float x, float y, float z, int axis) {
        const int i = int(x / spacing), j = int(y / spacing), k = int(z / spacing);
        const float fx = x / spacing - float(i), fy = y / spacing - float(j), fz = z / spacing - float(k);
        const auto line = [&](int yy, int zz) {
          return noise[zz][yy][i][axis] * (1 - fx) + noise[zz][yy][i + 1][axis] * fx;
        };
        return (line(j, k) * (1 - fy) + line(j + 1, k) * fy) * (1 - fz) +
               (line(j, k + 1) * (1 - fy) + line(j + 1, k + 1) * fy) * fz;
      };
      for (int c = 0; c < block_cells; ++c) {
        const float x = float(c & 7), y = float(c >> 3 & 7), z = float(c >> 6);
        if (s.geometry.fx.block(b)[c]) s.u.block(b)[c] += push * sample(x, y + 0.5f, z + 0.5f, 0);
        if (s.geometry.fy.block(b)[c]) s.v.block(b)[c] += push * sample(x + 0.5f, y, z + 0.5f, 1);
        if (s.geometry.fz.block(b)[c]) s.w.block(b)[c] += push * sample(x + 0.5f, y + 0.5f, z, 2);
      }
    });
  }

  // Vorticity confinement (Fedkiw, Stam & Jensen 2001): speed · (cell / length) · (N × vorticity).
  if (world.confinement_speed > 0) {
    const float half = float(0.5 / h);
    Floats* vorticity[3] = {&back_[0], &back_[1], &back_[2]};
    // First the velocity at cell centres, then its curl, then the force.
    Floats* center[3] = {&first_[0], &first_[1], &first_[2]};
    const Floats* velocity[3] = {&s.u, &s.v, &s.w};
    each_block(g, [&](int b) {
      const int* around = g.around(b);
      for (int a = 0; a < 3; ++a)
        for (int c = 0; c < block_cells; ++c)
          center[a]->block(b)[c] =
              0.5f * (velocity[a]->block(b)[c] + velocity[a]->data()[after(around, b, c, a)]);
    });
    // Smoothed over part of the length that curl refers to: the force drives curls of that size, not the
    // noise between one cell and the next, and the same ones at every cell size that is fine enough to show
    // them.
    const double spread = 0.35 * world.confinement_length / h;  // standard deviation, in cells
    const int passes = std::clamp(int(std::lround(2 * spread * spread)), 4, 7);
    Floats* smooth[3] = {&ahead_[0], &ahead_[1], &ahead_[2]};
    for (Floats* f : center) std::fill_n(f->block(outside_open), 2 * block_cells, 0.f);
    each_block(g, [&](int b) {
      Tile tile;
      for (int a = 0; a < 3; ++a) {
        tile.fill(*center[a], g.around(b), passes);
        tile.smooth(passes, passes);
        for (int z = 0; z < 8; ++z)
          for (int y = 0; y < 8; ++y)
            store(smooth[a]->block(b) + Around<float>::row(y, z), load(tile.row_at(y, z, passes)));
      }
    });
    std::swap(center, smooth);
    const uint8_t* volume = s.geometry.volume.data();
    const auto slope = [&](const Floats& f, const int* around, int b, int c, int axis) {
      // One-sided at walls: nothing is read from inside them.
      const size_t here = size_t(b) * block_cells + size_t(c), m = before(around, b, c, axis),
                   p = after(around, b, c, axis);
      const float low = volume[m] ? f.data()[m] : f.data()[here],
                  high = volume[p] ? f.data()[p] : f.data()[here];
      return (high - low) * half;
    };
    each_block(g, [&](int b) {
      const int* around = g.around(b);
      for (int c = 0; c < block_cells; ++c) {
        if (!s.geometry.volume.block(b)[c]) {
          for (Floats* f : vorticity) f->block(b)[c] = 0;
          continue;
        }
        const auto d = [&](int component, int axis) { return slope(*center[component], around, b, c, axis); };
        vorticity[0]->block(b)[c] = d(2, 1) - d(1, 2), vorticity[1]->block(b)[c] = d(0, 2) - d(2, 0),
        vorticity[2]->block(b)[c] = d(1, 0) - d(0, 1);
      }
    });
    Floats& size = first_[3];
    each_block(g, [&](int b) {
      for (int c = 0; c < block_cells; ++c)
        size.block(b)[c] =
            length(Vec3f{vorticity[0]->block(b)[c], vorticity[1]->block(b)[c], vorticity[2]->block(b)[c]});
    });
    std::fill_n(size.block(outside_open), 2 * block_cells, 0.f);
    const float strength = float(dt * world.confinement_speed * h / world.confinement_length);
    // It feeds on what it makes: no curl is driven harder than to its speed in one turnover.
    const float most =
        float(dt * world.confinement_speed * world.confinement_speed / world.confinement_length);
    Floats* force[3] = {&second_[0], &second_[1], &second_[2]};
    each_block(g, [&](int b) {
      const int* around = g.around(b);
      for (int c = 0; c < block_cells; ++c) {
        Vec3f n{slope(size, around, b, c, 0), slope(size, around, b, c, 1), slope(size, around, b, c, 2)};
        const float l = length(n);
        const Vec3f w{vorticity[0]->block(b)[c], vorticity[1]->block(b)[c], vorticity[2]->block(b)[c]};
        // Where the vorticity is about the same all around, there is no curl to be kept.
        const float scale = l + 0.5f * size.block(b)[c] * float(1 / world.confinement_length);
        Vec3f pull =
            scale > 1e-6f && s.geometry.volume.block(b)[c] ? cross(n * (1 / scale), w) * strength : Vec3f{};
        if (const float size = length(pull); size > most) pull = pull * (most / size);
        for (int a = 0; a < 3; ++a) force[a]->block(b)[c] = pull[a];
      }
    });
    for (Floats* f : force) std::fill_n(f->block(outside_open), 2 * block_cells, 0.f);
    Floats* face_velocity[3] = {&s.u, &s.v, &s.w};
    const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
    each_block(g, [&](int b) {
      const int* around = g.around(b);
      for (int a = 0; a < 3; ++a)
        for (int c = 0; c < block_cells; ++c)
          if (face[a]->block(b)[c])
            face_velocity[a]->block(b)[c] +=
                0.5f * (force[a]->block(b)[c] + force[a]->data()[before(around, b, c, a)]);
    });
  }
}

void GasSolver::apply_sources(GasState& s, const GasWorld& world, double dt, Ledger& ledger) {
  const double h = world.cell_size;
  const BlockGrid& g = s.grid;
  if (target_.size() != g.size())
    target_.resize(g.size());
  else
    each_block(g, [&](int b) { std::fill_n(target_.block(b), block_cells, 0.f); });
  for (const GasSource& source : world.sources) {
    std::vector<int> touched;
    for (int b = first_block; b < g.size(); ++b) {
      const BlockKey& k = g.key(b);
      if (k.room != source.room) continue;
      Box box;
      box.add(Vec3d{k.at.x * 8 * h, k.at.y * 8 * h, k.at.z * 8 * h}),
          box.add(Vec3d{(k.at.x + 1) * 8 * h, (k.at.y + 1) * 8 * h, (k.at.z + 1) * 8 * h});
      box.grow(h);
      if (box.overlaps(source.bounds)) touched.push_back(b);
    }
    const double added = ordered_sum<double>(touched.size(), [&](size_t i) {
      const int b = touched[i];
      double mass = 0;
      for (int c = 0; c < block_cells; ++c) {
        const uint8_t volume = s.geometry.volume.block(b)[c];
        const Vec3d p = cell_center(g, b, c, h);
        const auto weight_at = [&](const Vec3d& q) {
          return std::clamp(0.5 - source.distance(q) / h, 0.0, 1.0);
        };
        if (source.blows) {
          const Vec3d offset[3] = {{h / 2, 0, 0}, {0, h / 2, 0}, {0, 0, h / 2}};
          Floats* velocity[3] = {&s.u, &s.v, &s.w};
          const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
          for (int a = 0; a < 3; ++a)
            if (face[a]->block(b)[c]) {
              float& v = velocity[a]->block(b)[c];
              v += float(weight_at(p - offset[a])) * (float(source.velocity[a]) - v);
            }
        }
        if (volume == 0 || volume == 255) continue;
        double weight = weight_at(p);
        if (weight <= 0) continue;
        if (source.divergence != 0) target_.block(b)[c] += float(weight * source.divergence);
        s.heat.block(b)[c] += float(weight * (1 - std::exp(-8 * dt)) * (source.heat - s.heat.block(b)[c]));
        if (source.patchiness > 0) {
          const Vec3f q = to<float>(p / source.patch_size);
          const double patch = 0.5 + 1.2 * flow_noise(q, float(s.time * 1.5), 99).value;
          weight *= 1 - source.patchiness * (1 - std::clamp(patch, 0.0, 1.0));
        }
        const float old = s.density.block(b)[c];
        const double change = source.sets ? weight * (source.density - old) : weight * source.density * dt;
        s.density.block(b)[c] = float(old + change);
        const float kept = change < 0 && old > 0 ? float((old + change) / old) : 1.f;
        const double gain = std::max(change, 0.0);
        s.red.block(b)[c] = s.red.block(b)[c] * kept + float(gain * source.color.x);
        s.green.block(b)[c] = s.green.block(b)[c] * kept + float(gain * source.color.y);
        s.blue.block(b)[c] = s.blue.block(b)[c] * kept + float(gain * source.color.z);
        mass += (double(s.density.block(b)[c]) - old) * volume / full_volume;
      }
      return mass * h * h * h;
    });
    ledger.poured += added;
  }
}

void GasSolver::apply_viscosity(GasState& s, const GasWorld& world, double dt) {
  if (world.viscosity <= 0) return;
  scratch(s);
  const BlockGrid& g = s.grid;
  const float k = float(dt * world.viscosity / (world.cell_size * world.cell_size));
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  for (int component = 0; component < 3; ++component) {
    Floats& v = *velocity[component];
    const Bytes& open = *face[component];
    each_block(g, [&](int b) {
      const int* around = g.around(b);
      const Vec3i at = g.key(b).at;
      for (int c = 0; c < block_cells; ++c) {
        const float here = v.block(b)[c];
        first_[0].block(b)[c] = here;
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
        first_[0].block(b)[c] = here + k * sum;
      }
    });
    std::fill_n(first_[0].block(outside_open), 2 * block_cells, 0.f);
    std::swap(v, first_[0]);
  }
}

}  // namespace pour
