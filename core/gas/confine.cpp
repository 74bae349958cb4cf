// Vorticity confinement: keeps curls of one size alive.
#include <cmath>

#include "base/parallel.h"
#include "gas/gas.h"
#include "gas/tile.h"

namespace pour {
namespace {

/// Central differences of a field, one-sided at walls: nothing is read from inside them.
struct Slopes {
  LatticePlane<float> f;
  LatticePlane<uint8_t> gas;
  v8 half;  // of one over the cell size
  [[gnu::always_inline]] v8 between(int j, v8 low_gas, v8 low, v8 high_gas, v8 high) const {
    const v8 here = f.at(j);
    return (choose(high_gas > splat(0), high, here) - choose(low_gas > splat(0), low, here)) * half;
  }
  [[gnu::always_inline]] v8 x(int j) const {
    return between(j, gas.left(j), f.left(j), gas.right(j), f.right(j));
  }
  [[gnu::always_inline]] v8 y(int j) const {
    return between(j, gas.below(j), f.below(j), gas.above(j), f.above(j));
  }
  [[gnu::always_inline]] v8 z(int j) const {
    return between(j, gas.behind(j), f.behind(j), gas.before(j), f.before(j));
  }
};

}  // namespace

// Fedkiw, Stam & Jensen 2001: speed · (cell / length) · (N × vorticity).
void GasSolver::confine(GasState& s, const GasWorld& world, const Swirls& swirls, double dt,
                        const std::vector<uint8_t>& blocks) {
  const double h = world.cell_size;
  const BlockGrid& g = s.grid;
  const auto each_block = [&](const auto& f) {
    parallel_for(size_t(g.blocks()),
                 [&](size_t i) { f(int(i) + first_block, g.around(int(i) + first_block)); });
  };
  // Neighbours that a marked block reads must be computed too.
  std::vector<uint8_t> near(size_t(g.size()), 0);
  each_block([&](int b, const int* around) {
    for (int n = 0; n < 27; ++n) near[size_t(b)] |= blocks[size_t(around[n])];
  });
  // Velocity at cell centres, then vorticity; the same velocity smoothed, then the force.
  Floats center[3], smooth[3];
  for (int a = 0; a < 3; ++a) center[a].resize(g.size(), unset), smooth[a].resize(g.size(), unset);
  each_block([&](int b, const int* around) {
    const Around<float> us(s.u, around, b), vs(s.v, around, b), ws(s.w, around, b);
    for (int k = 0; k < 8; ++k) {
      const LatticePlane<float> u = us.plane(k), v = vs.plane(k), w = ws.plane(k);
#pragma GCC unroll 8
      for (int j = 0; j < 8; ++j) {
        const int c = Around<float>::row(j, k);
        store(center[0].block(b) + c, 0.5f * (u.at(j) + u.right(j)));
        store(center[1].block(b) + c, 0.5f * (v.at(j) + v.above(j)));
        store(center[2].block(b) + c, 0.5f * (w.at(j) + w.before(j)));
      }
    }
  });
  // Smoothed over part of the length that curl refers to: the force drives curls of that size, not the noise
  // between one cell and the next, and the same ones at every cell size that is fine enough to show them.
  const double spread = 0.35 * swirls.size / h;  // standard deviation, in cells
  const int passes = std::clamp(int(std::lround(2 * spread * spread)), 4, Tile::most_reach);
  each_block([&](int b, const int* around) {
    if (!near[size_t(b)]) return;
    Tile tile;
    for (int a = 0; a < 3; ++a) {
      tile.fill(center[a], around, passes);
      tile.smooth(passes, smooth[a].block(b));
    }
  });

  const v8 half = splat(float(0.5 / h));
  Floats(&vorticity)[3] = center;
  Floats size(g.size(), unset);
  each_block([&](int b, const int* around) {
    if (!near[size_t(b)]) return;
    const Around<uint8_t> volume(s.geometry.volume, around, b);
    const Around<float> us(smooth[0], around, b), vs(smooth[1], around, b), ws(smooth[2], around, b);
    for (int k = 0; k < 8; ++k) {
      const LatticePlane<uint8_t> gas = volume.plane(k);
      const Slopes u{us.plane(k), gas, half}, v{vs.plane(k), gas, half}, w{ws.plane(k), gas, half};
#pragma GCC unroll 8
      for (int j = 0; j < 8; ++j) {
        const int c = Around<float>::row(j, k);
        const v8i here = gas.at(j) > splat(0);
        const v8 x = choose(here, w.y(j) - v.z(j), splat(0)), y = choose(here, u.z(j) - w.x(j), splat(0)),
                 z = choose(here, v.x(j) - u.y(j), splat(0));
        store(vorticity[0].block(b) + c, x), store(vorticity[1].block(b) + c, y),
            store(vorticity[2].block(b) + c, z);
        store(size.block(b) + c, vsqrt(x * x + y * y + z * z));
      }
    }
  });

  const v8 strength = splat(float(dt * swirls.speed * h / swirls.size));
  // Confinement amplifies itself, so no swirl is driven harder than to its speed within one turnover.
  const v8 most = splat(float(dt * swirls.speed * swirls.speed / swirls.size));
  const v8 per_length = splat(float(0.5 / swirls.size));
  Floats(&force)[3] = smooth;
  each_block([&](int b, const int* around) {
    const int room = g.key(b).room;
    if (!blocks[size_t(b)] || (room && !swirls.inside)) {
      for (Floats& f : force) std::fill_n(f.block(b), block_cells, 0.f);
      return;
    }
    const Around<uint8_t> volume(s.geometry.volume, around, b);
    const Around<float> sizes(size, around, b);
    for (int k = 0; k < 8; ++k) {
      const Slopes slope{sizes.plane(k), volume.plane(k), half};
#pragma GCC unroll 8
      for (int j = 0; j < 8; ++j) {
        const int c = Around<float>::row(j, k);
        const Vec3<v8> n{slope.x(j), slope.y(j), slope.z(j)};
        const Vec3<v8> w{load(vorticity[0].block(b) + c), load(vorticity[1].block(b) + c),
                         load(vorticity[2].block(b) + c)};
        // Where the vorticity is about the same all around, there is no curl to be kept.
        const v8 scale = vsqrt(dot(n, n)) + per_length * slope.f.at(j);
        const v8i drives = (scale > splat(1e-6f)) & (slope.gas.at(j) > splat(0));
        const v8 by = choose(drives, strength / vmax(scale, splat(1e-6f)), splat(0));
        Vec3<v8> pull = cross(n, w) * by;
        const v8 pulled = vsqrt(dot(pull, pull));
        const v8 limit = choose(pulled > most, most / vmax(pulled, splat(1e-30f)), splat(1));
        const v8 share =
            swirls.strength.plain() ? limit : limit * swirls.strength.share(gas_places(s, world, b, j, k));
        for (int a = 0; a < 3; ++a) store(force[a].block(b) + c, pull[a] * share);
      }
    }
  });
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  each_block([&](int b, const int* around) {
    for (int a = 0; a < 3; ++a) {
      const Around<float> forces(force[a], around, b);
      for (int k = 0; k < 8; ++k) {
        const LatticePlane<float> f = forces.plane(k);
#pragma GCC unroll 8
        for (int j = 0; j < 8; ++j) {
          const int c = Around<float>::row(j, k);
          const v8 before = a == 0 ? f.left(j) : a == 1 ? f.below(j) : f.behind(j);
          float* to = velocity[a]->block(b) + c;
          store(to, load(to) +
                        choose(load(face[a]->block(b) + c) > splat(0), 0.5f * (f.at(j) + before), splat(0)));
        }
      }
    }
  });
}

}  // namespace pour
