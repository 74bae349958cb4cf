// The variable-coefficient Poisson equation on a block grid:
//
//   sum over faces of w · (p_i - p_j)  +  anchor_i · p_i  =  b_i
//
// with face weights w in 1/255 between two unknowns and an anchor, also in 1/255, for faces beyond which p is
// zero. A cell without weights and anchor is not an unknown; its p stays zero.
//
// Method: conjugate gradients preconditioned by a geometric multigrid V-cycle (McAdams, Sifakis & Teran
// 2010), with red-black Gauss-Seidel, coarse weights as averages of the fine faces they cover, and
// face-weighted linear interpolation (Wesseling & Khalil 1992) that does not reach through walls. The V-cycle
// is not symmetric, so the direction update is the flexible one (Notay 2000). V-cycle, directions and
// recursive residual are in float. The solution is the sum of two floats, as good as double, and the residual
// is recomputed from it in double before the system counts as solved.
#pragma once
#include <memory>

#include "solve/block_grid.h"

namespace pour {

struct PoissonWeights {
  Bytes x, y, z;  // of the face towards smaller x, y, z
  Floats anchor;  // sums on coarse levels; may far exceed 255 near a free surface
  void resize(int size) { x.resize(size), y.resize(size), z.resize(size), anchor.resize(size); }
};

/// Sets of unknowns connected by faces of positive weight. Pockets without an anchor determine p only up to a
/// constant.
struct Pockets {
  struct Pocket {
    bool anchored = false;
    double cells = 0;
  };
  std::vector<Pocket> pockets;
  /// Pocket of a cell, or -1 if it is not an unknown.
  int at(int block, int cell) const {
    const Block& b = blocks_[size_t(block)];
    if (b.only >= -1) return b.only;
    const uint16_t local = b.local[size_t(cell)];
    return local ? b.ids[local - 1u] : -1;
  }
  /// The pocket of all cells in the block, or -2 if it is mixed.
  int whole(int block) const { return blocks_[size_t(block)].only; }

  struct Block {
    int only = -1;  // -2: see local
    std::vector<uint16_t> local;
    std::vector<int> ids;
  };
  std::vector<Block> blocks_;
};
Pockets find_pockets(const BlockGrid&, const PoissonWeights&);

struct SolveReport {
  int iterations = 0;
  double relative_residual = 0;  // |b - A p| / |b| in the 2-norm, recomputed from p
};

class PoissonSolver {
 public:
  PoissonSolver();
  ~PoissonSolver();
  /// Builds the coarse levels. The grid is copied; the weights must outlive the solver's use.
  void set(const BlockGrid&, const PoissonWeights&);
  /// Solves to |b - A p| <= tolerance · |b|. `b` must sum to zero over each pocket that is not anchored (up
  /// to rounding). `p` holds the initial guess and receives the solution. Over pockets without an anchor, its
  /// mean is that of the guess.
  SolveReport solve(const Floats& b, Floats& p, double tolerance, int max_iterations = 200);
  /// Of the current system.
  const Pockets& pockets() const;

 private:
  struct Parts;
  std::unique_ptr<Parts> parts_;
};

}  // namespace pour
