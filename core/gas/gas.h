// Smoke in air: state, world and one step in time. Independent of files and shots.
//
// Staggered grid of cubic cells in blocks and rooms (solve/block_grid.h). Velocity in m/s on faces
// (u on the face towards smaller x, and so on); density in kg/m³, heat in K above the air and colour
// (times density) at cell centres; p in m²/s is pressure · dt / air density. Lattice point (i, j, k) of
// a grid is at (i, j, k) · cell_size from the origin of space; block coordinates count from there.
#pragma once
#include <string>
#include <vector>

#include "base/air.h"
#include "solve/poisson.h"
#include "world/cut_cells.h"
#include "world/ledger.h"

namespace pour {

/// The world, with settings of the gas.
struct GasWorld : World {
  double heat_lift = 1, density_lift = -1;           // times the physical buoyancy
  double density_half_life = 0, heat_half_life = 0;  // s; 0: for ever
  double viscosity = 0;         // m²/s, kinematic; explicit, for dt <= cell² / (6 viscosity)
  bool no_slip[6] = {};         // by Side, with viscosity only
  Vec3d side_velocity[6] = {};  // of the no-slip sides, m/s
  double tolerance = 1e-5;      // of the pressure solve, relative
};

struct GasState {
  double time = 0;  // s
  BlockGrid grid;
  CellGeometry geometry;
  uint64_t geometry_id = 0;  // changes with the grid or its geometry
  Floats u, v, w;
  Floats density, heat, red, green, blue;
  Floats pressure;
};

struct GasReport {
  int solver_iterations = 0;
  double solver_residual = 0;
  double max_divergence =
      0;  // 1/s, after the projection, relative to the divergence that sources and solids ask for
  double squeezed = 0;  // m³/s displaced by solids in closed spaces
};

struct GasMeasure {
  double cells = 0;                          // number of gas cells
  Vec3d centroid;                            // of the smoke, m
  double max_speed = 0, kinetic_energy = 0;  // m/s; J with air of 1.2 kg/m³
};

class GasSolver {
 public:
  /// Advances the state by dt seconds and books all changes. Bit-equal at any thread count.
  GasReport step(GasState&, const GasWorld&, double dt, Ledger&);

  /// Rebuilds the geometry of a state read from a checkpoint.
  void restore(GasState&, const GasWorld&);

  /// The blocks of a room that are not wholly solid.
  static std::vector<BlockKey> blocks_of_room(const GasWorld&, int room);
  /// Completes a velocity that is known on marked faces only: extends it to the others, as free of divergence
  /// as the marked faces allow.
  void complete_air(GasState&, const GasWorld&, const Bytes (&known)[3]);

  // The parts of a step, in order.
  /// Updates the active blocks for a step of dt seconds, with geometry for new ones.
  void update_region(GasState&, const GasWorld&, double dt, Ledger&);
  /// Moves solids to the end of the step and recomputes the cells that they cut.
  void move_solids(GasState&, const GasWorld&, double dt);
  void apply_forces(GasState&, const GasWorld&, double dt);
  /// Forces with a place, on open faces, and the velocity of the air outside.
  void apply_fields(GasState&, const GasWorld&, double dt);
  /// Gives new blocks the velocity that free air has there.
  static void blow_in(GasState&, const GasWorld&, const std::vector<int>& fresh);
  /// Vorticity confinement in the marked blocks.
  void confine(GasState&, const GasWorld&, const Swirls&, double dt, const std::vector<uint8_t>& blocks);
  void apply_sources(GasState&, const GasWorld&, double dt, Ledger&);
  /// Removes smoke inside drains.
  static void drain(GasState&, const GasWorld&, Ledger&);
  /// Fills whole sources at once with density, heat and colour.
  void fill(GasState&, const GasWorld&, std::vector<Source>, Ledger&);
  void apply_viscosity(GasState&, const GasWorld&, double dt);
  /// Projects the velocity to zero divergence except at sources (Batty, Bertails & Bridson 2007). In a closed
  /// space the displaced volume is absorbed evenly.
  GasReport project(GasState&, const GasWorld&, double dt = 0);
  /// Transports all fields (MacCormack, first order at new extremes, Selle et al. 2008) and corrects the mass
  /// that the scheme gains or loses. The remainder is booked as numeric.
  void advect(GasState&, const GasWorld&, double dt, Ledger&);
  /// Transports one field at cell centres, without correction.
  void advect_field(const GasState&, Floats& field, double dt, double cell_size);

  /// Displacement of the gas over a step, in cells.
  struct Displacement {
    Floats back[3], ahead[3];  // backwards and forwards in time
    std::vector<float> most;   // largest of each block along any axis
    const Bytes* volume;
  };
  /// Contents of a block and its 26 neighbours: gas only, gas and the outside, or solids too.
  enum class Surroundings : uint8_t { solid, edge, gas };
  /// Where there is enough smoke or warmth to matter.
  struct Presence {
    std::vector<uint8_t> here;              // by block; every block of a closed room
    std::vector<float> most_speed;          // of each block of room 0, in order, m/s along any axis
    std::vector<float> most_lift;           // buoyancy of the same blocks, m/s²
    float least_smoke = 0, least_heat = 0;  // kg/m³, K: smaller values count as zero
  };

 private:
  static Presence find_presence(const GasState&, const GasWorld&);
  /// advect() in sub-steps where the displacement exceeds the reach of paths.
  void advect_whole_way(GasState&, const GasWorld&, double dt, Ledger&);
  Displacement find_displacement(const GasState&, double dt, double cell_size);
  void make_system(const GasState&);
  /// Subtracts from `target` its mean over each closed space. Returns the volume absorbed, m³/s.
  double absorb(const GasState&, double cell_size, Floats& target);
  /// Adds the volume swept by solids to each cell's target divergence (Batty, Bertails & Bridson 2007).
  /// Returns the total displaced, m³/s.
  double sweep(const GasState&, const GasWorld&, double dt, Floats& wanted) const;
  /// Sets closed faces to the velocity of the solid that closes them.
  void carry_solids_along(GasState&, const GasWorld&, double dt) const;
  /// Applies the fictitious forces of moving rooms.
  void push_rooms(GasState&, const GasWorld&, double dt) const;

  uint64_t system_id_ = 0;   // geometry_id of the current system
  uint64_t moved_from_ = 0;  // geometry_id before solids moved within the same blocks
  PoissonWeights weights_;
  PoissonSolver poisson_;
  std::vector<double> pocket_volume_;  // by pocket, in cells
  std::vector<uint8_t> open_;          // by block: nothing solid in it
  std::vector<Surroundings> surroundings_;
  Floats target_;                                 // target divergence from sources, 1/s
  std::vector<int> moved_;                        // blocks that a moving solid cuts in this step
  std::vector<int> laid_open_;                    // the ones whose geometry changed
  std::vector<Solid> solids_;                     // all solids of room 0, if any of them moves
  Bytes before_;                                  // cell volumes before solids moved; empty: unchanged
  float trace_of_smoke_ = 0, trace_of_heat_ = 0;  // kg/m³, K: values up to these count as zero
};

/// The gas in a row of a block: at cell centres, or in the middle of the faces across an axis.
EightPlaces gas_places(const GasState&, const GasWorld&, int block, int y, int z, int face = -1);
/// Largest speed along any axis, m/s.
double most_speed(const GasState&);
/// Total smoke in kg.
double smoke_mass(const GasState&, double cell_size);
GasMeasure measure(const GasState&, double cell_size);
/// Time until the fastest gas has crossed `courant` cells, at most `longest`, s. With the acceleration of
/// forces it may cross up to `most_crossed` cells.
double longest_step(const GasState&, const GasWorld&, double courant, double longest);
constexpr double most_crossed = 6;  // cells a step; paths reach half a cell further

/// Largest effective gravity, moving rooms included, m/s².
double most_pull(const GasWorld&);
/// A new id for a geometry.
uint64_t next_geometry_id();

/// Largest buoyant acceleration of smoke of this heat (K) and density (kg/m³), m/s².
double most_lift(const GasWorld&, double heat, double density);

}  // namespace pour
