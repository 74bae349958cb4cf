// What a shot's file had beyond the limits, until somebody accepts the value that was taken or sets another.
#pragma once
#include <string>
#include <vector>

#include "shot/shot.h"

namespace pour {

/// Those whose setting, or key, is still in the shot.
std::vector<OutOfRange> unsettled_ranges(const Shot&);

/// “pieces.bowl.bounce is 120 % in the file, which is out of range. 95 % was taken.”
std::string in_words(const OutOfRange&);

/// Keeps every setting within its limits, after a change that was made to the shot itself.
void keep_within_limits(Shot&);

/// Somebody has set this setting, or accepts the value that it has.
void settle_range(Shot&, const std::string& path);

/// Throws Fault (Blame::shot) where something is unsettled: a run would compute what nobody asked for.
void refuse_unsettled_ranges(const Shot&);

}  // namespace pour
