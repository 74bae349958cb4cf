#include "gas/calm.h"

#include "base/parallel.h"
#include "gas/tile.h"

namespace pour {
namespace {

constexpr int reach = 2, rows_across = 9 + 2 * reach;

/// Flux from the second to the third of four values in a row, against their difference.
[[gnu::always_inline]] inline v8 flux(v8 a, v8 b, v8 c, v8 d) {
  const v8 before = b - a, here = c - b, after = d - c;
  const v8 wave = (2 * here - before - after) * 0.25f;
  const v8i swings = ((before * here < splat(0)) | (here * after < splat(0))) & (wave * here > splat(0));
  return choose(swings, choose(vmax(wave, -wave) < vmax(here, -here), wave, here), splat(0));
}

/// Gain of a block's cells along one axis. `at` and `is_whole` take an offset in cells.
template <bool masked, class At, class Whole, class Carry>
[[gnu::always_inline]] inline v8 gain(const At& at, const Whole& is_whole, const Carry& carry) {
  const v8 f[5] = {at(-2), at(-1), at(0), at(1), at(2)};
  v8 low = flux(f[0], f[1], f[2], f[3]), high = flux(f[1], f[2], f[3], f[4]);
  if constexpr (masked) {
    const v8i middle = is_whole(-1) & is_whole(0) & is_whole(1);
    low = choose(middle & is_whole(-2), low, splat(0));
    high = choose(middle & is_whole(2), high, splat(0));
  }
  return carry(0, high) - carry(-1, low);
}

template <bool masked, class Carry>
void calm_block(const Calming& w, const Tile& tile, const Tile& open, const float* from, float* to,
                const Carry& carry) {
  constexpr int stride[3] = {1, Tile::row, rows_across * Tile::row};
  for (int z = 0; z < 8; ++z)
    for (int y = 0; y < 8; ++y) {
      const int c = ((z + reach) * rows_across + y + reach) * Tile::row + 8;
      v8 sum{};
      for (const int step : stride)
        sum += gain<masked>([&](int k) { return load(tile.data() + c + k * step); },
                            [&](int k) { return load(open.data() + c + k * step) == splat(w.whole); },
                            [&](int k, v8 f) { return carry(c + k * step, c + (k + 1) * step, f); });
      const int row = Around<float>::row(y, z);
      const v8 value = load(from + row) + w.share * sum;
      store(to + row, choose(vmax(value, -value) > splat(w.trace), value, splat(0)));
    }
}

template <class Make>
void calm_all(const Calming& w, const Floats& from, const Floats& lead, Floats& to, const Make& make_carry) {
  parallel_for(size_t(w.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = w.grid.around(b);
    bool any = !w.there;
    for (int n = 0; n < 27 && !any; ++n) any = (*w.there)[size_t(around[n])];
    if (!any) return void(std::copy_n(from.block(b), block_cells, to.block(b)));
    Tile tile, open, own;
    tile.fill(lead, around, reach);
    const auto carry = make_carry(tile, own, around);
    if (w.surroundings[size_t(b)] == GasSolver::Surroundings::gas)
      return calm_block<false>(w, tile, open, from.block(b), to.block(b), carry);
    open.make(around, reach, [&](int block, int c) { return load(w.open.block(block) + c); });
    calm_block<true>(w, tile, open, from.block(b), to.block(b), carry);
  });
}

}  // namespace

void Calming::calm(const Floats& from, Floats& to) const {
  calm_all(*this, from, from, to,
           [](const Tile&, Tile&, const int*) { return [](int, int, v8 f) { return f; }; });
}

void Calming::calm(const Floats& from, const Floats& lead, Floats& to) const {
  calm_all(*this, from, lead, to, [&](const Tile& tile, Tile& own, const int* around) {
    own.fill(from, around, reach);
    return [whole = tile.data(), part = own.data()](int here, int next, v8 f) {
      // From the larger one, which therefore isn't zero.
      const v8i up = f > splat(0);
      const v8 of = choose(up, load(part + next), load(part + here));
      const v8 all = choose(up, load(whole + next), load(whole + here));
      return choose(f == splat(0), splat(0), f * of / vmax(all, splat(1e-30f)));
    };
  });
}

}  // namespace pour
