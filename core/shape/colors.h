// The colours of a body, for what comes out of it.
#pragma once
#include <memory>
#include <string>

#include "shape/body.h"

namespace pour {

class BodyColors {
 public:
  virtual ~BodyColors() = default;
  /// Linear, at a place in or beside the body, in the space of its piece, m.
  virtual Vec3f at(const Vec3d&) const = 0;
};

/// Everywhere that of the nearest place of what is seen. Null where it has neither colours nor textures.
/// Throws Fault (Blame::shot) naming `where` for a texture that is no picture.
std::shared_ptr<const BodyColors> colors_of(const Body::Seen&, const std::string& where);

}  // namespace pour
