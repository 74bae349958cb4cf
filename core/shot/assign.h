// Changes to a shot as words: “forces.gravity=0”, “gas.density_lift@48=-1 smooth”.
#pragma once
#include <string>

#include "shot/shot.h"

namespace pour {

/// PATH=VALUE sets a value. PATH@FRAME=VALUE [EASE] sets a key, PATH@FRAME= removes it; EASE is hold, linear,
/// smooth, or own and four numbers for its handles. PATH@before= and PATH@after= set what happens beyond the
/// keys; PATH@wobble=, PATH@wobble_rate= and PATH@wobble_seed= add a wobble. PATH@=VALUE removes the track.
/// Throws Fault: Blame::usage for any other form; Blame::shot for an unknown path, a value out of range, or
/// PATH=VALUE on a setting that has a track.
void assign(Shot&, const std::string& assignment);

}  // namespace pour
