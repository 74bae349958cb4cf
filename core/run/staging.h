// Turns a shot into the worlds of solvers: rooms, solids and sources at a time.
#pragma once
#include <string>
#include <vector>

#include "gas/gas.h"
#include "run/forces.h"
#include "run/run_folder.h"
#include "run/space.h"
#include "shape/motion.h"
#include "shape/vessels.h"
#include "world/hole.h"

namespace pour {

struct LiquidWorld;

struct Estimate {
  double cells = 0;             // most active cells
  double seconds = 0;           // computing time
  double memory = 0, disk = 0;  // bytes
  std::vector<double> frames;   // seconds of each film frame
};

constexpr double most_steps = 2000;  // of a frame
/// The Fault for a frame that needs more steps, because of fluid or of a piece.
Fault too_fast(const std::string& when);
Fault piece_too_fast(const std::string& when);

class Staging {
 public:
  /// A Scene for viewing only has coarser walls where fine ones would take long. It cannot be run.
  enum class For { running, looking };
  /// Throws Fault (Blame::shot) naming the piece or pour: no text, unknown font, no pour, missing source,
  /// bounds that miss everything, a grid too fine to compute, smoke too fast for it, or a vessel that changes
  /// its size.
  explicit Staging(const Shot&, const StopAsked& stop = {});
  /// With the extent of the shot already known.
  Staging(const Shot&, const Space&, For = For::running, const StopAsked& stop = {});

  double cell_size() const { return cell_size_; }
  const Box& bounds() const { return bounds_; }
  const Clock& clock() const { return motion_.clock(); }
  double courant() const { return shot_.run.courant; }  // cells a step
  bool brings(FlowKind flow) const { return shot_.brings(flow); }
  std::vector<Vec3f> liquid_colors() const;  // by index of the liquid, linear
  struct Seed {
    Vec3d center;
    double radius;
    Color color;
    std::string piece;  // id of the piece that it moves with
  };
  /// The seeds of pours from every letter, at frame 1.
  std::vector<Seed> seeds() const;
  /// The world of a flow for a step between two times, s: solids at both ends, forces, and the sources that
  /// pour within it with their share of the step.
  GasWorld gas_world(double from, double to) const { return gas_world(from, to, to); }
  /// The world at a time with all sources that pour until another time, for choosing the length of a step.
  GasWorld gas_world_until(double time, double until) const { return gas_world(time, time, until); }
  GasWorld gas_world(double time) const { return gas_world(time, time); }
  /// The world of the open space (0) or of a room in its frame of reference.
  LiquidWorld liquid_world(double from, double to, int room) const;
  LiquidWorld liquid_world_until(double time, double until, int room) const;
  /// The open space and every room that receives liquid.
  std::vector<int> liquid_rooms() const;
  /// A hash of a vessel's piece, its place in it and its pose at a time, to compare vessels of two shots.
  uint64_t room_mark(int room, double time) const;
  uint64_t room_marks(double time) const;  // of all vessels
  /// Sources that are filled after one time and up to another; a negative time includes the start.
  std::vector<Source> fills(FlowKind, double after, double until) const;
  /// Whether a piece turns into a fluid after one time and up to another, so that cells open.
  bool opens_cells(double after, double until) const;
  /// The longest step from a time, up to `longest` seconds, in which no blocking piece moves more than
  /// most_moved cells.
  double longest_step(double from, double longest) const;
  static constexpr double most_moved = 1;
  /// The moving rooms with their pose and motion at a time.
  std::vector<RoomMotion> room_motions(double time) const;
  /// Estimate from an earlier run's pace, or from typical figures.
  Estimate estimate(const Pace& = {}) const;

 private:
  struct Outlet {
    SourceShape shape;  // in the world at frame 1, or in its piece's frame of reference
    size_t piece = 0;
    int room = 0;
    size_t pour = 0;
    bool is_seed = false;
    Vec3d center{};
    double radius = 0;
    std::optional<Mouth> mouth;                // in the frame of reference of its piece's shape
    Box own_box;                               // of its piece's shape
    double share = 1;                          // share of the pour's rate, for liquid
    std::shared_ptr<const BodyColors> colors;  // of its piece, if it pours them
  };
  struct Wall {
    LevelSet set;
    size_t piece = 0;
    double volume = 0;                // m³
    std::vector<Vessel::Part> parts;  // of a room
  };
  using Poses = std::vector<Pose>;  // of each piece's frame of reference

  void add_walls(const Space&, double wall_cell, const StopAsked&);
  /// Adds the holes of a body that are finer than cells.
  void add_holes(size_t piece, const Body&);
  void set_holes(LiquidWorld&, const Shot& now, const Poses& start, const Poses& end, double dt) const;
  void add_rooms(const Space&, double wall_cell, const StopAsked&);
  void refuse_growth(const Piece&) const;
  /// Throws Fault unless two pieces move as one.
  void refuse_parting(size_t piece, size_t keeper) const;
  /// The room of a body that holds, from 1; 0: none.
  int room_of(const Vessel::Part&) const;
  void add_outlets(const Space&, double wall_cell, const StopAsked&);
  void add_seeds(size_t pour, const Space&);
  void add_piece_source(size_t pour, const Space&, double wall_cell, const StopAsked&);
  void add_outlet(Outlet);
  void check_pace(const Pour&, const Source&) const;
  GasWorld gas_world(double from, double to, double poured_until) const;
  LiquidWorld liquid_world(double from, double to, double poured_until, int room) const;
  /// Share of a time span in which a pour pours; for a moment, 1 or 0.
  double poured_share(const Pour&, double from, double until) const;
  /// Distances to the pieces that forces go by.
  void add_force_bodies(const StopAsked&);
  void set_forces(World&, FlowKind, const Shot& now, double from, double to) const;
  /// The part of the world common to all flows.
  void set_world(World&, const Shot& now, const Poses& start, const Poses& end) const;
  void add_sources(World&, FlowKind, const Shot& now, double from, double until, const Poses&) const;
  Source source(const Outlet&, const Shot& now, const Poses&) const;
  static void set_palette(Palette&, const Outlet&, const Pour&);
  /// Divides the rate of a liquid pour among its sources, so that rooms are full at the same time.
  void share_rates();
  /// Adds the settings of liquid to a source.
  /// Pose of its piece in the frame of reference of its room.
  Pose place_of(const Outlet&, const Shot& now) const;
  void set_motion(Source&, const Outlet&, const Shot& now, const Shot& then, double dt) const;
  void set_liquid(Source&, const Outlet&, const Shot& now, const Shot& then, double dt) const;
  void set_inside(LiquidWorld&, int room, const Shot& now, double from, double to) const;
  Solid solid(const Wall&, const Shot& now, const Poses& start, const Poses& end) const;
  void set_room(Room&, size_t piece, double from, double to) const;
  void set_lattice(const Space&);
  void add_liquid(Estimate&, const Pace&) const;

  Shot shot_;
  Motion motion_;
  ForceFields forces_;
  double cell_size_ = 0;
  Vec3i low_, cells_;
  Box bounds_;
  std::vector<Wall> rooms_, solids_, drains_;
  struct PieceHole {
    Hole hole;  // in the frame of reference of its piece
    size_t piece;
  };
  std::vector<PieceHole> holes_;
  std::vector<Outlet> outlets_;
  double room_volume_ = 0;  // of rooms that receive fluid, m³
  double surface_ = 0;      // of pieces that hold, block or pour, m²
  bool outside_ = false;    // a pour is outside of all rooms
};

}  // namespace pour
