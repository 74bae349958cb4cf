// The kinds of pieces. A new kind is a file in kinds/ and its name in this list.
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

/// Key and name of each kind, by its index in Shape.
std::span<const Option> kinds();
/// A new shape of this kind.
Shape new_shape(int kind);
/// Its sentence, with the keys of settings in braces.
const char* sentence_of(const Shape&);

/// Its bodies in its piece's frame of reference, cached. Throws Fault (Blame::shot). Thread-safe.
std::shared_ptr<const std::vector<Body>> bodies_of(const Shape&, const StopAsked& stop = {});

}  // namespace pour
