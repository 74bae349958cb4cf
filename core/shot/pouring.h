// When a pour pours: its windows and pulses.
#pragma once
#include "shot/shot.h"

namespace pour {

/// How many of the frames from one to another a pour pours, in frames of the shot that need not be whole. A
/// window ends where the frame after its last one begins; each begins with a pulse.
double pouring_frames(const Pour&, double from, double to);

}  // namespace pour
