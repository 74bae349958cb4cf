// The lights of a studio: soft boxes far away, the light of the room, and the backdrop.
#pragma once
#include <vector>

#include "picture/studio.h"
#include "trace/material.h"

namespace pour {

/// A bright rectangle that is infinitely far away: in the plane at distance 1 it reaches `wide` and `high` to
/// either side of its middle. Its light fades over its outer sixth.
class SoftBox {
 public:
  /// `irradiance` is what a surface that faces it gets, by π.
  SoftBox(const Vec3f& toward, float wide, float high, const Vec3f& irradiance);
  Vec3f radiance(const Vec3f& direction) const;
  Vec3f sample(Pair, float& density) const;     // a direction to it, and its density in solid angle
  float density(const Vec3f& direction) const;  // 0 beside it
  float power() const { return power_; }
  const Vec3f& toward() const { return basis_.z; }
  Vec3f irradiance() const { return irradiance_; }  // by π

 private:
  Basis basis_;
  float wide_, high_, power_;
  Vec3f radiance_, irradiance_;
};

struct StudioLights {
  StudioLights(const Look&, const Camera&, const View&);

  std::vector<SoftBox> boxes;
  Vec3f fill;  // radiance of the room above
  Studio studio;
  Vec3f floor_color;

  Vec3f room(const Vec3f& direction) const { return fill * (0.55f + 0.45f * direction.y); }
  Vec3f of_boxes(const Vec3f& direction) const {
    Vec3f sum;
    for (const SoftBox& b : boxes) sum += b.radiance(direction);
    return sum;
  }
  /// A direction to one of the boxes, with its density among all of them.
  Vec3f sample(Sampler&, float& density) const;
  float density(const Vec3f& direction) const;
};

}  // namespace pour
