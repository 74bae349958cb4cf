// Converts Clipper's polygons, which have integer coordinates, to outlines.
#pragma once
#include <polyclipping/clipper.hpp>

#include "shape/extrude.h"

namespace pour {

/// The parts of a united shape from left to right. `unit` is metres per integer; points within `clean`
/// integers of a straight line are removed.
Outline outline_from(const ClipperLib::PolyTree&, double unit, double clean);

/// Throws Fault (Blame::shot) naming `where` for closed paths that would take minutes to unite: too many
/// points or crossings. Its own time is bounded.
void refuse_tangles(const ClipperLib::Paths&, const std::string& where);
}  // namespace pour
