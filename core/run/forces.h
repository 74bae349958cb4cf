// The forces of a shot, as the fields of a world and at single places.
#pragma once
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "base/work.h"
#include "shape/motion.h"
#include "world/world.h"

namespace pour {

/// A fluid that is pushed.
struct Pushed {
  FluidKind kind = FluidKind::liquid;
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
  ForceFields(const Shot&, const Motion&, const StopAsked& stop = {});
  /// Sets the forces of a world for a step between two times, s. `now`: the shot at its start.
  void set(World&, FluidKind, const Shot& now, const Motion&, double from, double to) const;
  /// The field of one force at the start of the shot; null for turbulence and confinement.
  std::shared_ptr<const Field> alone(const Force& f, const Shot& first, const Motion& motion) const {
    return field_of(f, around(first, motion, 0));
  }
  /// Each force that acts at a place at a time, and last their sum, named "". Turbulence and vorticity
  /// confinement, which depend on the flow, are left out.
  std::vector<ForceThere> at(const Vec3d& place, const Pushed&, const Shot& now, const Motion&,
                             double time) const;
  /// Where something that is pushed goes from a place with a velocity, under the forces of this moment: a
  /// point every `step` seconds, the first included.
  std::vector<Vec3d> flight(Vec3d place, Vec3d velocity, Pushed, const Shot& now, const Motion&, double time,
                            double seconds, double step) const;

 private:
  SetAround around(const Shot& now, const Motion&, double time) const;
  std::map<std::string, std::shared_ptr<const Distances>> bodies_;  // by piece, in its frame of reference
};

}  // namespace pour
