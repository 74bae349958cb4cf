// From a shot to what the solver needs: rooms, blockers, and the sources at a time.
#pragma once
#include <string>
#include <vector>

#include "gas/gas.h"
#include "run/run_folder.h"
#include "run/space.h"
#include "shape/piece_shape.h"
#include "shot/shot.h"

namespace pour {

/// Frame f is at (f - 1) / fps seconds.
inline double frame_time(const Shot& shot, int frame) { return double(frame - 1) / shot.film.fps; }

struct Estimate {
  double cells = 0;             // that will be active at most
  double seconds = 0;           // of computing
  double memory = 0, disk = 0;  // bytes
};

constexpr double most_steps = 2000;  // of a frame
/// What a run says that would take more of them.
Fault too_fast(const std::string& when);

/// Everything of a shot that does not change while it runs.
class Scene {
 public:
  /// A scene to look at is made with coarser walls where fine ones would take long; it can't be run.
  enum class For { running, looking };
  /// Throws Fault (Blame::shot), naming the piece or smoke: no text, no such font, nothing that pours,
  /// a source that does not exist, bounds that miss everything, a grid that is too fine to be computed,
  /// smoke that is too fast for it.
  explicit Scene(const Shot&, const StopAsked& stop = {});
  /// The same where the space of the shot is known already.
  Scene(const Shot&, const Space&, For = For::running, const StopAsked& stop = {});

  double cell_size() const { return world_.cell_size; }
  const Box& bounds() const { return bounds_; }
  struct Seed {
    Vec3d center;
    double radius;
    Color color;
  };
  /// Where smoke starts that comes from every letter.
  const std::vector<Seed>& seeds() const { return seeds_; }
  /// The world at a time; the sources are those whose pour window is open then.
  GasWorld world(double time) const;
  /// From what an earlier run measured, or from common figures.
  Estimate estimate(const Pace& = {}) const;

 private:
  /// The shot, where it has all that there must be.
  static const Shot& complete(const Shot&);

  void check_pace(const Smoke&, const GasSource&) const;

  struct Pour {
    GasSource source;
    FrameRange frames;
  };
  GasWorld world_;
  std::vector<Pour> pours_;
  std::vector<Seed> seeds_;
  Box bounds_;
  double room_volume_ = 0;  // of the rooms that are filled, m³
  double surface_ = 0;      // of all that hold, block or pour, m²
  bool outside_ = false;    // something pours around the rooms
  Shot shot_;
};

}  // namespace pour
