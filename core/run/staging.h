// From a shot to what the solver needs: rooms, solids and sources at a time.
#pragma once
#include <string>
#include <vector>

#include "gas/gas.h"
#include "liquid/liquid.h"
#include "run/run_folder.h"
#include "run/space.h"
#include "shape/motion.h"

namespace pour {

struct Estimate {
  double cells = 0;             // that will be active at most
  double seconds = 0;           // of computing
  double memory = 0, disk = 0;  // bytes
  std::vector<double> frames;   // of the seconds, those of each frame of the film
};

constexpr double most_steps = 2000;  // of a frame
/// What a run says that would take more of them, because of what flows or because of a piece.
Fault too_fast(const std::string& when);
Fault piece_too_fast(const std::string& when);

class Staging {
 public:
  /// What is only looked at is made with coarser walls where fine ones would take long; it can't be run.
  enum class For { running, looking };
  /// Throws Fault (Blame::shot), naming the piece or pour: no text, no such font, nothing that pours,
  /// a source that does not exist, bounds that miss everything, a grid that is too fine to be computed,
  /// smoke that is too fast for it, a piece that holds and changes its size.
  explicit Staging(const Shot&, const StopAsked& stop = {});
  /// The same where the space of the shot is known already.
  Staging(const Shot&, const Space&, For = For::running, const StopAsked& stop = {});

  double cell_size() const { return cell_size_; }
  const Box& bounds() const { return bounds_; }
  const Clock& clock() const { return motion_.clock(); }
  double courant() const { return shot_.run.courant; }  // cells a step
  bool brings(FluidKind kind) const { return shot_.brings(kind); }
  std::vector<Vec3f> liquid_colors() const;  // by their number, linear
  struct Seed {
    Vec3d center;
    double radius;
    Color color;
    std::string piece;  // id of the one that it moves with
  };
  /// Where smoke starts that comes from every letter, as things stand at frame 1.
  std::vector<Seed> seeds() const;
  /// The world of each flow for a step from one time to another, s: solids at both ends of it, forces and the
  /// sources that pour within it, each with its share of the step.
  GasWorld gas_world(double from, double to) const { return gas_world(from, to, to); }
  /// As things stand at a time, with all sources that pour until another one: what a step may be as long as.
  GasWorld gas_world_until(double time, double until) const { return gas_world(time, time, until); }
  GasWorld gas_world(double time) const { return gas_world(time, time); }
  /// Of the space around the rooms (0), or of one of them, in its own space.
  LiquidWorld liquid_world(double from, double to, int room) const {
    return liquid_world(from, to, to, room);
  }
  LiquidWorld liquid_world_until(double time, double until, int room) const {
    return liquid_world(time, time, until, room);
  }
  /// The space around the rooms, and every room that liquid is poured into.
  std::vector<int> liquid_rooms() const;
  /// Tells the vessels of a shot, each by its piece, its place in it and how it stands at a time, from those
  /// of another one.
  uint64_t room_mark(int room, double time) const;
  uint64_t room_marks(double time) const;  // of all of them
  /// What is filled after one time and until another; at the very beginning after a time below 0.
  std::vector<Source> fills(FluidKind, double after, double until) const;
  /// A step from this time, at most `longest` seconds, in which no piece that blocks moves further than
  /// most_moved cells.
  double longest_step(double from, double longest) const;
  static constexpr double most_moved = 1;
  /// The rooms that move, as they stand and move at a time.
  std::vector<RoomMotion> room_motions(double time) const;
  /// From what an earlier run measured, or from common figures.
  Estimate estimate(const Pace& = {}) const;

 private:
  struct Outlet {
    SourceShape shape;  // in the world at frame 1, or in the space of its piece
    size_t piece = 0;
    int room = 0;
    size_t pour = 0;
    bool is_seed = false;
    Vec3d center{};
    double radius = 0;
    std::optional<Mouth> mouth;  // in the space of its piece's shape
    Box own_box;                 // of its piece's shape
    double share = 1;            // of the pour's rate, for liquid
    std::shared_ptr<const BodyColors>
        colors;  // of its piece, in the space of its shape, where they are poured
  };
  struct Wall {
    LevelSet set;
    size_t piece = 0;
    double volume = 0;  // m³
  };
  using Poses = std::vector<Pose>;  // of the space of each piece

  void add_walls(const Space&, double wall_cell, const StopAsked&);
  void add_outlets(const Space&, double wall_cell, const StopAsked&);
  void add_seeds(size_t pour, const Space&);
  void add_piece_source(size_t pour, const Space&, double wall_cell, const StopAsked&);
  void add_outlet(Outlet);
  void check_pace(const Pour&, const Source&) const;
  GasWorld gas_world(double from, double to, double poured_until) const;
  LiquidWorld liquid_world(double from, double to, double poured_until, int room) const;
  /// The share of a time span in which a pour pours; of a moment, 1 or 0.
  double poured_share(const Pour&, double from, double until) const;
  /// What all flows see alike.
  void set_world(World&, const Shot& now, const Poses& start, const Poses& end) const;
  void add_sources(World&, FluidKind, const Shot& now, double from, double until, const Poses&) const;
  Source source(const Outlet&, const Shot& now, const Poses&) const;
  static void set_palette(Palette&, const Outlet&, const Pour&);
  /// All that comes out of a pour of liquid at once is its rate: rooms are full at the same time.
  void share_rates();
  /// What a source of liquid is besides.
  /// How the piece that it comes out of stands, in the space of its room.
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
  double cell_size_ = 0;
  Vec3i low_, cells_;
  Box bounds_;
  std::vector<Wall> rooms_, solids_, drains_;
  std::vector<Outlet> outlets_;
  double room_volume_ = 0;  // of the rooms that are filled, m³
  double surface_ = 0;      // of all that hold, block or pour, m²
  bool outside_ = false;    // something pours around the rooms
};

}  // namespace pour
