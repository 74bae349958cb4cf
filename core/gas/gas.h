// Smoke in air: state, the world around it, and one step in time. Knows no file and no shot.
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

/// The world with what is the gas's own.
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
  uint64_t geometry_id = 0;  // another one whenever grid or geometry changed
  Floats u, v, w;
  Floats density, heat, red, green, blue;
  Floats pressure;
};

struct GasReport {
  int solver_iterations = 0;
  double solver_residual = 0;
  double max_divergence = 0;  // 1/s, after the projection and beyond what sources and solids ask for
  double squeezed = 0;        // m³/s of gas that solids press into closed spaces, or draw out of them
};

struct GasMeasure {
  double cells = 0;                          // that are gas
  Vec3d centroid;                            // of the smoke, m
  double max_speed = 0, kinetic_energy = 0;  // m/s; J with air of 1.2 kg/m³
};

class GasSolver {
 public:
  /// Advances the state by dt seconds and keeps the books. Same input, same bits, at any thread count.
  GasReport step(GasState&, const GasWorld&, double dt, Ledger&);

  /// Gives a state that has fields and blocks, but no geometry (a checkpoint), its geometry back.
  void restore(GasState&, const GasWorld&);

  /// The blocks of a room that have space in them.
  static std::vector<BlockKey> blocks_of_room(const GasWorld&, int room);
  /// A state whose velocity is known on the faces that are marked, on the others too: continued from those,
  /// and free of divergence as well as the marked ones allow.
  void complete_air(GasState&, const GasWorld&, const Bytes (&known)[3]);

  // The parts of a step, in their order.
  /// Grows and shrinks the active blocks, with the geometry of new ones, for a step of dt seconds.
  void update_region(GasState&, const GasWorld&, double dt, Ledger&);
  /// Brings what moves to where it is at the end of the step: cuts the cells anew that it comes through.
  void move_solids(GasState&, const GasWorld&, double dt);
  void apply_forces(GasState&, const GasWorld&, double dt);
  /// One of the forces; in the blocks that are marked.
  void confine(GasState&, const GasWorld&, double dt, const std::vector<uint8_t>& blocks);
  void apply_sources(GasState&, const GasWorld&, double dt, Ledger&);
  /// What came into a drain is gone.
  static void drain(GasState&, const GasWorld&, Ledger&);
  /// Fills sources at once, whole, with their density, heat and colour.
  void fill(GasState&, const GasWorld&, std::vector<Source>, Ledger&);
  void apply_viscosity(GasState&, const GasWorld&, double dt);
  /// Makes the velocity free of divergence but for sources (Batty, Bertails & Bridson 2007). What a
  /// source displaces in a closed space is absorbed evenly over that space.
  GasReport project(GasState&, const GasWorld&, double dt = 0);
  /// Carries everything along by the velocity (MacCormack, first order where that would make a new extreme,
  /// Selle et al. 2008), with mass corrected for what the scheme gains or loses; what the correction leaves
  /// is booked as numeric.
  void advect(GasState&, const GasWorld&, double dt, Ledger&);
  /// The bare scheme for one field at cell centres.
  void advect_field(const GasState&, Floats& field, double dt, double cell_size);

  /// How far gas moves in a step, in cells, for each cell of the grid.
  struct Displacement {
    Floats back[3], ahead[3];  // to where it came from, to where it goes
    std::vector<float> most;   // of each block, along any axis
    const Bytes* volume;
  };
  /// What a block and the 26 around it are made of: gas alone, gas and the outside, or solids too.
  enum class Surroundings : uint8_t { solid, edge, gas };
  /// Where there is smoke or warmth worth following.
  struct Presence {
    std::vector<uint8_t> here;              // by block; all of them in closed rooms
    std::vector<float> most_speed;          // of each block of room 0 in order, m/s along any axis
    std::vector<float> most_lift;           // of the same, by its heat and density, m/s²
    float least_smoke = 0, least_heat = 0;  // kg/m³, K: less counts as none
  };

 private:
  static Presence find_presence(const GasState&, const GasWorld&);
  /// The same for the steps that a long way is taken in, so that no path is cut short.
  void advect_whole_way(GasState&, const GasWorld&, double dt, Ledger&);
  Displacement find_displacement(const GasState&, double dt, double cell_size);
  void make_system(const GasState&);
  /// Takes what `target` asks for in closed spaces away evenly over them. Returns how much that is, m³/s.
  double absorb(const GasState&, double cell_size, Floats& target);
  /// Adds to the divergence wanted of each cell what solids sweep through its faces (Batty, Bertails &
  /// Bridson 2007). Returns how much they press on the gas in all, m³/s.
  double sweep(const GasState&, const GasWorld&, double dt, Floats& wanted) const;
  /// Gives the closed faces beside the gas the velocity of the solid that closes them.
  void carry_solids_along(GasState&, const GasWorld&, double dt) const;
  /// What moving rooms do to the gas in them: pull and push that change from place to place, and Coriolis's.
  void push_rooms(GasState&, const GasWorld&, double dt) const;

  uint64_t system_id_ = 0;   // geometry_id that the system below was made for
  uint64_t moved_from_ = 0;  // geometry_id before solids moved through the same blocks
  PoissonWeights weights_;
  PoissonSolver poisson_;
  std::vector<double> pocket_volume_;  // of each pocket, in cells
  std::vector<uint8_t> open_;          // by block: nothing solid in it
  std::vector<Surroundings> surroundings_;
  Floats target_;               // divergence that sources ask for, 1/s
  std::vector<int> moved_;      // blocks with walls that something moves through in this step
  std::vector<int> laid_open_;  // those of which the geometry changed
  std::vector<Solid> solids_;   // all in room 0, where something moves
  Bytes before_;                // volumes of the cells before it moved; empty: as they are
  float trace_of_smoke_ = 0, trace_of_heat_ = 0;  // kg/m³, K: up to here there is none
};

/// The fastest gas along any axis, m/s.
double most_speed(const GasState&);
/// Total smoke in kg.
double smoke_mass(const GasState&, double cell_size);
GasMeasure measure(const GasState&, double cell_size);
/// Seconds until the fastest gas has crossed `courant` cells, at most `longest`. What forces add on the way
/// may bring it to `most_crossed` cells.
double longest_step(const GasState&, const GasWorld&, double courant, double longest);
constexpr double most_crossed = 6;  // cells in a step: paths reach half a cell further

/// The strongest gravity that gas feels anywhere, m/s²: that of rooms which are shaken too.
double most_pull(const GasWorld&);
/// Another one for each geometry.
uint64_t next_geometry_id();

/// The strongest pull of buoyancy by smoke of this heat (K) and density (kg/m³), m/s².
double most_lift(const GasWorld&, double heat, double density);

}  // namespace pour
