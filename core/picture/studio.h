// The studio of quick pictures: a backdrop with a pool of light, soft boxes, a polished floor, and shading of
// glass and solids. The stage computes the same on the graphics card.
#pragma once
#include "picture/camera.h"

namespace pour {

// The constants of the studio, shared with the shaders.
#define POUR_STUDIO(X)                                                         \
  X(pool_low, 0.42f)   /* of the background, at the corners */                 \
  X(pool_high, 1.25f)  /* more of it in the middle of the pool */              \
  X(glass_base, 0.04f) /* reflectance of glass, index 1.5, facing */           \
  X(glass_most, 0.32f) /* no side is whiter, however slanting */               \
  X(box_from, 0.74f)   /* cosine to a soft box where it begins */              \
  X(box_full, 0.97f)   /* ... and where it is all soft box */                  \
  X(box_light, 6.5f)   /* brightness of the soft boxes in reflections */       \
  X(lit, 2.2f)         /* light that solids scatter of what comes in */        \
  X(sheen, 0.15f)      /* ... and mirror, about as sharp as this power */      \
  X(sheen_power, 30.0f)                                                        \
  X(room_low, 0.5f) /* the room in reflections, of the background */           \
  X(room_high, 3.2f)                                                           \
  X(plain_least, 0.6f) /* of colours that stand for something, to the sides */ \
  X(far_side, 0.55f)   /* of glass seen through its front */                   \
  X(floor_base, 0.07f) /* reflectance of the floor, facing */                  \
  X(floor_most, 0.42f)                                                         \
  X(floor_spread, 0.075f) /* blur of the mirror image, of the height */        \
  X(floor_fade, 0.22f)    /* height where it is down to 1/e, of distance */    \
  X(ground_low, 0.28f)    /* the floor's own light, of the background */       \
  X(ground_high, 0.5f)

#define POUR_CONSTANT(name, value) inline constexpr float name = value;
namespace studio {
POUR_STUDIO(POUR_CONSTANT)
}
#undef POUR_CONSTANT

/// A light of quick pictures: the first directional lights of the look.
struct StudioLight {
  Vec3f toward, color;  // colour times strength
};
constexpr int most_studio_lights = 4;
std::vector<StudioLight> studio_lights(const Look&);

/// The studio with the settings of a look. Directions are unit vectors towards their object.
struct Studio {
  Studio(const Look&, const Camera&, const View&);

  std::vector<StudioLight> lights;
  Vec3f back;             // the background
  Vec3f solid;            // default colour of solids
  Vec3f forward, target;  // of the camera
  float pool = 1;         // falloff of the pool of light
  float distance = 1;     // of the camera, m
  float glass = 1;
  bool floor = true;

  /// Reflected light of a smooth surface of index 1.5 (Schlick 1994).
  Vec3f mirrored(const Vec3f& n, const Vec3f& to_eye) const;
  Vec3f backdrop(const Vec3f& direction) const;
  /// Light of smooth glass of index 1.5 (Schlick 1994) towards the camera. `n` faces the camera.
  Vec3f glass_light(const Vec3f& n, const Vec3f& to_eye) const { return mirrored(n, to_eye) * glass; }
  /// Light of a satin solid of this colour.
  Vec3f solid_light(const Vec3f& n, const Vec3f& to_eye, const Vec3f& color) const;
  /// Light of opaque liquid: its colour under a reflecting surface.
  Vec3f wet_light(const Vec3f& n, const Vec3f& to_eye, const Vec3f& color) const;
  /// Light of a false-coloured surface: its colour, slightly darker at grazing angles.
  static Vec3f plain_light(const Vec3f& n, const Vec3f& to_eye, const Vec3f& color) {
    return color * (studio::plain_least + (1 - studio::plain_least) * std::max(0.f, dot(n, to_eye)));
  }

  /// The floor's reflection where a camera ray meets it at `hit`.
  struct Mirror {
    float spread = 0;  // standard deviation of the blur, m across the image at `away`
    float away = 1;    // length of the path to the mirrored object, m
    float part = 1;    // share of the light that is reflected
  };
  Mirror mirror(const Vec3f& eye, const Vec3f& hit, const Vec3f& mirrored_direction) const;
  /// Colour of the floor with its reflection, fading into the backdrop.
  Vec3f floor_light(const Vec3f& hit, const Vec3f& direction, const Vec3f& image, const Vec3f& behind) const;
};

}  // namespace pour
