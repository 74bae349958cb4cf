// When a pour pours: its windows and pulses; and how much.
#pragma once
#include "shot/clock.h"

namespace pour {

/// How many of the frames from one to another a pour pours, in frames of the shot that need not be whole. A
/// window ends where the frame after its last one begins; each begins with a pulse.
double pouring_frames(const Pour&, double from, double to);

/// Liquid that comes out of all its sources while it pours, m³/s: its rate, or the one that brings its volume
/// within its windows and pulses, whatever slow motion does. 0: as its speed brings.
double rate_of(const Clock&, const Pour&);

}  // namespace pour
