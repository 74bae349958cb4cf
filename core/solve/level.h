// A level of the pressure's multigrid: equations, smoothing, restriction and interpolation.
#pragma once
#include "base/parallel.h"
#include "solve/poisson.h"
#include "solve/precise.h"

namespace pour {

template <class F>
void for_blocks(const BlockGrid& g, const F& f) {
  // Small levels are faster on one core.
  if (g.blocks() < 24)
    for (int b = first_block; b < g.size(); ++b) f(b);
  else
    parallel_for(
        size_t(g.blocks()), [&](size_t i) { f(int(i) + first_block); }, 16);
}

template <class F>
double sum_blocks(const BlockGrid& g, const F& f) {
  return ordered_sum<double>(size_t(g.blocks()), [&](size_t i) { return f(int(i) + first_block); });
}

struct Level {
  BlockGrid own_grid;
  PoissonWeights own_weights;
  const BlockGrid* grid = nullptr;
  const PoissonWeights* weights = nullptr;
  std::vector<uint8_t> uniform;    // block has all weights 255 and no anchor
  std::vector<uint8_t> is_active;  // block has unknowns; in the others x is zero
  std::vector<int> irregular;      // blocks with walls that coarse cells cannot resolve, smoothed more
  std::vector<int> active;
  std::vector<int> inner, edge;  // active and uniform among uniform ones, and the rest of the active ones
  std::vector<int> parent;       // coarse block of each block
  Floats inverse;  // 1 / (sum of weights and anchor) of each cell in blocks that are not uniform
  Floats x, b;

  /// Classifies blocks. `grid` and `weights` must be set.
  void set_up();
  /// Builds grid and weights of the next coarser level.
  void coarsen_to(Level& coarse, int l);
  /// Sizes x and b for the V-cycle.
  void make_fields();
  /// Clears a guess where there are no unknowns. Returns whether any value is left.
  bool keep_unknowns(Floats& guess) const;
  /// The residual of x = 0; returns its squared norm.
  double take_on(const Floats& rhs);
  /// b - A x, computed in double, becomes the right-hand side; returns its squared norm.
  double residual(const Floats& right, Precise solution);

  /// Gauss-Seidel over the cells of one colour; `fresh` treats every neighbour as zero and clears the other
  /// colour.
  template <bool fresh>
  void smooth_block(int i, int color);
  void sweep(int color);
  void sweep(const std::vector<int>& blocks, int color);
  void smooth_before();
  /// Half the sum of the residual over each 2³ cells becomes the coarse right-hand side.
  void restrict_to(Level& coarse);
  /// Adds the interpolated coarse solution, without reaching through walls.
  void prolong_from(const Level& coarse);
  /// With z in x: sum += alpha p, then p = z + beta p and q = A z + beta q. Returns p · q of the block.
  double advance(int i, Precise sums, Floats& p, Floats& q, float alpha, double beta) const;

  template <class F>
  void each(const std::vector<int>& blocks, const F& f) {
    if (blocks.size() < 24)
      for (const int i : blocks) f(i);
    else
      parallel_for(
          blocks.size(), [&](size_t n) { f(blocks[n]); }, 16);
  }
  template <class T, class F>
  T sum_active(const F& f) const {
    return ordered_sum<T>(active.size(), [&](size_t n) { return f(active[n]); });
  }

 private:
  v8 of_unknowns(const Floats& f, int i, int c) const;
  void smooth_inner(int i);
};

}  // namespace pour
