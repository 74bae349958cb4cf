// Liquid with a free surface: state and one step in time. Independent of files and shots.
//
// Particles carry the liquid; a staggered grid in blocks around them (solve/block_grid.h) carries velocity
// and pressure. Method: affine particle-in-cell (APIC, Jiang et al. 2015) with a share of FLIP (Zhu & Bridson
// 2005). Velocity in m/s on faces, p in m/s · cell. Air is empty and at pressure zero. All liquids have the
// same density in the pressure solve. Liquid in a room has a world of its own, in the room's frame of
// reference.
#pragma once
#include "liquid/particles.h"
#include "solve/poisson.h"
#include "world/cut_cells.h"
#include "world/hole.h"
#include "world/ledger.h"
#include "world/matter.h"
#include "world/near_solids.h"

namespace pour {

struct LiquidWorld : World {
  std::vector<Matter> liquids{Matter()};  // by index of the liquid
  std::vector<double> longest_life;       // by liquid, s; 0 or missing: for ever
  std::vector<double> liveliness;         // by liquid, 0 to 1; missing: 0
  std::vector<double> mixes_in;           // by liquid, s; 0 or missing: never
  std::vector<uint8_t> opens;             // by liquid: hollow where it is pulled apart; missing: no
  std::vector<Vec3f> colors;              // by liquid, linear; for mixing
  std::vector<Hole> holes;                // in walls of room 0, finer than cells
  std::optional<Room> room;               // the room that contains this world
  double most_held = 0;                   // capacity, m³; 0: no limit
};

/// Volume of the level set, number of cells at least half full, and volume of drops, threads and films under
/// about two cells, counted by particles. In cell volumes.
struct Filled {
  double volume = 0, cells = 0, drops = 0;
  Filled& operator+=(const Filled& o) {
    volume += o.volume, cells += o.cells, drops += o.drops;
    return *this;
  }
};

struct LiquidState {
  double time = 0;  // s
  Particles particles;
  uint32_t poured = 0;                 // particles so far
  uint32_t first_id = 0, id_step = 1;  // ids of poured particles; unique across the states of a shot
  std::vector<double> owed;            // by source: volume still owed, less than a particle, m³
  BlockGrid grid;                      // around the particles
  CellGeometry geometry;
  Floats u, v, w;
  Floats surface;  // level set at cell centres, in cells; negative in the liquid
  Floats crowd;    // relative excess of particles around a cell centre
  Floats pressure;
  std::vector<Stream> streams;  // by hole
  Filled filled;                // at the last gather()

  /// Whether a cell is open and within the surface.
  bool is_liquid(int block, int cell) const {
    const uint8_t v = block < first_block ? uint8_t(0) : geometry.volume.block(block)[cell];
    return v != 0 && v != outside_volume && surface.block(block)[cell] < 0;
  }
};

struct LiquidReport {
  int solver_iterations = 0;
  double solver_residual = 0;
  double max_divergence = 0;  // 1/s, in the liquid, after the projection
};

struct LiquidMeasure {
  double volume = 0;  // m³, inside the level set
  double drops = 0;   // m³, too small for the level set
  double cells = 0;   // number of cells with liquid
  Vec3d centroid;     // m, of the particles
  double max_speed = 0;
  double kinetic_energy = 0;  // J with a density of 1000 kg/m³
};

class LiquidSolver {
 public:
  /// Rebuilds the geometry of a state read from a checkpoint.
  void restore(LiquidState&, const LiquidWorld&);

  /// Estimates the velocity gradients of particles that have only positions and velocities.
  void find_slopes(LiquidState&, const LiquidWorld&);

  /// Advances the state by dt seconds and books all changes, in m³. Bit-equal at any thread count.
  LiquidReport step(LiquidState&, const LiquidWorld&, double dt, Ledger&);

  // The parts of a step, in order.
  /// Adds particles of sources for dt seconds, at their rate or wherever there is free space.
  void pour(LiquidState&, const LiquidWorld&, double dt, Ledger&);
  /// Fills the free space of whole sources at once.
  void fill(LiquidState&, const LiquidWorld&, const std::vector<Source>&, Ledger&);
  /// Updates the blocks around all particles, with solids at the end of the step, and sorts the particles.
  void update_region(LiquidState&, const LiquidWorld&, double dt);
  /// Transfers momentum from particles to faces, and computes the level set from the filled share around each
  /// cell, exact for flat surfaces.
  void gather(LiquidState&);
  void apply_forces(LiquidState&, const LiquidWorld&, double dt);
  /// Mixes colours: the difference to the mean within a cell halves in the mixing time. Uniform colours stay
  /// exact.
  void mix_colors(LiquidState&, const LiquidWorld&, double dt) const;
  /// Sends particles that a gathering force takes hold of to parts of its target.
  void share_out(LiquidState&, const LiquidWorld&) const;
  /// Applies forces with a place to particles.
  void apply_fields(LiquidState&, const LiquidWorld&, double dt) const;
  /// Keeps particles at most as fast as the fields that act on them allow.
  static void hold_back(LiquidState&, const LiquidWorld&);
  /// Applies the fictitious forces of a moving room to particles.
  static void push_with_room(LiquidState&, const LiquidWorld&, double dt);
  /// Computes the pressure of surface tension for the next project(), over dt seconds.
  void find_tension(LiquidState&, const LiquidWorld&, double dt);
  /// Projects the velocity to zero divergence (Batty, Bertails & Bridson 2007), with the surface located
  /// between cells (ghost fluid, Enright et al. 2003). Liquid that opens has no pressure below zero and parts
  /// there instead; the cells are found one solve after another (an active set, as in Narain, Golas & Lin
  /// 2010).
  LiquidReport project(LiquidState&, const LiquidWorld&);
  /// Moves what ran through holes in the last step to their other side; false if nothing did.
  bool let_through(LiquidState&, const LiquidWorld&);
  /// Opens the holes that liquid stands in front of for the next project(), over dt seconds.
  void open_holes(const LiquidState&, const LiquidWorld&, double dt);
  /// Applies viscosity for dt seconds, unless it is negligible. Returns the number of iterations.
  int apply_viscosity(LiquidState&, const LiquidWorld&, double dt);
  /// Displacements that restore an even particle density, which keeps the volume (Kugelstadt, Longva, Thuerey
  /// & Bender 2019). Uses the system of project().
  void part_crowds(const LiquidState&, double dt);
  /// Extends the velocity into the surrounding air.
  void extrapolate(LiquidState&) const;
  /// Makes the velocity inside solids tangential to their surface (Houston, Bond & Wiebe 2003).
  void slide_along_solids(LiquidState&, const LiquidWorld&, double dt);
  /// Updates velocity and gradient of particles from the faces and moves them (midpoint rule). Solids stop
  /// them; open sides remove them.
  void advect(LiquidState&, const LiquidWorld&, double dt, Ledger&);
  /// Whether a cell of this open volume counts as solid for the surface.
  static bool is_wall(uint8_t volume);

  /// A hole that liquid stands in front of. What flows through it is base + gain · (pressure - against),
  /// m³/s, with the pressure divided by density, m²/s².
  struct Opening {
    struct Cell {
      int block, cell;
    };
    struct Side {
      std::vector<Cell> cells;  // liquid
      double lift = 0;          // weight of the liquid between them and the middle of the wall, m²/s²
    };
    size_t hole = 0;
    Side sides[2];
    int from = 0;  // side that it flows from
    double base = 0, gain = 0, against = 0;
    double per_pressure = 0;  // h / dt: of p to pressure by density, 1/s · cell
    bool closed = false;      // tension holds the liquid back
  };

 private:
  void add_to_system(const Opening&, double cell_size);
  static void add_to_outflow(const Opening&, double cell_size, Floats& rhs);
  /// Counts the cells in which jets leave a wall as air: most jets are thinner than cells, and as full cells
  /// they would be slower.
  void part_jets(const LiquidState&, const LiquidWorld&);
  /// Lets the closed faces where jets come out have the speed of the jet, which would stick to the wall.
  void free_jets(LiquidState&, const LiquidWorld&) const;
  /// What flows through open holes under the pressure found; closes them.
  void close_holes(LiquidState&, const LiquidWorld&);
  Floats shear_rate(const LiquidState&, double cell_size) const;
  /// Builds the pressure system between liquid cells and at the surface.
  void make_system(const LiquidState&, double cell_size);
  /// Marks cells of liquid that opens in which the pressure is below zero; false if there are no more of
  /// them.
  bool tear(const LiquidState&, const LiquidWorld&);
  /// Solves for the pressure. What each closed space can't give is returned by pocket.
  LiquidReport find_pressure(LiquidState&, const LiquidWorld&, std::vector<double>& excess);
  void apply_pressure(LiquidState&);
  /// What flows out of a cell and no source adds there, m/s.
  float outflow(const LiquidState&, int block, int cell) const;
  /// In mostly solid cells, which have too few particles, takes a field's value from neighbouring cells.
  void touch_walls(const LiquidState&, Floats&) const;
  /// Counts cells with too few particles for a surface as liquid, so that drops do not fall through the
  /// liquid below.
  void keep_drops(LiquidState&) const;
  void move_solids(LiquidState&, const LiquidWorld&, double dt);
  void find_walls(const LiquidState&);
  /// Lets liquid leave solids that do not hold it, as if their surface receded in the pressure solve.
  /// Reverses drops that hit springy solids.
  void throw_back(LiquidState&, const LiquidWorld&, double dt);
  void keep_before(const LiquidState&, const LiquidWorld&);
  void find_inflow(const LiquidState&, const LiquidWorld&, double dt);
  void keep_books(LiquidState&, const LiquidWorld&, Ledger&) const;
  /// Removes particles that left, entered a drain or exceeded their lifetime.
  enum Goes : uint8_t { stays, leaves, drains, decays };
  static void take_out(LiquidState&, const LiquidWorld&, std::vector<uint8_t>& goes, Ledger&);

  /// A face in a solid, near its surface.
  struct Contact {
    int axis, face;
    Vec3f out, held;        // unit normal of the solid; its velocity, m/s
    float slip;             // share of the tangential speed that is kept
    float bounce, lets_go;  // shares of the speed into it and away from it
    float thrown = 0;       // speed out of it in this step, m/s
  };
  std::vector<Contact> contacts_of(const LiquidState&, const LiquidWorld&, int block, double dt) const;
  const std::vector<Contact>& contacts(const LiquidState&, const LiquidWorld&, int block, double dt);
  static Vec3f beside(const LiquidState&, int block, const Contact&);
  void throw_drops(LiquidState&, const std::vector<std::vector<Contact*>>& hits);
  /// A cell in a solid into which the surface is extended, from the point `look` in the liquid, in cells,
  /// along the solid's normal.
  struct WallCell {
    int cell;
    Vec3f look, out;
    float way, far;                     // distance from `look` to the cell and to the solid, in cells
    float advancing = 0, receding = 0;  // cotangents of the contact angles
    float cling = 0;                    // difference of the cosines
    Vec3f held{};                       // velocity of the solid, m/s
    bool is_skin = false;               // at the boundary of the solid
    float now = 0;                      // cotangent of the current angle of the surface
    bool clings = false;                // the contact line is here and stays
    bool crumb = false;                 // too little liquid for a contact line
    // The eight cells around `look`: block as in BlockGrid::around(), index within the block, and weight.
    struct Corner {
      uint8_t block;
      uint16_t cell;
      float weight;
    } corners[8] = {};
    float read(const Floats& f, const int* around) const {
      float sum = 0;
      for (const Corner& k : corners) sum += k.weight * f.block(around[k.block])[k.cell];
      return sum;
    }
  };
  std::vector<WallCell> wall_cells_of(const LiquidState&, const LiquidWorld&, int block, double dt) const;
  static void find_corners(WallCell&, const LiquidState&, int block);
  /// How the surface is extended into solids: at the contact angle, or straight on.
  enum class Walls { at_angle, as_it_is };
  /// Filled share of each cell, smoothed in these blocks and extended into solids.
  Floats smooth_fill(const LiquidState&, const LiquidWorld&, const std::vector<int>& blocks,
                     const BlockTable&, double dt, Walls);
  void continue_into_walls(const LiquidState&, const LiquidWorld&, const std::vector<int>& blocks,
                           const BlockTable&, double dt, Walls, Floats& fill);
  /// Measures the angle of the surface where it may cling. Returns false if nothing may.
  bool find_slants(const LiquidState&, const LiquidWorld&, const std::vector<int>& blocks, const BlockTable&,
                   double dt);
  /// Closes the cells of clinging contact lines until let_lines_go().
  void hold_lines(LiquidState&, const LiquidWorld&, const std::vector<int>& blocks, const BlockTable&);
  bool stays_by_itself(const LiquidState&, int block, int cell, const LiquidWorld&, double pull) const;
  void let_lines_go(LiquidState&);
  static Vec3f cell_velocity(const LiquidState&, int block, int cell);
  /// Mean tension of the liquids in a cell or, if it is empty, next to it, N/m.
  double tension_of(const LiquidState&, const LiquidWorld&, int block, int cell) const;
  struct NearWall {
    bool contacts_known = false, cells_known = false;
    std::vector<Contact> contacts;
    std::vector<WallCell> cells;
  };

  ParticleCells cells_;
  std::vector<NearWall> walls_;     // by block, while the solids there are at rest
  Floats pull_;                     // pressure of surface tension by cell; empty: none
  std::vector<uint8_t> near_wall_;  // by block: a solid or side of the bounds is in it or adjacent
  struct HeldFace {
    int axis;
    size_t face;
    uint8_t open;
    float velocity;
  };
  std::vector<HeldFace> held_;     // faces closed for the step, in order
  std::vector<Vec3d> pushed_;      // positions of poured particles that found no space in this step
  Floats inflow_;                  // by cell: outflow for these particles, m/s; empty: none
  Floats before_[3];               // face velocities before forces, for FLIP; empty: not needed
  Bytes holds_;                    // by cell: particles move with the solid; empty: none
  Floats carried_[3];              // by face: velocity of the closing solid; empty: all at rest
  Floats shift_[3];                // by face: displacement of the density correction, in cells; empty: none
  Bytes known_[3];                 // by face: has liquid velocity
  std::vector<Opening> openings_;  // until project()
  struct Jet {
    size_t hole;
    int side;      // that it comes out of
    double speed;  // relative to the wall, m/s
    bool submerged;
  };
  std::vector<Jet> jets_;  // in this step
  Bytes torn_;             // by cell: hollow, since its pressure would be below zero; empty: none
  PoissonWeights weights_;
  PoissonSolver poisson_;
};

/// The part of its target to which a force draws each of eight particles with these goals; -1: the nearest.
v8i part_of(const Sharing&, const uint16_t (&goals)[8]);

/// The longest stable step under surface tension, s.
double longest_step_under_tension(const Matter&, double cell_size);

/// Time until the fastest particle has crossed `courant` cells, at most `longest`, s.
double longest_step(const LiquidState&, const LiquidWorld&, double courant, double longest);
LiquidMeasure measure(const LiquidState&, double cell_size);

}  // namespace pour
