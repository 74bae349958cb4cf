// Lights, room and backdrop for path tracing.
#pragma once
#include <memory>
#include <optional>
#include <vector>

#include "base/pixels.h"
#include "picture/studio.h"
#include "trace/bsdf.h"

namespace pour {

/// A light. Directions are unit vectors from the shaded point.
class TracedLight {
 public:
  virtual ~TracedLight() = default;
  /// Radiance from a direction.
  virtual Vec3f radiance(const Vec3f& from, const Vec3f& direction) const = 0;
  /// Samples a direction to it, with its density in solid angle; 0 if it does not reach the point.
  virtual Vec3f sample(const Vec3f& from, Pair, float& density) const = 0;
  /// Density of sample(); 0 outside of the light.
  virtual float density(const Vec3f& from, const Vec3f& direction) const = 0;
  /// Approximate contribution at a point, for choosing between lights.
  virtual float power(const Vec3f& from) const = 0;
  /// Distance in a direction; 1e30 for distant lights.
  virtual float distance(const Vec3f&, const Vec3f&) const { return 1e30f; }
  /// Too small to be hit by scattered paths: it is only sampled directly, straight through clear bodies
  /// without refraction (an approximation; see PathTracer).
  virtual bool small() const { return false; }

  int number = 0;      // index in the look's list
  Vec3f irradiance{};  // divided by π, of a surface facing it; of a room, facing up
  Vec3f toward{0, 1, 0};
};

/// A rectangle at infinity with half extents `wide` and `high` in the plane at distance 1. It fades over its
/// outer sixth.
class SoftBox : public TracedLight {
 public:
  /// `irradiance` is that of a facing surface, divided by π.
  SoftBox(const Vec3f& toward, float wide, float high, const Vec3f& irradiance);
  Vec3f radiance(const Vec3f& from, const Vec3f& direction) const override;
  Vec3f sample(const Vec3f& from, Pair, float& density) const override;
  float density(const Vec3f& from, const Vec3f& direction) const override;
  float power(const Vec3f&) const override { return power_; }
  bool small() const override { return small_; }

 private:
  Basis basis_;
  float wide_, high_, power_;
  bool small_;
  Vec3f radiance_;
};

/// A uniform disc at infinity: a round light, the sun.
class FarDisc : public TracedLight {
 public:
  /// `angle` is its angular radius, rad.
  FarDisc(const Vec3f& toward, float angle, const Vec3f& irradiance);
  Vec3f radiance(const Vec3f& from, const Vec3f& direction) const override;
  Vec3f sample(const Vec3f& from, Pair, float& density) const override;
  float density(const Vec3f& from, const Vec3f& direction) const override;
  float power(const Vec3f&) const override { return power_; }
  bool small() const override { return small_; }

 private:
  Basis basis_;
  float least_cosine_, density_, power_;
  bool small_;
  Vec3f radiance_;
};

/// A spherical bulb shining into a cone, with inverse-square falloff; visible in reflections only.
class Bulb : public TracedLight {
 public:
  /// `irradiance` is that of a facing surface at `aim`, divided by π; `cone` is the half angle, rad.
  Bulb(const Vec3f& position, const Vec3f& aim, float cone, float radius, const Vec3f& irradiance);
  Vec3f radiance(const Vec3f& from, const Vec3f& direction) const override;
  Vec3f sample(const Vec3f& from, Pair, float& density) const override;
  float density(const Vec3f& from, const Vec3f& direction) const override;
  float power(const Vec3f& from) const override;
  float distance(const Vec3f& from, const Vec3f& direction) const override;
  bool small() const override { return true; }

 private:
  float least_cosine(const Vec3f& from, float& away) const;  // cosine of the bulb's angular radius
  float share(const Vec3f& from) const;                      // intensity within the cone, 0 to 1
  Vec3f position_, axis_;
  float radius_, cone_cosine_, power_;
  Vec3f radiance_;
};

/// The room as an equirectangular panorama, rotated by `turn`.
class PicturedRoom : public TracedLight {
 public:
  /// Scaled to the mean radiance `mean` over all directions.
  PicturedRoom(std::shared_ptr<const Pixels>, float turn, const Vec3f& mean);
  Vec3f radiance(const Vec3f& from, const Vec3f& direction) const override;
  Vec3f sample(const Vec3f& from, Pair, float& density) const override;
  float density(const Vec3f& from, const Vec3f& direction) const override;
  float power(const Vec3f&) const override { return power_; }

 private:
  Vec3f direction_at(float u, float v) const;
  std::shared_ptr<const Pixels> picture_;
  float turn_, power_;
  Vec3f scale_;
  // Cumulative luminance of cells along rows, and of rows.
  int columns_, rows_;
  std::vector<float> in_row_, of_rows_;
};

/// Panoramas of the built-in rooms, linear.
std::shared_ptr<const Pixels> drawn_room(RoomStyle);

/// Bit set of lights by their index in the look's list.
using LightBits = uint32_t;
constexpr int most_lights = 31;

struct StudioLights {
  /// Throws Fault (Blame::shot) for an unreadable picture or more than `most_lights` lights.
  StudioLights(const Look&, const Camera&, const View&);

  std::vector<std::unique_ptr<TracedLight>> lights;  // lights that are sampled
  struct Fill {
    Vec3f light;  // radiance of an even room from above
    int number;
  };
  std::vector<Fill> fills;
  Studio studio;
  Vec3f floor_color;

  static Vec3f of_fill(const Fill& f, const Vec3f& direction) {
    return f.light * (0.55f + 0.45f * direction.y);
  }
  /// The backdrop in a direction from the camera.
  Vec3f backdrop(const Vec3f& direction, const View& view) const;
  bool transparent() const { return backdrop_ == Backdrop::transparent; }
  /// Largest channel of the irradiance of a facing surface divided by π, by number of the light; 1 for other
  /// sources (-1).
  float strength(int number) const { return strength_[size_t(number + 1)]; }

  /// Chooses one of the lights that shine on a body.
  struct Asked {
    const TracedLight* light = nullptr;
    Vec3f toward{};
    float density = 0;  // of this direction over all large lights, or for this small one
  };
  Asked sample(const Vec3f& from, LightBits lit_by, bool small_only, Sampler&) const;
  /// Density of a direction over all large lights that shine on a body.
  float density(const Vec3f& from, LightBits lit_by, const Vec3f& direction) const;

 private:
  /// Selection weights of lights, and their sum.
  float shares(const Vec3f& from, LightBits lit_by, bool small_only, float out[most_lights]) const;
  std::vector<float> strength_;  // of other sources, then of each light of the look
  std::vector<float> power_;     // of the lights, where independent of position
  Backdrop backdrop_;
  Vec3f below_;
  std::shared_ptr<const Pixels> picture_;
};

}  // namespace pour
