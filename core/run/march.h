// The one loop in which flows take their steps up to a frame.
#pragma once
#include <functional>
#include <string>

#include "base/work.h"

namespace pour {

class Staging;

/// Something that advances by steps of its own length: the gas, or the liquid of one space.
struct Stepper {
  /// The longest step that its solver may take from a time, up to `end`, s.
  std::function<double(double from, double end)> longest;
  /// Takes one step.
  std::function<void(double from, double to)> step;
  bool meets_pieces = true;  // pieces move through it, so steps are short enough to follow them
};

/// Steps from `time`, which the steps advance, to a frame's time, s. `where` names the frame in faults.
/// Returns false if `stop` ended it between two steps. Throws Fault (Blame::shot) if it would take too many
/// steps.
bool march(double& time, double end, const Stepper&, const Staging&, const std::string& where,
           const StopAsked& stop);

}  // namespace pour
