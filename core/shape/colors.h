// The colours of a body, for fluid poured out of it.
#pragma once
#include <memory>
#include <string>

#include "shape/body.h"

namespace pour {

class BodyColors {
 public:
  virtual ~BodyColors() = default;
  /// Linear colour at a point in or beside the body, in its piece's frame of reference, m.
  virtual Vec3f at(const Vec3d&) const = 0;
};

/// Colours by the nearest point of the visible surface. Null without colours and textures. Throws Fault
/// (Blame::shot) naming `where` for an unreadable texture.
std::shared_ptr<const BodyColors> colors_of(const Body::Seen&, const std::string& where);

}  // namespace pour
