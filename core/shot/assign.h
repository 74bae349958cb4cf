// Changes to a shot as words: “forces.gravity=0”, “gas.density_lift@48=-1 smooth”.
#pragma once
#include <string>

#include "shot/shot.h"

namespace pour {

/// PATH=VALUE sets a value. PATH@FRAME=VALUE [EASE] sets a key, PATH@FRAME= removes it; EASE is hold, linear,
/// smooth, or own and four numbers for its handles. PATH@before=, PATH@after= say what comes beyond the keys,
/// PATH@wobble=, PATH@wobble_rate=, PATH@wobble_seed= what comes on top. PATH@=VALUE takes the track away.
/// Throws Fault: Blame::usage for what is none of these, Blame::shot for a path or a value that can't be, or
/// for PATH=VALUE where a track leaves open what is meant.
void assign(Shot&, const std::string& assignment);

}  // namespace pour
