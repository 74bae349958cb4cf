// Liquid with a free surface: state, and one step in time. Knows no file and no shot.
//
// Particles carry the liquid, a staggered grid in blocks (solve/block_grid.h) around them its pressure:
// affine particle-in-cell (APIC, Jiang et al. 2015), with a share of FLIP (Zhu & Bridson 2005) for what is
// lively. Velocity in m/s on faces, p in m/s · cell. Air is empty and at pressure zero. All liquids are as
// heavy as each other to the pressure. What is in a room has a world of its own, in the space of the room.
#pragma once
#include "liquid/particles.h"
#include "solve/poisson.h"
#include "world/cut_cells.h"
#include "world/ledger.h"
#include "world/matter.h"
#include "world/near_solids.h"

namespace pour {

struct LiquidWorld : World {
  std::vector<Matter> liquids{Matter()};  // by their number
  std::vector<double> longest_life;       // the same, s; 0 or none: for ever
  std::vector<double> liveliness;         // the same, 0 to 1; none: 0
  std::vector<double> mixes_in;           // the same, s; 0 or none: never
  std::vector<Vec3f> colors;              // the same, linear; for what mixes
  std::optional<Room> room;               // that all of this is in, in whose space it is
  double most_held = 0;                   // that there is room for, m³; 0: no limit
};

/// Cells that liquid fills, how many hold more of it than air, and what is in drops, threads and films of
/// under about two cells, which no level set can hold: those are counted by their particles. In volumes of a
/// cell.
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
  uint32_t first_id = 0, id_step = 1;  // of those that are poured; states of one shot have none in common
  std::vector<double> owed;            // by source: what it has yet to bring, less than a particle, m³
  BlockGrid grid;                      // around the particles
  CellGeometry geometry;
  Floats u, v, w;
  Floats surface;  // level set at cell centres, in cells; negative in the liquid
  Floats crowd;    // particles more than fill the space around a cell's middle, of as many as do
  Floats pressure;
  Filled filled;  // when it was last gathered
};

struct LiquidReport {
  int solver_iterations = 0;
  double solver_residual = 0;
  double max_divergence = 0;  // 1/s, in the liquid, after the projection
};

struct LiquidMeasure {
  double volume = 0;  // m³, of the level set
  double drops = 0;   // m³, that it is too coarse for
  double cells = 0;   // that hold liquid
  Vec3d centroid;     // m, of the particles
  double max_speed = 0;
  double kinetic_energy = 0;  // J with a density of 1000 kg/m³
};

class LiquidSolver {
 public:
  /// Gives a state that has particles, blocks and pressure, but no geometry (a checkpoint), its geometry
  /// back.
  void restore(LiquidState&, const LiquidWorld&);

  /// Gives particles that have only places and velocities the slopes that these show.
  void find_slopes(LiquidState&, const LiquidWorld&);

  /// Advances the state by dt seconds and keeps the books, in m³. Same input, same bits, at any thread count.
  LiquidReport step(LiquidState&, const LiquidWorld&, double dt, Ledger&);

  // The parts of a step, in their order.
  /// Sources bring what they bring in dt seconds: at their rate, or wherever they have room.
  void pour(LiquidState&, const LiquidWorld&, double dt, Ledger&);
  /// Fills sources at once, whole, wherever there is room.
  void fill(LiquidState&, const LiquidWorld&, const std::vector<Source>&, Ledger&);
  /// Blocks around all particles, their geometry with solids where they are at the end of the step, and the
  /// particles in their order.
  void update_region(LiquidState&, const LiquidWorld&, double dt);
  /// Momentum from the particles to the faces; from how much they fill around each cell, how far it is to the
  /// surface, which is exact for a flat one.
  void gather(LiquidState&);
  void apply_forces(LiquidState&, const LiquidWorld&, double dt);
  /// What mixes comes nearer to the mean colour of what is within a cell of it, by half in the time that it
  /// takes; what is of one colour keeps its own.
  void mix_colors(LiquidState&, const LiquidWorld&, double dt) const;
  /// What a room that moves does to its particles.
  static void push_with_room(LiquidState&, const LiquidWorld&, double dt);
  /// What the tension of the surface adds to the pressure in the next project(), for dt seconds.
  void find_tension(LiquidState&, const LiquidWorld&, double dt);
  /// Makes the velocity free of divergence in the liquid (Batty, Bertails & Bridson 2007), with the surface
  /// where it is between the cells (ghost fluid, Enright et al. 2003).
  LiquidReport project(LiquidState&, const LiquidWorld&);
  /// What viscosity does in dt seconds; nothing where it is too little to matter. Returns iterations.
  int apply_viscosity(LiquidState&, const LiquidWorld&, double dt);
  /// How far particles have to go, so that as many are everywhere as fill the space (Kugelstadt, Longva,
  /// Thuerey & Bender 2019): what keeps the volume, and parts clumps. With the system of project().
  void part_crowds(const LiquidState&, double dt);
  /// Continues the velocity into the air around.
  void extrapolate(LiquidState&) const;
  /// In solids the velocity goes along their surface (Houston, Bond & Wiebe 2003).
  void slide_along_solids(LiquidState&, const LiquidWorld&, double dt);
  /// Particles take their velocity and its slope from the faces and go along (midpoint rule); solids turn
  /// them back, open sides let them go.
  void advect(LiquidState&, const LiquidWorld&, double dt, Ledger&);
  /// Whether a cell of this volume counts as solid to what is seen of the surface.
  static bool is_wall(uint8_t volume);

 private:
  Floats shear_rate(const LiquidState&, double cell_size) const;
  /// The pressure's: liquid against liquid, and against the surface where it is.
  void make_system(const LiquidState&);
  /// In cells that are mostly solid there are too few particles to tell: there a field of cells is as beside
  /// them.
  void touch_walls(const LiquidState&, Floats&) const;
  /// Particles that are too few for a surface are liquid too, each in its cell: else they would fall through
  /// what they lie on.
  void keep_drops(LiquidState&) const;
  void move_solids(LiquidState&, const LiquidWorld&, double dt);
  void find_walls(const LiquidState&);
  /// How fast liquid comes off solids that do not hold it: for the pressure as if their surface moved so.
  /// Drops that hit what is springy turn round.
  void throw_back(LiquidState&, const LiquidWorld&, double dt);
  void keep_before(const LiquidState&, const LiquidWorld&);
  void find_inflow(const LiquidState&, const LiquidWorld&, double dt);
  void keep_books(LiquidState&, const LiquidWorld&, Ledger&) const;
  /// Takes out what left, what came into a drain and what is too old.
  enum Goes : uint8_t { stays, leaves, drains, decays };
  static void take_out(LiquidState&, const LiquidWorld&, std::vector<uint8_t>& goes, Ledger&);

  /// A face in a solid, near its surface.
  struct Contact {
    int axis, face;
    Vec3f out, held;        // unit vector out of the solid; the solid's own velocity, m/s
    float slip;             // of the speed along the surface that is left
    float bounce, lets_go;  // of the speed into it; of that away from it
    float thrown = 0;       // out of it in this step, m/s
  };
  std::vector<Contact> contacts_of(const LiquidState&, const LiquidWorld&, int block, double dt) const;
  const std::vector<Contact>& contacts(const LiquidState&, const LiquidWorld&, int block, double dt);
  static Vec3f beside(const LiquidState&, int block, const Contact&);
  void throw_drops(LiquidState&, const std::vector<std::vector<Contact*>>& hits);
  /// A cell in a solid into which the surface is continued: from where one looks at it, in cells, with the
  /// way from there, along which the solid's surface faces.
  struct WallCell {
    int cell;
    Vec3f look, out;
    float way, far;                     // from there to it and to the solid, in cells
    float advancing = 0, receding = 0;  // cotangents of its contact angles
    float cling = 0;                    // difference of their cosines
    Vec3f held{};                       // the solid's own velocity, m/s
    bool is_skin = false;               // the solid ends beside it
    float now = 0;                      // cotangent of the angle at which the surface stands there
    bool clings = false;                // the surface's edge is there, and stays
    bool crumb = false;                 // there is too little for an edge
    // The eight cells around `look`: of each its block, as BlockGrid::around() counts them, and its number in
    // it, and how much it counts.
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
  /// Into solids the surface goes on at its contact angle, or as it is.
  enum class Walls { at_angle, as_it_is };
  /// How much of each cell particles fill, smoothed in these blocks and carried on into solids.
  Floats smooth_fill(const LiquidState&, const LiquidWorld&, const std::vector<int>& blocks,
                     const BlockTable&, double dt, Walls);
  void continue_into_walls(const LiquidState&, const LiquidWorld&, const std::vector<int>& blocks,
                           const BlockTable&, double dt, Walls, Floats& fill);
  /// The angles at which the surface stands where it may cling; false where nothing may.
  bool find_slants(const LiquidState&, const LiquidWorld&, const std::vector<int>& blocks, const BlockTable&,
                   double dt);
  /// Holds the edge of the surface where it clings: cells there are closed, until let_lines_go().
  void hold_lines(LiquidState&, const LiquidWorld&, const std::vector<int>& blocks, const BlockTable&);
  bool stays_by_itself(const LiquidState&, int block, int cell, const LiquidWorld&, double pull) const;
  void let_lines_go(LiquidState&);
  static Vec3f cell_velocity(const LiquidState&, int block, int cell);
  /// N/m, the mean of the liquids in a cell or, where it is empty, beside it.
  double tension_of(const LiquidState&, const LiquidWorld&, int block, int cell) const;
  struct NearWall {
    bool contacts_known = false, cells_known = false;
    std::vector<Contact> contacts;
    std::vector<WallCell> cells;
  };

  ParticleCells cells_;
  std::vector<NearWall> walls_;  // by block, for as long as what is solid there stands
  Floats pull_;  // by cell near the surface: what its tension adds to the pressure; empty: nothing
  std::vector<uint8_t> near_wall_;  // by block: something solid or a side of the bounds is in it or beside it
  struct HeldFace {
    int axis;
    size_t face;
    uint8_t open;
    float velocity;
  };
  std::vector<HeldFace> held_;  // faces that are closed for the step, in the order in which they were
  std::vector<Vec3d> pushed_;   // where a source brought particles in this step for which there was no room
  Floats inflow_;               // by cell: how much flows out of it for them, m/s; empty: nothing
  Floats before_[3];            // of the faces, where anything is lively: velocity that particles brought
  Bytes holds_;                 // by cell: its particles stay with the solid; empty: none
  Floats carried_[3];  // of the faces: velocity of the solid that closes them; empty where all stand still
  Floats shift_[3];    // of the faces: how far particles go besides, in cells; empty where none has to
  Bytes known_[3];     // of the faces: the velocity is that of liquid
  PoissonWeights weights_;
  PoissonSolver poisson_;
};

/// The longest step in which tension does not make what it should smooth, s.
double longest_step_under_tension(const Matter&, double cell_size);

/// Seconds until the fastest particle has crossed `courant` cells, at most `longest`.
double longest_step(const LiquidState&, const LiquidWorld&, double courant, double longest);
LiquidMeasure measure(const LiquidState&, double cell_size);

}  // namespace pour
