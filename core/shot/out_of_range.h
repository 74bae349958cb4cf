// Values that a file had beyond their limits, until the clamped value is accepted or replaced.
#pragma once
#include <string>
#include <vector>

#include "shot/shot.h"

namespace pour {

/// The entries whose setting or key still exists.
std::vector<OutOfRange> unsettled_ranges(const Shot&);

/// “pieces.bowl.bounce is 120 % in the file, which is out of range. 95 % was taken.”
std::string in_words(const OutOfRange&);

/// Clamps every setting, after a change made to the shot's members directly.
void keep_within_limits(Shot&);

/// Marks a setting as set or accepted.
void settle_range(Shot&, const std::string& path);

/// Throws Fault (Blame::shot) while any value is unsettled, so that no run uses a value that nobody chose.
void refuse_unsettled_ranges(const Shot&);

}  // namespace pour
