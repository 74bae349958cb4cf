// From Clipper's polygons to outlines. Clipper works on whole numbers.
#pragma once
#include <polyclipping/clipper.hpp>

#include "shape/extrude.h"

namespace pour {

/// The parts of a united shape from left to right; `unit` is what one whole number is in metres, `clean` how
/// far points may be off a straight line, in whole numbers, to be left out.
Outline outline_from(const ClipperLib::PolyTree&, double unit, double clean);

/// Throws Fault (Blame::shot) of `where` for closed paths that would take minutes to unite: too many points,
/// or lines that cross too often. What it takes itself is bounded.
void refuse_tangles(const ClipperLib::Paths&, const std::string& where);
}  // namespace pour
