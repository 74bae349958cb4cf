// Semi-Lagrangian transport with MacCormack's correction.
#include <array>
#include <cmath>
#include <cstring>

#include "base/parallel.h"
#include "gas/calm.h"
#include "gas/carried.h"
#include "gas/gas.h"
#include "gas/tile.h"

namespace pour {
namespace {

enum class Place { cell, x_face, y_face, z_face };

using Displacement = GasSolver::Displacement;
using Rows = std::array<TilePlaces, 64>;  // of a block, [z * 8 + y]

/// Cells around a block that are reached from its lattice points.
int reach_of(const Displacement& d, const int* around, int block) {
  float most = d.most[block];
  for (const int n : {around[x_minus], around[y_minus], around[z_minus]}) most = std::max(most, d.most[n]);
  return std::min(int(std::ceil(most)), Tile::most_reach);
}

/// Where the gas at a block's lattice points came from or goes to: at faces the mean of the cells on both
/// sides, of those that hold gas.
void find_places(Rows& rows, const Displacement& d, const Floats (&way)[3], Place place, const int* around,
                 int block, int reach) {
  const Around<uint8_t> volume(*d.volume, around, block);
  const Around<float> moves[3] = {{way[0], around, block}, {way[1], around, block}, {way[2], around, block}};
  const int axis = int(place) - 1;
  static constexpr int minus[3] = {x_minus, y_minus, z_minus};
  // Gas outside the computed region has no displacement.
  const bool beyond = axis >= 0 && around[minus[axis]] < first_block;
  for (int z = 0; z < 8; ++z)
    for (int y = 0; y < 8; ++y) {
      const auto before = [&](const auto& plane) {
        return axis == 0 ? plane.left(y) : axis == 1 ? plane.below(y) : plane.behind(y);
      };
      v8 move[3];
      for (int k = 0; k < 3; ++k) move[k] = load(moves[k].c + Around<float>::row(y, z));
      if (axis >= 0 && !(beyond && ((axis == 1 && y == 0) || (axis == 2 && z == 0)))) {
        const LatticePlane<uint8_t> v = volume.plane(z);
        const v8i here = v.at(y) > splat(0);
        v8i other = before(v) > splat(0);
        if (beyond && axis == 0) other[0] = 0;
        for (int k = 0; k < 3; ++k) {
          const v8 there = before(moves[k].plane(z));
          move[k] = choose(other, choose(here, (move[k] + there) * 0.5f, there), move[k]);
        }
      }
      rows[size_t(z * 8 + y)].set(y, z, move[0], move[1], move[2], reach);
    }
}

/// A bit for each row of eight cells of each block.
using RowBits = std::vector<uint64_t>;

RowBits rows_with_any(const BlockGrid& g, const Floats& field) {
  RowBits out(size_t(g.size()), 0);
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const float* f = field.block(int(i) + first_block);
    for (int r = 0; r < 64; ++r) {
      const v8i bits = v8i(load(f + 8 * r)) & 0x7fffffff;  // a negative zero is none
      if (!_mm256_testz_si256(__m256i(bits), __m256i(bits))) out[i + first_block] |= uint64_t(1) << r;
    }
  });
  return out;
}

/// Rows of a block that can read any of `rows`, from at most `reach` cells away.
uint64_t rows_near(const RowBits& rows, const int* around, int reach) {
  uint32_t planes[24];  // by z, each with its rows y from -8 to 15
  uint64_t any = 0;
  for (int z = 0; z < 3; ++z) {
    uint64_t columns[3] = {};
    for (int n = 0; n < 9; ++n) columns[n / 3] |= rows[size_t(around[9 * z + n])];
    for (int k = 0; k < 8; ++k)
      planes[8 * z + k] = uint32_t(columns[0] >> 8 * k & 255) | uint32_t(columns[1] >> 8 * k & 255) << 8 |
                          uint32_t(columns[2] >> 8 * k & 255) << 16;
    any |= columns[0] | columns[1] | columns[2];
  }
  if (!any) return 0;
  uint64_t out = 0;
  for (int z = 0; z < 8; ++z) {
    uint32_t seen = 0, wide = 0;
    for (int k = z - reach; k <= z + reach + 1; ++k) seen |= planes[8 + k];
    for (int k = -reach; k <= reach + 1; ++k) wide |= k < 0 ? seen << -k : seen >> k;
    out |= uint64_t(wide >> 8 & 255) << 8 * z;
  }
  return out;
}

/// What a field leaves for those that are shares of it: where it is at all, and cell by cell where
/// MacCormack's correction stands, a byte for each row of each block.
struct Lead {
  RowBits rows;
  std::vector<std::array<uint8_t, 64>> corrected;
  Floats carried;  // it before it was calmed

  v8i corrected_row(int block, size_t r) const {
    const v8i bit{1, 2, 4, 8, 16, 32, 64, 128};
    return (bit & int(corrected[size_t(block)][r])) != v8i{};
  }
  void set_row(int block, size_t r, v8i which) {
    corrected[size_t(block)][r] = uint8_t(_mm256_movemask_ps(__m256(which)));
  }
};

/// A field that leads decides for those that follow, so that what is a share of it stays one. The bare one
/// is carried and not calmed.
enum class Role { alone, leads, follows, bare };

/// A field by MacCormack. `open` tells the points that will hold a value, `readable` those that do. What is
/// up to `trace` becomes zero: far too thin to be seen, it would only spread over all that is computed.
template <Role role = Role::alone>
void carry(const BlockGrid& g, Floats& field, const Bytes& open, const Displacement& d, Place place,
           const std::vector<GasSolver::Surroundings>& surroundings, const Bytes& readable, float trace = 0,
           Lead* lead = nullptr) {
  Floats first(g.size(), unset), second(g.size(), unset);
  std::copy_n(field.block(outside_open), block_cells, first.block(outside_open));
  constexpr bool in_step = role == Role::leads || role == Role::follows;
  RowBits own;
  if (place == Place::cell && !in_step) own = rows_with_any(g, field);
  if (role == Role::leads) lead->rows = rows_with_any(g, field), lead->corrected.assign(size_t(g.size()), {});
  const RowBits& rows = in_step ? lead->rows : own;
  // A point between others counts for what its open corners make up. Still, clean air counts where the
  // computed gas ends: its zeros are what flows in from there.
  constexpr float none = 1e-4f;
  const auto counts = [&](int block, int c) {
    const v8 outside = load(d.volume->block(block) + c) - splat(outside_volume);
    return choose((load(readable.block(block) + c) > splat(0)) | (outside >= splat(0)), splat(1), splat(0));
  };
  // Calls f for the blocks that have rows to carry, with those; in the others the field is zero. Air moves
  // wherever it is, smoke and warmth are in some of it.
  std::vector<uint8_t> there(size_t(g.size()), 0);
  const auto each = [&](Floats& out, auto&& f) {
    parallel_for(size_t(g.blocks()), [&](size_t i) {
      const int b = int(i) + first_block;
      const int* around = g.around(b);
      const bool masked = surroundings[size_t(b)] == GasSolver::Surroundings::solid;
      const int reach = reach_of(d, around, b);
      uint64_t carried = place == Place::cell ? rows_near(rows, around, reach) : ~uint64_t(0);
      if (masked && carried)
        for (int r = 0; r < 64; ++r) {
          uint64_t faces;
          std::memcpy(&faces, open.block(b) + 8 * r, 8);
          if (!faces) carried &= ~(uint64_t(1) << r);
        }
      if (~carried)
        for (int r = 0; r < 64; ++r)
          if (!(carried >> r & 1)) store(out.block(b) + 8 * r, splat(0));
      there[size_t(b)] = carried != 0;
      if (carried) f(b, around, masked, reach, carried);
    });
  };
  each(first, [&](int b, const int* around, bool masked, int reach, uint64_t carried) {
    Rows source;
    find_places(source, d, d.back, place, around, b, reach);
    Tile tile, counted;
    tile.fill(field, around, reach);
    // A closed face beside a solid that moves holds its velocity: as good as any.
    if (masked)
      counted.make(around, reach, [&](int block, int c) {
        const v8 held = load(field.block(block) + c);
        return place == Place::cell ? counts(block, c) : choose(held != splat(0), splat(1), counts(block, c));
      });
    for (size_t r = 0; r < 64; ++r) {
      if (!(carried >> r & 1)) continue;
      v8 v = read<false>(tile, source[r], reach).value;
      if (masked) {
        const v8 share = read<false>(counted, source[r], reach).value;
        v = choose(share > splat(none), v / share, load(field.block(b) + 8 * r));
        v = choose(load(open.block(b) + 8 * r) > splat(0), v, splat(0));
      }
      store(first.block(b) + 8 * r, v);
    }
  });
  each(second, [&](int b, const int* around, bool masked, int reach, uint64_t carried) {
    Rows source, back;
    find_places(source, d, d.back, place, around, b, reach);
    find_places(back, d, d.ahead, place, around, b, reach);
    Tile from, forward, counted;
    from.fill(field, around, reach), forward.fill(first, around, reach);
    if (masked && role != Role::follows) counted.make(around, reach, counts);
    for (size_t r = 0; r < 64; ++r) {
      if (!(carried >> r & 1)) continue;
      const TileValues v = read<true>(from, source[r], reach);
      const v8 once = load(first.block(b) + 8 * r);
      const v8 twice = read<false>(forward, back[r], reach).value;
      const v8 mended = once + 0.5f * (load(field.block(b) + 8 * r) - twice);
      float* to = second.block(b) + 8 * r;
      if constexpr (role == Role::follows) {
        store(to, choose(lead->corrected_row(b, r), vmin(vmax(mended, v.low), v.high), once));
        continue;
      }
      // A new extreme, or next to a wall: the first-order value stands. Cutting the correction off at the
      // extreme instead lets streaks grow along the grid.
      v8i good = (mended >= v.low) & (mended <= v.high);
      if (masked) {
        const auto whole = [&](const TilePlaces& places) {
          return read<false>(counted, places, reach).value > splat(1 - none);
        };
        good &= whole(source[r]) & whole(back[r]) & (load(open.block(b) + 8 * r) > splat(0));
      }
      if (role == Role::leads) lead->set_row(b, r, good);
      const v8 value = choose(good, mended, once);
      store(to, choose(vmax(value, -value) > splat(trace), value, splat(0)));
    }
  });
  if (role == Role::bare) {
    field = std::move(second);
    return;
  }
  const bool at_cells = place == Place::cell;
  const Calming calming{g,
                        surroundings,
                        open,
                        uint8_t(at_cells ? full_volume : 255),
                        at_cells ? 1.f / 16 : 1.f / 32,
                        trace,
                        at_cells ? &there : nullptr};
  if (role == Role::follows)
    calming.calm(second, lead->carried, first);
  else
    calming.calm(second, first);
  field = std::move(first);
  if (role == Role::leads) lead->carried = std::move(second);
}

}  // namespace

Displacement GasSolver::find_displacement(const GasState& s, double dt, double cell_size) {
  make_system(s);
  Displacement out;
  for (Floats* f : {out.back, out.ahead})
    for (int k = 0; k < 3; ++k) f[k].resize(s.grid.size(), unset);
  out.most.assign(size_t(s.grid.size()), 0), out.volume = &s.geometry.volume;
  Floats(&center)[3] = out.ahead;  // first of all the way at cell centres, the velocity being as it is there
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
      center[0].block(b)[c] = gas ? scale * mean(s.u, x, 1, around[x_plus]) : 0;
      center[1].block(b)[c] = gas ? scale * mean(s.v, y, 8, around[y_plus]) : 0;
      center[2].block(b)[c] = gas ? scale * mean(s.w, z, 64, around[z_plus]) : 0;
    }
  });
  // Midpoint rule: the velocity half a step back. Uncomputed gas has none.
  const auto is_gas = [&](int block, int c) {
    const v8 v = load(s.geometry.volume.block(block) + c);
    return choose((v > splat(0)) & (v < splat(outside_volume)), splat(1), splat(0));
  };
  constexpr float longest = float(Tile::most_reach) - 0.5f;
  const auto limit = [](v8 v, float most) { return vmin(vmax(v, splat(-most)), splat(most)); };
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = s.grid.around(b);
    v8 most{};
    for (int k = 0; k < 3; ++k)
      for (int c = 0; c < block_cells; c += 8) {
        const v8 v = load(center[k].block(b) + c);
        most = vmax(most, vmax(v, -v));
      }
    float half = 0;
    for (int n = 0; n < 8; ++n) half = std::max(half, std::min(0.5f * most[n], longest));
    const int reach = int(std::ceil(half));
    if (reach == 0) {
      for (Floats& f : out.back) std::fill_n(f.block(b), block_cells, 0.f);
      return;
    }
    Rows midway;
    for (int r = 0; r < 64; ++r) {
      v8 way[3];
      for (int k = 0; k < 3; ++k) way[k] = limit(0.5f * load(center[k].block(b) + 8 * r), longest);
      midway[size_t(r)].set(r & 7, r >> 3, way[0], way[1], way[2], reach);
    }
    Tile tile;
    std::array<v8, 64> share;
    const bool masked = surroundings_[size_t(b)] != Surroundings::gas;
    if (masked) {
      tile.make(around, reach, is_gas);
      for (size_t r = 0; r < 64; ++r) share[r] = read<false>(tile, midway[r], reach).value;
    }
    for (int k = 0; k < 3; ++k) {
      if (masked)
        tile.make(around, reach,
                  [&](int block, int c) { return load(center[k].block(block) + c) * is_gas(block, c); });
      else
        tile.fill(center[k], around, reach);
      for (size_t r = 0; r < 64; ++r) {
        v8 d = read<false>(tile, midway[r], reach).value;
        if (masked) d = choose(share[r] > splat(1e-4f), d / share[r], load(center[k].block(b) + 8 * r));
        store(out.back[k].block(b) + 8 * r, limit(d, longest));
      }
    }
  });
  // Backwards d = v + ½ (v · ∇) v, so the same rule forwards gives -v + ½ (v · ∇) v = d - 2 v. With -d
  // instead, the correction would push everything outwards on curved paths.
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    v8 longest_way{};
    for (int k = 0; k < 3; ++k)
      for (int c = 0; c < block_cells; c += 8) {
        const v8 d = load(out.back[k].block(b) + c),
                 ahead = limit(d - 2 * load(center[k].block(b) + c), longest);
        store(out.ahead[k].block(b) + c, ahead);
        for (const v8 way : {d, ahead}) longest_way = vmax(longest_way, vmax(way, -way));
      }
    for (int n = 0; n < 8; ++n) out.most[size_t(b)] = std::max(out.most[size_t(b)], longest_way[n]);
  });
  return out;
}

void GasSolver::advect_field(const GasState& s, Floats& field, double dt, double cell_size) {
  const Displacement d = find_displacement(s, dt, cell_size);
  carry<Role::bare>(s.grid, field, s.geometry.volume, d, Place::cell, surroundings_, s.geometry.volume);
}

namespace {

/// The least and the most of each colour that any smoke has.
struct ColorBounds {
  Vec3f least{1e30f, 1e30f, 1e30f}, most{};
  ColorBounds& operator+=(const ColorBounds& o) {
    least = min(least, o.least), most = max(most, o.most);
    return *this;
  }
  /// Smokes of one colour keep it by themselves.
  bool differ() const { return length(most - least) > 1e-5f; }
};

constexpr float least_coloured = 1e-7f;  // kg/m³

ColorBounds color_bounds(const GasState& s) {
  return ordered_sum<ColorBounds>(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    ColorBounds out;
    const float *d = s.density.block(b), *red = s.red.block(b), *green = s.green.block(b),
                *blue = s.blue.block(b);
    for (int c = 0; c < block_cells; ++c) {
      if (d[c] <= least_coloured) continue;
      const Vec3f color = Vec3f{red[c], green[c], blue[c]} / d[c];
      out.least = min(out.least, color), out.most = max(out.most, color);
    }
    return out;
  });
}

/// Where colours meet, their amounts are carried one by one and no longer fit the density exactly: in thin
/// smoke a mixture would be more colourful than any smoke in it.
void keep_colors(GasState& s, const ColorBounds& bounds) {
  if (!bounds.differ()) return;
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const float* d = s.density.block(b);
    Floats* fields[3] = {&s.red, &s.green, &s.blue};
    for (int a = 0; a < 3; ++a) {
      float* f = fields[a]->block(b);
      for (int c = 0; c < block_cells; ++c)
        f[c] = std::clamp(f[c], bounds.least[a] * std::max(0.f, d[c]), bounds.most[a] * std::max(0.f, d[c]));
    }
  });
}

}  // namespace

void GasSolver::advect(GasState& s, const GasWorld& world, double dt, Ledger& ledger) {
  const double h = world.cell_size, cell_mass = h * h * h / full_volume;
  const int rooms = int(world.rooms.size()) + 1;
  const auto mass_by_room = [&](const Bytes& volume) {
    std::vector<double> part(size_t(s.grid.blocks())), sum(size_t(rooms), 0);
    parallel_for(part.size(), [&](size_t i) {
      const int b = int(i) + first_block;
      const float* d = s.density.block(b);
      const uint8_t* v = volume.block(b);
      double m = 0;
      for (int c = 0; c < block_cells; ++c) m += v[c] == outside_volume ? 0 : double(d[c]) * v[c];
      part[i] = m * cell_mass;
    });
    for (size_t i = 0; i < part.size(); ++i) sum[size_t(s.grid.key(int(i) + first_block).room)] += part[i];
    return sum;
  };
  const std::vector<double> before = mass_by_room(before_.size() ? before_ : s.geometry.volume);

  // Loss through open sides: density times flow through the last faces inside.
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

  const ColorBounds colors = color_bounds(s);
  {
    const Displacement d = find_displacement(s, dt, h);
    carry(s.grid, s.u, s.geometry.fx, d, Place::x_face, surroundings_, s.geometry.fx);
    carry(s.grid, s.v, s.geometry.fy, d, Place::y_face, surroundings_, s.geometry.fy);
    carry(s.grid, s.w, s.geometry.fz, d, Place::z_face, surroundings_, s.geometry.fz);
    const Bytes& volume = s.geometry.volume;
    // Smoke is read from the cells as they were before solids moved.
    const Bytes& readable = before_.size() ? before_ : volume;
    Lead lead;
    for (const Carried& c : carried) {
      Floats& f = s.*c.values;
      if (c.how == Carriage::amount)
        carry<Role::leads>(s.grid, f, volume, d, Place::cell, surroundings_, readable, trace_of_smoke_,
                           &lead);
      else if (c.how == Carriage::part)
        carry<Role::follows>(s.grid, f, volume, d, Place::cell, surroundings_, readable, 0, &lead);
      else  // it drives all this and isn't seen: calmed, it would warm less than was poured
        carry<Role::bare>(s.grid, f, volume, d, Place::cell, surroundings_, readable, trace_of_heat_);
    }
    keep_colors(s, colors);
  }

  // Gas that expands at a source thins the smoke in it; where gas is absorbed the smoke stays behind.
  if (target_.size() == s.grid.size()) {
    parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
      const int b = int(i) + first_block;
      const float* t = target_.block(b);
      for (int c = 0; c < block_cells; ++c) {
        if (t[c] == 0) continue;
        const float thinner = std::exp(-t[c] * float(dt));
        for (const Carried& f : carried)
          if (f.is_smoke()) (s.*f.values).block(b)[c] *= thinner;
      }
    });
  }
  // Nothing lives in the outside cells of the last blocks.
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    if (surroundings_[size_t(b)] != Surroundings::solid) return;
    const uint8_t* v = s.geometry.volume.block(b);
    for (int c = 0; c < block_cells; ++c)
      if (v[c] == outside_volume || v[c] == 0)
        for (const Carried& f : carried) (s.*f.values).block(b)[c] = 0;
  });

  before_ = {};
  const std::vector<double> after = mass_by_room(s.geometry.volume);
  std::vector<float> factor(size_t(rooms), 1.f);
  for (int r = 0; r < rooms; ++r) {
    const size_t k = size_t(r);
    const double lost = r == 0 ? std::min(left, before[k]) : 0;
    const double wanted = before[k] - lost;
    if (r == 0) ledger.left += lost;
    if (after[k] > 0) factor[k] = float(std::clamp(wanted / after[k], r ? 0.2 : 0.97, r ? 5.0 : 1.03));
    ledger.numeric += after[k] * double(factor[k]) - wanted;
  }
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const float f = factor[size_t(s.grid.key(b).room)];
    if (f == 1) return;
    for (const Carried& field : carried)
      for (int c = 0; c < block_cells && field.is_smoke(); ++c) (s.*field.values).block(b)[c] *= f;
  });
}

}  // namespace pour
