// The lights of a set, the light of the room, and the backdrop, as paths of light meet them.
#pragma once
#include <memory>
#include <optional>
#include <vector>

#include "base/pixels.h"
#include "picture/studio.h"
#include "trace/bsdf.h"

namespace pour {

/// A light, seen from a point. Directions are unit vectors from there.
class TracedLight {
 public:
  virtual ~TracedLight() = default;
  /// What comes from this direction.
  virtual Vec3f radiance(const Vec3f& from, const Vec3f& direction) const = 0;
  /// A direction to it and its density in solid angle; 0 where nothing comes to this point.
  virtual Vec3f sample(const Vec3f& from, Pair, float& density) const = 0;
  /// Of sample(); 0 beside it.
  virtual float density(const Vec3f& from, const Vec3f& direction) const = 0;
  /// About how much comes to this point, against other lights.
  virtual float power(const Vec3f& from) const = 0;
  /// How far away it is in this direction; 1e30 for those far away.
  virtual float distance(const Vec3f&, const Vec3f&) const { return 1e30f; }
  /// Too small to be met by chance after light was scattered: its light is asked for straight, also through
  /// clear bodies, where it is not bent (an approximation; see PathTracer).
  virtual bool small() const { return false; }

  int number = 0;      // in the look's list
  Vec3f irradiance{};  // by π, of what faces it; of a room, of what faces up
  Vec3f toward{0, 1, 0};
};

/// A bright rectangle that is infinitely far away: in the plane at distance 1 it reaches `wide` and `high` to
/// either side of its middle. Its light fades over its outer sixth.
class SoftBox : public TracedLight {
 public:
  /// `irradiance` is what a surface that faces it gets, by π.
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

/// An even disc that is infinitely far away: a round light, the sun.
class FarDisc : public TracedLight {
 public:
  /// `angle` from its middle to its rim, rad.
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

/// A round bulb that shines into a cone, with the square of the distance; not seen itself but in mirrors.
class Bulb : public TracedLight {
 public:
  /// `irradiance` by π is what a surface at `aim` gets that faces it; `cone` from its axis to its rim, rad.
  Bulb(const Vec3f& position, const Vec3f& aim, float cone, float radius, const Vec3f& irradiance);
  Vec3f radiance(const Vec3f& from, const Vec3f& direction) const override;
  Vec3f sample(const Vec3f& from, Pair, float& density) const override;
  float density(const Vec3f& from, const Vec3f& direction) const override;
  float power(const Vec3f& from) const override;
  float distance(const Vec3f& from, const Vec3f& direction) const override;
  bool small() const override { return true; }

 private:
  float least_cosine(const Vec3f& from, float& away) const;  // to its rim
  float share(const Vec3f& from) const;                      // of its light, by the cone
  Vec3f position_, axis_;
  float radius_, cone_cosine_, power_;
  Vec3f radiance_;
};

/// The room all round, as a picture of it: as wide as 360° from `turn` at its middle, as high as 180°.
class PicturedRoom : public TracedLight {
 public:
  /// Scaled so that it is as bright on average, over all directions, as `mean`.
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
  // Cells of the picture, by how much light comes from each: sums along rows, and of rows.
  int columns_, rows_;
  std::vector<float> in_row_, of_rows_;
};

/// Rooms that come with the program, drawn as pictures: all round, linear.
std::shared_ptr<const Pixels> drawn_room(RoomStyle);

/// Bits of lights by their place in the look's list: what shines on a body.
using LightBits = uint32_t;
constexpr int most_lights = 31;

struct StudioLights {
  /// Throws Fault (Blame::shot) where a picture that is wanted can't be read, or for more than `most_lights`.
  StudioLights(const Look&, const Camera&, const View&);

  std::vector<std::unique_ptr<TracedLight>> lights;  // those that are asked for
  struct Fill {
    Vec3f light;  // of an even room, from above
    int number;
  };
  std::vector<Fill> fills;
  Studio studio;
  Vec3f floor_color;

  static Vec3f of_fill(const Fill& f, const Vec3f& direction) {
    return f.light * (0.55f + 0.45f * direction.y);
  }
  /// What is seen behind everything in a direction from `view`'s eye.
  Vec3f backdrop(const Vec3f& direction, const View& view) const;
  bool transparent() const { return backdrop_ == Backdrop::transparent; }
  /// What a surface gets that faces a light, by its number, by π, in its strongest colour; 1 for all else
  /// (-1).
  float strength(int number) const { return strength_[size_t(number + 1)]; }

  /// One of the lights that shine on a body, to ask for.
  struct Asked {
    const TracedLight* light = nullptr;
    Vec3f toward{};
    float density = 0;  // of this direction to any large one, or to this small one
  };
  Asked sample(const Vec3f& from, LightBits lit_by, bool small_only, Sampler&) const;
  /// Of a direction to any of the large ones that shine on a body.
  float density(const Vec3f& from, LightBits lit_by, const Vec3f& direction) const;

 private:
  /// How likely each is to be asked for; their sum.
  float shares(const Vec3f& from, LightBits lit_by, bool small_only, float out[most_lights]) const;
  std::vector<float> strength_;  // of each light of the look, after that of all else
  std::vector<float> power_;     // of the lights, where that is the same from everywhere
  Backdrop backdrop_;
  Vec3f below_;
  std::shared_ptr<const Pixels> picture_;
};

}  // namespace pour
