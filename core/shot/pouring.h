// When a pour pours: its windows and pulses; and how much.
#pragma once
#include "shot/shot.h"

namespace pour {

/// How long a pour pours between two times of the shot, s. Each window begins with a pulse.
double pouring_time(const Pour&, double from, double to);

/// Liquid that comes out of all its sources while it pours, m³/s: its rate, or the one that brings its volume
/// within its windows and pulses, whatever slow motion does. 0: as its speed brings.
double rate_of(const Pour&);

}  // namespace pour
