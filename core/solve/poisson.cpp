#include "solve/poisson.h"

#include <cmath>

#include "solve/level.h"

namespace pour {
namespace {

constexpr int bottom_sweeps = 10;

/// The most blocks that a room is wide.
int widest_room(const BlockGrid& grid) {
  int widest = 0, room = -1;
  Vec3i low, high;
  for (const BlockKey& k : grid.keys()) {
    if (k.room != room) room = k.room, low = high = k.at;
    low = min(low, k.at), high = max(high, k.at);
    widest = std::max({widest, high.x - low.x + 1, high.y - low.y + 1, high.z - low.z + 1});
  }
  return widest;
}

/// Sums products over a plane of a block in float, from there on in double.
template <class F>
[[gnu::always_inline]] inline v8d sum_of_planes(const F& of_row) {
  v8d total{};
  for (int k = 0; k < 8; ++k) {
    v8 plane{};
#pragma GCC unroll 8
    for (int j = 0; j < 8; ++j) plane += of_row(Around<float>::row(j, k));
    total += widen(plane);
  }
  return total;
}

}  // namespace

struct PoissonSolver::Parts {
  std::vector<std::unique_ptr<Level>> levels;
  Pockets pockets;
  bool singular = false;

  void v_cycle(size_t l) {
    Level& level = *levels[l];
    if (l + 1 == levels.size()) {
      for_blocks(*level.grid, [&](int i) { level.smooth_block<true>(i, 0); });
      level.sweep(1);
      for (int n = 0; n < bottom_sweeps; ++n) level.sweep(0), level.sweep(1);
      for (int n = 0; n < bottom_sweeps; ++n) level.sweep(1), level.sweep(0);
      return;
    }
    level.smooth_before();
    level.restrict_to(*levels[l + 1]);
    v_cycle(l + 1);
    level.prolong_from(*levels[l + 1]);
    level.sweep(level.irregular, 1), level.sweep(level.irregular, 0);
    level.sweep(1);
    if (l)
      level.sweep(0);  // on the finest level the last sweep is done together with the products that follow
  }

  /// Sums over the cells of each pocket that a block has part in, in the order of its ids.
  std::vector<double> sums_of_pockets(const Floats& field, int b) const {
    const float* f = field.block(b);
    const Pockets::Block& of = pockets.blocks_[size_t(b)];
    if (of.only == -1 || (of.only >= 0 && pockets.pockets[size_t(of.only)].anchored)) return {};
    if (of.only >= 0) {
      v8d s{};
      for (int c = 0; c < block_cells; c += 8) s += widen(load(f + c));
      return {sum(s)};
    }
    std::vector<double> sums(of.ids.size(), 0);
    for (int c = 0; c < block_cells; ++c)
      if (const uint16_t local = of.local[size_t(c)]) sums[local - 1u] += double(f[c]);
    return sums;
  }

  /// Takes the mean out of every pocket that is not anchored: what rounding leaves of it would grow, since no
  /// p can mend it.
  void make_compatible(Floats& field) {
    if (!singular) return;
    const BlockGrid& g = *levels[0]->grid;
    std::vector<std::vector<double>> sums(size_t(g.size()));
    for_blocks(g, [&](int b) { sums[size_t(b)] = sums_of_pockets(field, b); });
    std::vector<double> mean(pockets.pockets.size(), 0);
    for (int b = first_block; b < g.size(); ++b)
      for (size_t n = 0; n < sums[size_t(b)].size(); ++n) {
        const Pockets::Block& of = pockets.blocks_[size_t(b)];
        mean[size_t(of.only >= 0 ? of.only : of.ids[n])] += sums[size_t(b)][n];
      }
    for (size_t k = 0; k < mean.size(); ++k)
      mean[k] = pockets.pockets[k].anchored ? 0 : mean[k] / pockets.pockets[k].cells;
    for_blocks(g, [&](int b) {
      float* f = field.block(b);
      const int whole = pockets.whole(b);
      if (whole == -1) return;
      for (int c = 0; c < block_cells; ++c) {
        const int k = whole >= 0 ? whole : pockets.at(b, c);
        if (k >= 0) f[c] = float(double(f[c]) - mean[size_t(k)]);
      }
    });
  }

  /// Flexible conjugate gradients from the residual of the square `rr` in the finest right-hand side, until
  /// its square is below `target`; adds to x. Returns the number of iterations.
  int descend(Precise x, double rr, double target, int most) {
    Level& fine = *levels[0];
    const BlockGrid& g = *fine.grid;
    Floats p(g.size(), unset), q(g.size(), unset);
    fine.each(fine.active, [&](int i) {
      std::fill_n(p.block(i), block_cells, 0.f), std::fill_n(q.block(i), block_cells, 0.f);
    });
    double zr_old = 0, best = rr;
    float alpha = 0;
    int n = 0;
    for (int stalled = 0; rr > target && n < most && stalled < 8; ++n) {
      make_compatible(fine.b);
      v_cycle(0);
      struct Dots {
        double zr = 0, zq = 0;
        Dots& operator+=(const Dots& o) {
          zr += o.zr, zq += o.zq;
          return *this;
        }
      };
      const Dots dots = fine.sum_active<Dots>([&](int i) {
        if (levels.size() > 1) fine.smooth_block<false>(i, 0);
        const float *z = fine.x.block(i), *r = fine.b.block(i), *aq = q.block(i);
        const v8d zr = sum_of_planes([&](int c) { return load(z + c) * load(r + c); });
        const v8d zq = sum_of_planes([&](int c) { return load(z + c) * load(aq + c); });
        return Dots{sum(zr), sum(zq)};
      });
      // beta = z · (r - r_old) / (z_old · r_old), and r - r_old = -alpha q.
      const double beta = n == 0 ? 0 : -double(alpha) * dots.zq / zr_old;
      zr_old = dots.zr;
      // p = z + beta p and q = A p = A z + beta q in one pass, in which x catches up with the last step.
      const double pq = fine.sum_active<double>([&](int i) { return fine.advance(i, x, p, q, alpha, beta); });
      if (!(pq > 0)) {
        alpha = 0;
        break;
      }
      alpha = float(zr_old / pq);
      const v8 step = splat(alpha);
      rr = fine.sum_active<double>([&](int i) {
        float* r = fine.b.block(i);
        const float* aq = q.block(i);
        return sum(sum_of_planes([&](int c) {
          const v8 now = load(r + c) - load(aq + c) * step;
          store(r + c, now);
          return now * now;
        }));
      });
      if (rr < 0.9 * best)
        best = rr, stalled = 0;
      else
        ++stalled;
    }
    fine.each(fine.active, [&](int i) {
      for (int c = 0; c < block_cells; c += 8) x.add(i, c, splat(alpha), load(p.block(i) + c));
    });
    return n;
  }
};

PoissonSolver::PoissonSolver() : parts_(std::make_unique<Parts>()) {}
PoissonSolver::~PoissonSolver() = default;

void PoissonSolver::set(const BlockGrid& grid, const PoissonWeights& weights) {
  Parts& s = *parts_;
  s.levels.clear();
  s.levels.push_back(std::make_unique<Level>());
  s.levels[0]->own_grid = grid;
  s.levels[0]->grid = &s.levels[0]->own_grid, s.levels[0]->weights = &weights;
  s.levels[0]->set_up();
  // Until no room is more than two cells wide, the cells of a level being 2^l fine ones.
  int cells = widest_room(grid) * block_edge;
  for (int l = 0; cells > 2 && l < 14; ++l, cells = (cells + 1) / 2) {
    Level& fine = *s.levels.back();
    auto next = std::make_unique<Level>();
    fine.coarsen_to(*next, l);
    next->set_up();
    next->make_fields();
    s.levels.push_back(std::move(next));
  }
  s.pockets = find_pockets(grid, weights);
  s.singular = false;
  for (const auto& p : s.pockets.pockets) s.singular = s.singular || !p.anchored;
}

SolveReport PoissonSolver::solve(const Floats& b, Floats& p, double tolerance, int max_iterations) {
  Parts& s = *parts_;
  Level& fine = *s.levels[0];
  const BlockGrid& g = *fine.grid;
  const double b_norm = std::sqrt(sum_blocks(g, [&](int i) {
    v8d t{};
    for (int n = 0; n < block_cells; n += 8) {
      const v8d v = widen(load(b.block(i) + n));
      t += v * v;
    }
    return sum(t);
  }));
  SolveReport report;
  if (!(b_norm > 0)) {
    for_blocks(g, [&](int i) { std::fill_n(p.block(i), block_cells, 0.f); });
    return report;
  }
  fine.make_fields();
  Floats low(g.size(), unset);
  for_blocks(g, [&](int i) { std::fill_n(low.block(i), block_cells, 0.f); });
  const Precise x{p, low};
  const bool guessed = fine.keep_unknowns(p);
  const double target = tolerance * tolerance * b_norm * b_norm;
  double rr = guessed ? fine.residual(b, x) : fine.take_on(b), before = HUGE_VAL;
  // The residual that is carried along is in float and drifts from the true one by about 1e-7 of where it
  // began: where it says that the target is met, or after six digits, the true one is computed.
  while (rr > target && rr < 0.5 * before && report.iterations < max_iterations) {
    before = rr;
    report.iterations +=
        s.descend(x, rr, std::max(0.95 * target, 1e-12 * rr), max_iterations - report.iterations);
    rr = fine.residual(b, x);
  }
  report.relative_residual = std::sqrt(rr) / b_norm;
  fine.x = {}, fine.b = {};
  return report;
}

const Pockets& PoissonSolver::pockets() const { return parts_->pockets; }

}  // namespace pour
