// Liquid with a free surface: state, and one step in time. Knows no file and no shot.
//
// Particles carry the liquid, a staggered grid in blocks (solve/block_grid.h) around them its pressure:
// affine particle-in-cell (APIC, Jiang et al. 2015). Velocity in m/s on faces, p in m/s · cell. Air is empty
// and at pressure zero.
// Solids stand still: what moves is not cut anew, nor do rooms hold liquid yet.
#pragma once
#include "liquid/particles.h"
#include "solve/poisson.h"
#include "world/cut_cells.h"
#include "world/ledger.h"

namespace pour {

struct LiquidState {
  double time = 0;  // s
  Particles particles;
  uint32_t poured = 0;  // particles so far, for their ids
  BlockGrid grid;       // around the particles
  CellGeometry geometry;
  Floats u, v, w;
  Floats surface;  // level set at cell centres, in cells; negative in the liquid
  Floats pressure;
};

struct LiquidReport {
  int solver_iterations = 0;
  double solver_residual = 0;
  double max_divergence = 0;  // 1/s, in the liquid, after the projection
};

struct LiquidMeasure {
  double volume = 0;  // m³, of the level set
  double cells = 0;   // that hold liquid
  Vec3d centroid;     // m, of the particles
  double max_speed = 0;
  double kinetic_energy = 0;  // J with a density of 1000 kg/m³
};

class LiquidSolver {
 public:
  /// Advances the state by dt seconds and keeps the books, in m³. Same input, same bits, at any thread count.
  LiquidReport step(LiquidState&, const World&, double dt, Ledger&);

  // The parts of a step, in their order.
  /// Fills what sources cover with particles that move at their velocity, wherever there is room.
  void pour(LiquidState&, const World&, Ledger&);
  /// Blocks around all particles, their geometry, and the particles in their order.
  void update_region(LiquidState&, const World&);
  /// Momentum from the particles to the faces; from how much they fill around each cell, how far it is to the
  /// surface, which is exact for a flat one.
  void gather(LiquidState&);
  void apply_forces(LiquidState&, const World&, double dt);
  /// Makes the velocity free of divergence in the liquid (Batty, Bertails & Bridson 2007), with the surface
  /// where it is between the cells (ghost fluid, Enright et al. 2003).
  LiquidReport project(LiquidState&, const World&);
  /// Continues the velocity into the air around.
  void extrapolate(LiquidState&) const;
  /// Particles take their velocity and its slope from the faces and go along (midpoint rule); solids turn
  /// them back, open sides let them go.
  void advect(LiquidState&, const World&, double dt, Ledger&);

 private:
  ParticleCells cells_;
  Bytes known_[3];  // of the faces: the velocity is that of liquid
  PoissonWeights weights_;
  PoissonSolver poisson_;
};

/// Seconds until the fastest particle has crossed `courant` cells, at most `longest`.
double longest_step(const LiquidState&, const World&, double courant, double longest);
LiquidMeasure measure(const LiquidState&, double cell_size);

}  // namespace pour
