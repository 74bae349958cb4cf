// The forces of a shot, as the fields of a world and at single places.
#pragma once
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "base/work.h"
#include "shot/clock.h"
#include "shot/shot.h"
#include "world/world.h"

namespace pour {

/// A fluid that is pushed.
struct Pushed {
  FlowKind flow = FlowKind::liquid;
  std::string fluid;                    // id, of a liquid; "": as all forces say that act on any
  double density = 0.001, warmth = 20;  // of smoke, kg/m³ and K above the air
  double age = 0, speed = 0;            // s, m/s
};

/// What a force gives at a place.
struct ForceThere {
  std::string id, name;
  Vec3d acceleration;  // m/s²
  double rate = 0;     // of drag, 1/s
  Vec3d led;           // velocity that drag leads to, m/s
};

/// The velocity after dt seconds under a push, as kept_on() of push.h.
Vec3d velocity_after(const Vec3d& velocity, const ForceThere&, double dt);

class ForceFields {
 public:
  /// Throws Fault (Blame::shot) for a force whose piece is missing or cannot be built.
  explicit ForceFields(const Shot&, const StopAsked& stop = {});
  /// Sets the forces of a world for a step between two times, s. `now`: the shot at its start.
  void set(World&, FlowKind, const Shot& now, double from, double to) const;
  /// The field of one force of the shot at its start; null for turbulence and confinement.
  std::shared_ptr<const Field> alone(const Force&) const;
  /// Each force that acts at a place at a time, and last their sum, named "". Turbulence and vorticity
  /// confinement, which depend on the flow, are left out.
  std::vector<ForceThere> at(const Vec3d& place, const Pushed&, const Shot& now, double time) const;
  /// Where something that is pushed goes from a place with a velocity, under the forces of this moment: a
  /// point every `step` seconds, the first included.
  std::vector<Vec3d> flight(Vec3d place, Vec3d velocity, Pushed, const Shot& now, double time, double seconds,
                            double step) const;

 private:
  SetAround around(const Shot& now, double time) const;
  Shot shot_;
  Clock clock_;
  // By piece, in its own frame of reference.
  std::map<std::string, std::shared_ptr<const Distances>> bodies_;
  std::map<std::string, std::shared_ptr<const Target>> targets_;
};

}  // namespace pour
