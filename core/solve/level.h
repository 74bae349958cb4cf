// One grid of the pressure's multigrid: its equations, its smoothing, and the ways to the next coarser grid
// and back.
#pragma once
#include "base/parallel.h"
#include "solve/poisson.h"
#include "solve/precise.h"

namespace pour {

template <class F>
void for_blocks(const BlockGrid& g, const F& f) {
  // Small levels run faster on one core than they can be handed out.
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
  std::vector<int> irregular;      // block has walls that coarse cells don't know, which want more smoothing
  std::vector<int> active;
  std::vector<int> inner, edge;  // active and uniform among uniform ones, and the rest of the active ones
  std::vector<int> parent;       // coarse block of each block
  Floats inverse;                // of the sum of weights and anchor of a cell, where its block is not uniform
  Floats x, b;

  /// Finds out what kind of blocks there are. `grid` and `weights` have to be set.
  void set_up();
  /// Makes the grid and the weights of the next level, as level l does.
  void coarsen_to(Level& coarse, int l);
  /// x and b, as the V-cycle expects them.
  void make_fields();
  /// A guess from another grid may have values where there is no unknown any more. Returns whether it says
  /// anything.
  bool keep_unknowns(Floats& guess) const;
  /// The right-hand side of where nothing is known yet; returns its square.
  double take_on(const Floats& rhs);
  /// b - A x, computed in double, becomes the right-hand side; returns its square.
  double residual(const Floats& right, Precise solution);

  /// Gauss-Seidel over the cells of one colour; `fresh` takes every neighbour as zero and clears the rest.
  template <bool fresh>
  void smooth_block(int i, int color);
  void sweep(int color);
  void sweep(const std::vector<int>& blocks, int color);
  void smooth_before();
  /// Half the sum of the residual over each 2³ cells becomes the coarse right-hand side.
  void restrict_to(Level& coarse);
  /// Adds the coarse solution: three quarters of the way stay inside where a wall is next door.
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
