// Semi-Lagrangian transport with MacCormack's correction.
#include <array>
#include <cmath>

#include "base/parallel.h"
#include "gas/gas.h"

namespace pour {
namespace {

/// The eight grid points around a place and their weights; what is not open counts for nothing.
struct Corners {
  size_t at[8];
  float weight[8];
  bool all = true;  // every corner is open
  bool any = true;  // at least one is

  /// x, y, z in cells from the first point of the block's lattice.
  [[gnu::always_inline]] void set(const int* around, float x, float y, float z) {
    const float lx = std::clamp(x, -7.9f, 14.9f), ly = std::clamp(y, -7.9f, 14.9f),
                lz = std::clamp(z, -7.9f, 14.9f);
    const float bx = std::floor(lx), by = std::floor(ly), bz = std::floor(lz);
    const float fx = lx - bx, fy = ly - by, fz = lz - bz;
    const int ix = int(bx), iy = int(by), iz = int(bz);
    if (unsigned(ix) < 7 && unsigned(iy) < 7 && unsigned(iz) < 7) {
      const size_t base = size_t(around[13]) * block_cells + size_t((iz * 8 + iy) * 8 + ix);
      at[0] = base, at[1] = base + 1, at[2] = base + 8, at[3] = base + 9;
      at[4] = base + 64, at[5] = base + 65, at[6] = base + 72, at[7] = base + 73;
    } else {
      for (int k = 0; k < 8; ++k) {
        const int cx = ix + (k & 1), cy = iy + (k >> 1 & 1), cz = iz + (k >> 2);
        const int block = around[((cz >> 3) + 1) * 9 + ((cy >> 3) + 1) * 3 + (cx >> 3) + 1];
        at[k] = size_t(block) * block_cells + size_t(((cz & 7) * 8 + (cy & 7)) * 8 + (cx & 7));
      }
    }
    const float gx = 1 - fx, gy = 1 - fy, gz = 1 - fz;
    weight[0] = gx * gy * gz, weight[1] = fx * gy * gz, weight[2] = gx * fy * gz, weight[3] = fx * fy * gz;
    weight[4] = gx * gy * fz, weight[5] = fx * gy * fz, weight[6] = gx * fy * fz, weight[7] = fx * fy * fz;
  }
  /// `counts` tells which points have a value.
  template <class Counts>
  [[gnu::always_inline]] void mask(const Counts& counts) {
    float sum = 0;
    for (int k = 0; k < 8; ++k) {
      if (!counts(at[k])) {
        all = all && weight[k] < 1e-4f;  // what has no weight is not missed
        weight[k] = 0;
      }
      sum += weight[k];
    }
    any = sum > 1e-4f;
    if (!all && any)
      for (float& w : weight) w /= sum;
  }
  float value(const float* data) const {
    float v = 0;
    for (int k = 0; k < 8; ++k) v += weight[k] * data[at[k]];
    return v;
  }
  void range(const float* data, float& low, float& high) const {
    low = 1e30f, high = -1e30f;
    for (int k = 0; k < 8; ++k) {
      const float v = data[at[k]];
      low = std::min(low, v), high = std::max(high, v);
    }
  }
};

enum class Place { cell, x_face, y_face, z_face };

using Displacement = GasSolver::Displacement;

/// How far the gas at a lattice point came, in cells: at faces the mean of the cells on both sides.
[[gnu::always_inline]] inline Vec3f moved(const Displacement& d, const float* const (&way)[3], Place place,
                                          const int* around, int block, int c) {
  const size_t here = size_t(block) * block_cells + size_t(c);
  Vec3f v{way[0][here], way[1][here], way[2][here]};
  if (place == Place::cell) return v;
  size_t other = here;
  if (place == Place::x_face)
    other = (c & 7) ? here - 1 : size_t(around[x_minus]) * block_cells + size_t(c + 7);
  else if (place == Place::y_face)
    other = (c >> 3 & 7) ? here - 8 : size_t(around[y_minus]) * block_cells + size_t(c + 56);
  else
    other = (c >> 6) ? here - 64 : size_t(around[z_minus]) * block_cells + size_t(c + 448);
  if (other < size_t(first_block) * block_cells || !d.volume[other]) return v;
  const Vec3f u{way[0][other], way[1][other], way[2][other]};
  return d.volume[here] ? (u + v) * 0.5f : u;
}

/// Fields that live at the same place, by MacCormack. `open` tells the points that hold a value; `first` and
/// `second` are scratch of the grid's size.
template <size_t N>
void carry(const BlockGrid& g, const std::array<Floats*, N>& field, const Bytes& open, const Displacement& d,
           Place place, const std::vector<uint8_t>& plain, Floats* first, Floats* second) {
  std::array<const float*, N> from, forward;
  for (size_t n = 0; n < N; ++n) from[n] = field[n]->data(), forward[n] = first[n].data();
  // Still, clean air counts where the computed gas ends: its zeros are what flows in from there.
  const auto counts = [open = open.data(), volume = d.volume](size_t i) {
    return open[i] || volume[i] == 255;
  };
  const auto each = [&](auto&& f) {
    parallel_for(size_t(g.blocks()), [&](size_t i) {
      const int b = int(i) + first_block;
      const int* around = g.around(b);
      const bool easy = plain[size_t(b)];
      for (int c = 0; c < block_cells; ++c) f(size_t(b) * block_cells + size_t(c), b, c, around, easy);
    });
  };
  each([&](size_t i, int b, int c, const int* around, bool easy) {
    if (!easy && !open.data()[i]) {
      for (size_t n = 0; n < N; ++n) first[n].data()[i] = 0;
      return;
    }
    const Vec3f v = moved(d, d.back, place, around, b, c);
    Corners at;
    at.set(around, float(c & 7) + v.x, float(c >> 3 & 7) + v.y, float(c >> 6) + v.z);
    if (!easy) at.mask(counts);
    for (size_t n = 0; n < N; ++n) first[n].data()[i] = at.any ? at.value(from[n]) : from[n][i];
  });
  each([&](size_t i, int b, int c, const int* around, bool easy) {
    const auto keep_first = [&] {
      for (size_t n = 0; n < N; ++n) second[n].data()[i] = forward[n][i];
    };
    if (!easy && !open.data()[i]) return keep_first();
    const Vec3f v = moved(d, d.back, place, around, b, c), u = moved(d, d.ahead, place, around, b, c);
    Corners source, back;
    const float x = float(c & 7), y = float(c >> 3 & 7), z = float(c >> 6);
    source.set(around, x + v.x, y + v.y, z + v.z);
    back.set(around, x + u.x, y + u.y, z + u.z);
    if (!easy) {
      source.mask(counts), back.mask(counts);
      // Next to walls the monotone first-order value stands.
      if (!source.all || !back.all) return keep_first();
    }
    for (size_t n = 0; n < N; ++n) {
      float low, high;
      source.range(from[n], low, high);
      second[n].data()[i] =
          std::clamp(forward[n][i] + 0.5f * (from[n][i] - back.value(forward[n])), low, high);
    }
  });
  for (size_t n = 0; n < N; ++n) {
    std::fill_n(second[n].block(outside_open), 2 * block_cells, 0.f);  // the outside keeps its zeros
    std::swap(*field[n], second[n]);
  }
}

}  // namespace

void GasSolver::scratch(const GasState& s) {
  const auto fit = [&](auto& fields) {
    for (Floats& f : fields)
      if (f.size() != s.grid.size()) f.resize(s.grid.size());
  };
  fit(back_), fit(ahead_), fit(first_), fit(second_);
}

void GasSolver::find_displacement(const GasState& s, double dt, double cell_size) {
  scratch(s);
  make_system(s);
  Floats* center[3] = {&first_[0], &first_[1], &first_[2]};  // velocities at cell centres
  const float scale = float(-dt / cell_size);
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = s.grid.around(b);
    const uint8_t* volume = s.geometry.volume.block(b);
    for (int c = 0; c < block_cells; ++c) {
      const int x = c & 7, y = c >> 3 & 7, z = c >> 6;
      const auto mean = [&](const Floats& f, int coordinate, int stride, int next) {
        const float here = f.block(b)[c];
        if (coordinate < 7) return 0.5f * (here + f.block(b)[c + stride]);
        // Beyond the computed region the gas goes on as it goes here.
        return next == outside_open ? here : 0.5f * (here + f.block(next)[c - 7 * stride]);
      };
      const bool gas = volume[c];
      center[0]->block(b)[c] = gas ? scale * mean(s.u, x, 1, around[x_plus]) : 0;
      center[1]->block(b)[c] = gas ? scale * mean(s.v, y, 8, around[y_plus]) : 0;
      center[2]->block(b)[c] = gas ? scale * mean(s.w, z, 64, around[z_plus]) : 0;
    }
  });
  const uint8_t* volume = s.geometry.volume.data();
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = s.grid.around(b);
    const bool easy = plain_[size_t(b)];
    for (int c = 0; c < block_cells; ++c) {
      const float vx = center[0]->block(b)[c], vy = center[1]->block(b)[c], vz = center[2]->block(b)[c];
      Vec3f d{vx, vy, vz};
      if (vx != 0 || vy != 0 || vz != 0) {  // midpoint rule
        Corners at;
        at.set(around, float(c & 7) + 0.5f * vx, float(c >> 3 & 7) + 0.5f * vy, float(c >> 6) + 0.5f * vz);
        if (!easy) at.mask([volume](size_t n) { return uint8_t(volume[n] + 1) > 1; });  // gas inside
        if (at.any)
          d = {at.value(center[0]->data()), at.value(center[1]->data()), at.value(center[2]->data())};
      }
      constexpr float reach = 6.5f;  // of the blocks next door
      // Backwards d = v + ½ (v · ∇) v, so the same rule forwards gives -v + ½ (v · ∇) v = d - 2 v. With -d
      // instead, the correction would push everything outwards on curved paths.
      const float v[3] = {vx, vy, vz};
      for (int k = 0; k < 3; ++k) {
        back_[k].block(b)[c] = std::clamp(d[k], -reach, reach);
        ahead_[k].block(b)[c] = std::clamp(d[k] - 2 * v[k], -reach, reach);
      }
    }
  });
}

GasSolver::Displacement GasSolver::displacement(const GasState& s) const {
  return {{back_[0].data(), back_[1].data(), back_[2].data()},
          {ahead_[0].data(), ahead_[1].data(), ahead_[2].data()},
          s.geometry.volume.data()};
}

void GasSolver::advect_field(const GasState& s, Floats& field, double dt, double cell_size) {
  find_displacement(s, dt, cell_size);
  carry<1>(s.grid, {&field}, s.geometry.volume, displacement(s), Place::cell, plain_, first_, second_);
}

void GasSolver::advect(GasState& s, const GasWorld& world, double dt, Ledger& ledger) {
  const double h = world.cell_size, cell_mass = h * h * h / full_volume;
  const int rooms = int(world.rooms.size()) + 1;
  const auto mass_by_room = [&] {
    std::vector<double> part(size_t(s.grid.blocks())), sum(size_t(rooms), 0);
    parallel_for(part.size(), [&](size_t i) {
      const int b = int(i) + first_block;
      const float* d = s.density.block(b);
      const uint8_t* v = s.geometry.volume.block(b);
      double m = 0;
      for (int c = 0; c < block_cells; ++c) m += v[c] == 255 ? 0 : double(d[c]) * v[c];
      part[i] = m * cell_mass;
    });
    for (size_t i = 0; i < part.size(); ++i) sum[size_t(s.grid.key(int(i) + first_block).room)] += part[i];
    return sum;
  };
  const std::vector<double> before = mass_by_room();

  // What leaves through open sides: density times flow through the last faces inside.
  const double left = ordered_sum<double>(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    if (s.grid.key(b).room) return 0.0;
    const Vec3i at = s.grid.key(b).at;
    bool edge = false;
    for (int a = 0; a < 3; ++a)
      edge = edge || at[a] * 8 == world.low[a] || at[a] * 8 + 8 >= world.low[a] + world.cells[a];
    if (!edge) return 0.0;
    const int* around = s.grid.around(b);
    double out = 0;
    for (int c = 0; c < block_cells; ++c) {
      const int local[3] = {c & 7, c >> 3 & 7, c >> 6}, stride[3] = {1, 8, 64},
                minus[3] = {x_minus, y_minus, z_minus};
      const Floats* velocity[3] = {&s.u, &s.v, &s.w};
      const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
      for (int a = 0; a < 3; ++a) {
        const double flow = double(velocity[a]->block(b)[c]) * face[a]->block(b)[c] / 255;
        const int index = at[a] * 8 + local[a];
        if (index == world.low[a])
          out += std::max(0.0, -flow) * s.density.block(b)[c];
        else if (index == world.low[a] + world.cells[a]) {
          const float inside = local[a] ? s.density.block(b)[c - stride[a]]
                                        : s.density.block(around[minus[a]])[c + 7 * stride[a]];
          out += std::max(0.0, flow) * inside;
        }
      }
    }
    return out * h * h * dt;
  });

  find_displacement(s, dt, h);
  const Displacement d = displacement(s);
  carry<1>(s.grid, {&s.u}, s.geometry.fx, d, Place::x_face, plain_, first_, second_);
  carry<1>(s.grid, {&s.v}, s.geometry.fy, d, Place::y_face, plain_, first_, second_);
  carry<1>(s.grid, {&s.w}, s.geometry.fz, d, Place::z_face, plain_, first_, second_);
  carry<5>(s.grid, {&s.density, &s.heat, &s.red, &s.green, &s.blue}, s.geometry.volume, d, Place::cell,
           plain_, first_, second_);

  // Gas that expands at a source thins the smoke in it; where gas is absorbed the smoke stays behind.
  if (target_.size() == s.grid.size()) {
    parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
      const int b = int(i) + first_block;
      const float* t = target_.block(b);
      for (int c = 0; c < block_cells; ++c) {
        if (t[c] == 0) continue;
        const float thinner = std::exp(-t[c] * float(dt));
        for (Floats* f : {&s.density, &s.red, &s.green, &s.blue}) f->block(b)[c] *= thinner;
      }
    });
  }
  // Nothing lives in the outside cells of the last blocks.
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    if (plain_[size_t(b)]) return;
    const uint8_t* v = s.geometry.volume.block(b);
    for (int c = 0; c < block_cells; ++c)
      if (v[c] == 255 || v[c] == 0)
        for (Floats* f : {&s.density, &s.heat, &s.red, &s.green, &s.blue}) f->block(b)[c] = 0;
  });

  const std::vector<double> after = mass_by_room();
  std::vector<float> factor(size_t(rooms), 1.f);
  for (int r = 0; r < rooms; ++r) {
    const size_t k = size_t(r);
    const double lost = r == 0 ? std::min(left, before[k]) : 0;
    const double wanted = before[k] - lost;
    if (r == 0) ledger.left += lost;
    if (after[k] > 0) factor[k] = float(std::clamp(wanted / after[k], r ? 0.5 : 0.97, r ? 2.0 : 1.03));
    ledger.numeric += after[k] * double(factor[k]) - wanted;
  }
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const float f = factor[size_t(s.grid.key(b).room)];
    if (f == 1) return;
    for (Floats* field : {&s.density, &s.red, &s.green, &s.blue})
      for (int c = 0; c < block_cells; ++c) field->block(b)[c] *= f;
  });
}

}  // namespace pour
