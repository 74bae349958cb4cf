// What a piece can be. A new kind is a file in kinds/ and its name in this list.
#pragma once
#include <memory>
#include <variant>

#include "shape/kinds/ball.h"
#include "shape/kinds/box.h"
#include "shape/kinds/cylinder.h"
#include "shape/kinds/disc.h"
#include "shape/kinds/lettering.h"
#include "shape/kinds/mark.h"
#include "shape/kinds/model.h"
#include "shape/kinds/plane.h"
#include "shape/kinds/ring.h"
#include "shape/kinds/tube.h"
#include "shape/kinds/turned.h"

namespace pour {

using Shape = std::variant<Lettering, Ball, Block, Plane, Disc, Cylinder, Ring, Tube, Turned, Mark, Model>;

/// The word in files and the words on screen of each kind, by its index in Shape.
std::span<const Option> kinds();
/// A shape of this kind as it is when new.
Shape new_shape(int kind);
/// What it says, with the keys of its settings in braces.
const char* sentence_of(const Shape&);

/// Its bodies, in the space of its piece; kept for as long as they are asked for now and then. Throws Fault
/// (Blame::shot). Safe to call from many threads.
std::shared_ptr<const std::vector<Body>> bodies_of(const Shape&, const StopAsked& stop = {});

}  // namespace pour
