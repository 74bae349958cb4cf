#include "solve/level.h"

#include <cmath>

#include "solve/row_weights.h"

namespace pour {
namespace {

[[gnu::always_inline]] inline v8 weighted(const RowWeights& w, const LatticePlane<float>& x, int j) {
  return ((w.l * x.left(j) + w.r * x.right(j)) + (w.d * x.below(j) + w.u * x.above(j))) +
         (w.b * x.behind(j) + w.f * x.before(j));
}

[[gnu::always_inline]] inline v8 neighbours(const LatticePlane<float>& x, int j) {
  return ((x.left(j) + x.right(j)) + (x.below(j) + x.above(j))) + (x.behind(j) + x.before(j));
}

/// From a row of cells to its six neighbours.
struct Differences {
  v8 l, r, d, u, b, f;
  [[gnu::always_inline]] Differences(const LatticePlane<float>& x, int j) {
    const v8 here = x.at(j);
    l = here - x.left(j), r = here - x.right(j), d = here - x.below(j), u = here - x.above(j),
    b = here - x.behind(j), f = here - x.before(j);
  }
  [[gnu::always_inline]] v8 sum() const { return ((l + r) + (d + u)) + (b + f); }
  [[gnu::always_inline]] v8 weighted(const RowWeights& w) const {
    return ((w.l * l + w.r * r) + (w.d * d + w.u * u)) + (w.b * b + w.f * f);
  }
};

/// The weights towards smaller y and z of all rows of a plane and of those behind it, read before anything is
/// written: bytes may alias what is written, so that they would be read and widened twice.
struct KeptWeights {
  v8 y[9], z[2][8];
  int now = 0;
  [[gnu::always_inline]] void begin(const BlockWeights& w) {
    const LatticePlane<uint8_t> z0 = w.z.plane(0);
#pragma GCC unroll 8
    for (int j = 0; j < 8; ++j) z[0][j] = z0.at(j);
    now = 0;
  }
  [[gnu::always_inline]] void plane(const PlaneWeights& w) {
#pragma GCC unroll 8
    for (int j = 0; j < 8; ++j) y[j] = w.y.at(j), z[1 - now][j] = w.z.before(j);
    y[8] = w.y.above(7);
  }
  /// Without their sum.
  [[gnu::always_inline]] RowWeights row(const PlaneWeights& w, int j) const {
    return {w.x.at(j),     w.x.right(j),           y[j],    y[j + 1], z[now][j],
            z[1 - now][j], load(w.anchor + j * 8), splat(0)};
  }
  void next() { now = 1 - now; }
};

/// Whether all that is around cells of a row is seen by the coarse cells that they are in: no face is half
/// open, none is closed inside of a coarse cell, and the surface is as far as cells are.
[[gnu::always_inline]] inline v8i fits_coarse_cells(const RowWeights& r, int j, int k) {
  const v8 none = splat(0), all = splat(255);
  const auto whole = [&](v8 w) { return (w == none) | (w == all); };
  const v8i odd{0, -1, 0, -1, 0, -1, 0, -1};
  const v8 inner_x = choose(odd, r.l, r.r), inner_y = j & 1 ? r.d : r.u, inner_z = k & 1 ? r.b : r.f;
  return whole(r.l) & whole(r.r) & whole(r.d) & whole(r.u) & whole(r.b) & whole(r.f) & (inner_x == all) &
         (inner_y == all) & (inner_z == all) & ((r.anchor == none) | (r.sum == splat(6 * 255.f)));
}

const v8i lanes[2] = {{-1, 0, -1, 0, -1, 0, -1, 0}, {0, -1, 0, -1, 0, -1, 0, -1}};

}  // namespace

void Level::set_up() {
  uniform.assign(size_t(grid->size()), 0);
  std::vector<uint8_t> rough(size_t(grid->size()), 0);
  is_active.assign(size_t(grid->size()), 0);
  inverse.resize(grid->size(), unset);
  for_blocks(*grid, [&](int i) {
    const BlockWeights w(*weights, grid->around(i), i);
    const v8 full = splat(6 * 255.f), none = splat(0);
    v8i plain = splat(0) == splat(0), fits = plain, none_here = plain;
    for (int k = 0; k < 8; ++k)
      for (int j = 0; j < 8; ++j) {
        const RowWeights r = w.plane(k).row(j);
        plain &= (r.sum == full) & (r.anchor == none);
        none_here &= r.sum == none;
        fits &= (r.sum == none) | fits_coarse_cells(r, j, k);
      }
    bool all = true, fit = true, any = false;
    for (int n = 0; n < 8; ++n) all = all && plain[n], fit = fit && fits[n], any = any || !none_here[n];
    uniform[size_t(i)] = all, rough[size_t(i)] = !fit, is_active[size_t(i)] = any;
    if (all) return;
    for (int k = 0; k < 8; ++k)
      for (int j = 0; j < 8; ++j) {
        const v8 sum = w.plane(k).row(j).sum;
        store(inverse.block(i) + Around<float>::row(j, k), choose(sum > none, splat(1) / sum, none));
      }
  });
  irregular.clear(), active.clear(), inner.clear(), edge.clear();
  for (int i = first_block; i < grid->size(); ++i) {
    if (!is_active[size_t(i)]) continue;
    active.push_back(i);
    if (rough[size_t(i)]) irregular.push_back(i);
    const int* around = grid->around(i);
    bool all = uniform[size_t(i)];
    for (const int n : {x_minus, x_plus, y_minus, y_plus, z_minus, z_plus})
      all = all && uniform[size_t(around[n])];
    (all ? inner : edge).push_back(i);
  }
}

void Level::coarsen_to(Level& coarse, int l) {
  std::vector<BlockKey> keys;
  for (const BlockKey& k : grid->keys()) keys.push_back({k.room, {k.at.x >> 1, k.at.y >> 1, k.at.z >> 1}});
  coarse.own_grid = BlockGrid(std::move(keys), [](const BlockKey&) { return int(outside_open); });
  coarse.grid = &coarse.own_grid;
  coarse.own_weights.resize(coarse.grid->size());
  coarse.weights = &coarse.own_weights;
  parent.assign(size_t(grid->size()), 0);
  // A face behind which p is zero is (2^l / 2 + 1/2) fine cells off the middle of a coarse cell.
  const double near = l == 0 ? 1 : std::ldexp(1.0, l - 1) + 0.5, far = std::ldexp(1.0, l) + 0.5;
  const float anchor_scale = float(0.5 * near / far);
  for_blocks(*grid, [&](int i) {
    const BlockKey& k = grid->key(i);
    const int p = coarse.grid->find({k.room, {k.at.x >> 1, k.at.y >> 1, k.at.z >> 1}});
    parent[size_t(i)] = p;
    const size_t to = size_t((((k.at.z & 1) * 4) * 8 + (k.at.y & 1) * 4) * 8 + (k.at.x & 1) * 4);
    const uint8_t *wx = weights->x.block(i), *wy = weights->y.block(i), *wz = weights->z.block(i);
    const float* a = weights->anchor.block(i);
    for (int z = 0; z < 4; ++z)
      for (int y = 0; y < 4; ++y)
        for (int x = 0; x < 4; ++x) {
          const size_t out = to + size_t((z * 8 + y) * 8 + x);
          const int f = (2 * z * 8 + 2 * y) * 8 + 2 * x;
          // Rounded up, so that a narrow passage never closes on a coarse level.
          coarse.own_weights.x.block(p)[out] = uint8_t((wx[f] + wx[f + 8] + wx[f + 64] + wx[f + 72] + 3) / 4);
          coarse.own_weights.y.block(p)[out] = uint8_t((wy[f] + wy[f + 1] + wy[f + 64] + wy[f + 65] + 3) / 4);
          coarse.own_weights.z.block(p)[out] = uint8_t((wz[f] + wz[f + 1] + wz[f + 8] + wz[f + 9] + 3) / 4);
          const float sum =
              a[f] + a[f + 1] + a[f + 8] + a[f + 9] + a[f + 64] + a[f + 65] + a[f + 72] + a[f + 73];
          coarse.own_weights.anchor.block(p)[out] = anchor_scale * sum;
        }
  });
}

void Level::make_fields() {
  x.resize(grid->size(), unset), b.resize(grid->size(), unset);
  for_blocks(*grid, [&](int i) {
    std::fill_n(b.block(i), block_cells, 0.f);
    if (!is_active[size_t(i)]) std::fill_n(x.block(i), block_cells, 0.f);
  });
}

/// A row of a field where it is an unknown, and zero elsewhere.
[[gnu::always_inline]] inline v8 Level::of_unknowns(const Floats& f, int i, int c) const {
  const v8 here = load(f.block(i) + c);
  return uniform[size_t(i)] ? here : choose(load(inverse.block(i) + c) > splat(0), here, splat(0));
}

bool Level::keep_unknowns(Floats& guess) const {
  return sum_blocks(*grid, [&](int i) {
           v8i any{};
           for (int c = 0; c < block_cells; c += 8) {
             const v8 kept = of_unknowns(guess, i, c);
             store(guess.block(i) + c, kept);
             any |= kept != splat(0);
           }
           return _mm256_movemask_ps(__m256(any)) ? 1.0 : 0.0;
         }) > 0;
}

double Level::take_on(const Floats& rhs) {
  return sum_blocks(*grid, [&](int i) {
    v8d total{};
    for (int c = 0; c < block_cells; c += 8) {
      const v8 kept = of_unknowns(rhs, i, c);
      store(b.block(i) + c, kept);
      total += widen(kept) * widen(kept);
    }
    return sum(total);
  });
}

template <bool fresh>
void Level::smooth_block(int i, int color) {
  const int* around = grid->around(i);
  const Around<float> xs(x, around, i);
  float* out = x.block(i);
  const float* rhs = b.block(i);
  if (uniform[size_t(i)]) {
    const v8 sixth = splat(1.f / 6);
    for (int k = 0; k < 8; ++k, out += 64, rhs += 64) {
      const LatticePlane<float> xp = xs.plane(k);
      const v8i even = lanes[(k + color) & 1], odd = ~even;
#pragma GCC unroll 8
      for (int j = 0; j < 8; ++j) {
        const v8i mask = j & 1 ? odd : even;
        if constexpr (fresh)
          store(out + 8 * j, mask ? load(rhs + 8 * j) * sixth : splat(0));
        else
          store(out + 8 * j, mask ? (load(rhs + 8 * j) + neighbours(xp, j)) * sixth : xp.at(j));
      }
    }
    return;
  }
  const BlockWeights ws(*weights, around, i);
  const float* over = inverse.block(i);
  KeptWeights kept;
  kept.begin(ws);
  for (int k = 0; k < 8; ++k, out += 64, rhs += 64, kept.next()) {
    const LatticePlane<float> xp = xs.plane(k);
    const PlaneWeights wp = ws.plane(k);
    kept.plane(wp);
    const v8i even = lanes[(k + color) & 1], odd = ~even;
#pragma GCC unroll 8
    for (int j = 0; j < 8; ++j) {
      const v8i mask = j & 1 ? odd : even;
      v8 s = load(rhs + 8 * j) * splat(255);
      if constexpr (!fresh) s += weighted(kept.row(wp, j), xp, j);
      const v8 value = s * load(over + Around<float>::row(j, k));
      store(out + 8 * j, mask ? value : fresh ? splat(0) : xp.at(j));
    }
  }
}

/// Both colours from zero at once, where all cells around are regular: the first colour is b / 6.
void Level::smooth_inner(int i) {
  const Around<float> bs(b, grid->around(i), i);
  float* out = x.block(i);
  const v8 sixth = splat(1.f / 6);
  for (int k = 0; k < 8; ++k, out += 64) {
    const LatticePlane<float> bp = bs.plane(k);
    const v8i even = lanes[k & 1], odd = ~even;
#pragma GCC unroll 8
    for (int j = 0; j < 8; ++j) {
      const v8 first = bp.at(j) * sixth;
      store(out + 8 * j, (j & 1 ? odd : even) ? first : first + neighbours(bp, j) * (sixth * sixth));
    }
  }
}

void Level::sweep(int color) {
  each(active, [&](int i) { smooth_block<false>(i, color); });
}

void Level::sweep(const std::vector<int>& blocks, int color) {
  each(blocks, [&](int i) { smooth_block<false>(i, color); });
}

void Level::smooth_before() {
  each(edge, [&](int i) { smooth_block<true>(i, 0); });
  each(inner, [&](int i) { smooth_inner(i); });
  sweep(edge, 1);
  sweep(irregular, 0), sweep(irregular, 1);
}

void Level::restrict_to(Level& coarse) {
  each(active, [&](int i) {
    const int* around = grid->around(i);
    const Around<float> xs(x, around, i);
    const float* rhs = b.block(i);
    const Vec3i at = grid->key(i).at;
    float* out =
        coarse.b.block(parent[size_t(i)]) + (((at.z & 1) * 4) * 8 + (at.y & 1) * 4) * 8 + (at.x & 1) * 4;
    const BlockWeights ws(*weights, around, i);
    const bool plain = uniform[size_t(i)];
    for (int k = 0; k < 8; k += 2) {
      const LatticePlane<float> xp[2] = {xs.plane(k), xs.plane(k + 1)};
      const PlaneWeights wp[2] = {ws.plane(k), ws.plane(k + 1)};
#pragma GCC unroll 4
      for (int j = 0; j < 8; j += 2) {
        v8 total = splat(0);
#pragma GCC unroll 4
        for (int n = 0; n < 4; ++n) {
          const int jj = j + (n & 1), kk = n >> 1;
          const v8 rhs_row = load(rhs + Around<float>::row(jj, k + kk));
          if (plain) {
            total += rhs_row + neighbours(xp[kk], jj) - splat(6) * xp[kk].at(jj);
          } else {
            const RowWeights w = wp[kk].row(jj);
            const v8 r = rhs_row + (weighted(w, xp[kk], jj) - w.sum * xp[kk].at(jj)) * splat(1.f / 255);
            total += w.sum > splat(0) ? r : splat(0);
          }
        }
        const v8 pairs = total + __builtin_shufflevector(total, total, 1, 0, 3, 2, 5, 4, 7, 6);
        float* row = out + ((k / 2) * 8 + j / 2) * 8;
        for (int n = 0; n < 4; ++n) row[n] = 0.5f * pairs[2 * n];
      }
    }
  });
}

double Level::advance(int i, Precise sums, Floats& p_field, Floats& q_field, float alpha, double beta) const {
  const int* around = grid->around(i);
  const Around<float> zs(x, around, i);
  const BlockWeights ws(*weights, around, i);
  float *p = p_field.block(i), *q = q_field.block(i);
  const bool plain = uniform[size_t(i)];
  const v8 a8 = splat(alpha), b8 = splat(float(beta));
  v8d total{};
  KeptWeights kept;
  if (!plain) kept.begin(ws);
  for (int k = 0; k < 8; ++k, kept.next()) {
    const LatticePlane<float> zp = zs.plane(k);
    const PlaneWeights wp = ws.plane(k);
    if (!plain) kept.plane(wp);
    v8 dots{};
#pragma GCC unroll 8
    for (int j = 0; j < 8; ++j) {
      const int row = Around<float>::row(j, k);
      const v8 z = zp.at(j), old = load(p + row);
      // The differences are exact or nearly so; their sum cancels.
      const Differences differences(zp, j);
      v8 a;
      if (plain) {
        a = differences.sum();
      } else {
        const RowWeights w = kept.row(wp, j);
        a = (differences.weighted(w) + w.anchor * z) * splat(1 / 255.f);
      }
      const v8 pn = z + old * b8, qn = a + load(q + row) * b8;
      sums.add(i, row, a8, old);
      store(p + row, pn), store(q + row, qn);
      dots += pn * qn;
    }
    total += widen(dots);
  }
  return sum(total);
}

void Level::prolong_from(const Level& coarse) {
  each(active, [&](int i) {
    const int p = parent[size_t(i)];
    const int* around = coarse.grid->around(p);
    const Around<float> cs(coarse.x, around, p);
    const BlockWeights ws(*coarse.weights, around, p);
    const Vec3i at = grid->key(i).at;
    const int ox = (at.x & 1) * 4, oy = (at.y & 1) * 4, oz = (at.z & 1) * 4;
    float* out = x.block(i);
    const v8 q = splat(0.25f / 255);
    for (int k = 0; k < 4; ++k)
      for (int j = 0; j < 4; ++j) {
        const int cj = oy + j, ck = oz + k;
        const LatticePlane<float> cp = cs.plane(ck);
        const RowWeights w = ws.plane(ck).row(cj);
        const v8 c = cp.at(cj);
        // Open sides, where p is zero, pull as well: the anchor is shared out over the sides without a
        // neighbour.
        const v8 zero = splat(0), one = splat(1);
        const auto none = [&](v8 weight) { return weight == zero ? one : zero; };
        const v8 sides = ((none(w.l) + none(w.r)) + (none(w.d) + none(w.u))) + (none(w.b) + none(w.f));
        const v8 share = w.anchor / (sides > one ? sides : one);
        const auto lean = [&](v8 weight, v8 neighbour) {
          return (weight == zero ? -share * c : weight * (neighbour - c)) * q;
        };
        const v8 l = lean(w.l, cp.left(cj)), r = lean(w.r, cp.right(cj));
        const v8 side[2] = {lean(w.d, cp.below(cj)), lean(w.u, cp.above(cj))};
        const v8 deep[2] = {lean(w.b, cp.behind(cj)), lean(w.f, cp.before(cj))};
        const v8 cl = c + l, cr = c + r;
        // Left and right children of the four coarse cells, interleaved along x.
        const v8 both = ox ? __builtin_shufflevector(cl, cr, 4, 12, 5, 13, 6, 14, 7, 15)
                           : __builtin_shufflevector(cl, cr, 0, 8, 1, 9, 2, 10, 3, 11);
        const auto twice = [&](v8 v) {
          return ox ? __builtin_shufflevector(v, v, 4, 4, 5, 5, 6, 6, 7, 7)
                    : __builtin_shufflevector(v, v, 0, 0, 1, 1, 2, 2, 3, 3);
        };
        for (int n = 0; n < 4; ++n) {
          float* row = out + Around<float>::row(2 * j + (n & 1), 2 * k + (n >> 1));
          store(row, load(row) + both + twice(side[n & 1] + deep[n >> 1]));
        }
      }
  });
}

double Level::residual(const Floats& right, Precise solution) {
  return sum_active<double>([&](int i) {
    const int* around = grid->around(i);
    const BlockWeights ws(*weights, around, i);
    float* out = b.block(i);
    PreciseTile xs(solution, around, i);
    constexpr int row = PreciseTile::row, plane = PreciseTile::plane;
    v4d total{};
    for (int k = 0; k < 8; ++k)
      for (int j = 0; j < 8; ++j) {
        const int c = Around<float>::row(j, k);
        const RowWeights w = ws.plane(k).row(j);
        const v8 right_side = load(right.block(i) + c), is_unknown = w.sum > splat(0) ? splat(1) : splat(0);
        v4d res[2];
        for (const int half : {0, 1}) {
          const double* at = xs.at(j, k) + 4 * half;
          const v4d here = load4(at);
          const auto part = [&](v8 weight, int off) {
            return widened_half(weight, half) * (here - load4(at + off));
          };
          const v4d a = ((part(w.l, -1) + part(w.r, 1)) + (part(w.d, -row) + part(w.u, row))) +
                        ((part(w.b, -plane) + part(w.f, plane)) + widened_half(w.anchor, half) * here);
          res[half] = (widened_half(right_side, half) - a * (1 / 255.0)) * widened_half(is_unknown, half);
          total += res[half] * res[half];
        }
        store(out + c, narrowed(res[0], res[1]));
      }
    return (total[0] + total[2]) + (total[1] + total[3]);
  });
}

template void Level::smooth_block<true>(int, int);
template void Level::smooth_block<false>(int, int);

}  // namespace pour
