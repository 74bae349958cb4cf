// A light path from the camera.
#pragma once
#include "trace/scene.h"

namespace pour {

struct PathTracer::Path {
  const Scene& scene;
  Sampler random;
  Pixel& pixel;      // receives the features of the first surface
  Vec3f* of_lights;  // receives light by source: backdrop, then lights, then the clamped light of each; may
                     // be null
  float time = 0.5f;
  uint64_t rays = 0;

  Vec3f from{}, way{};
  Vec3f light{}, left{1, 1, 1};  // light so far, and throughput
  float through = 0;             // visible share of the backdrop
  Inside inside{};
  enum class Seen { straight, bent, mirrored } seen = Seen::straight;
  bool scattered = false, noted = false, split_up = false;
  bool asked_within = false;  // last scattered in a liquid, where lights were sampled through its surface
  int turn = 0, forks = 0;
  int shore = -1;          // last body hit whose inside varies
  Vec3f beside{};          // its coefficient there
  float density = 0;       // of the last direction if lights were sampled too, otherwise 0
  LightBits lit_by = ~0u;  // lights that shine on the last scatterer

  /// Follows the path to its end and returns its light. Adds to `through` and `rays`.
  Vec3f follow();

 private:
  bool lit(int number) const { return lit_by >> number & 1; }
  void add(const Vec3f& l, bool asked_for, int number);
  void note(const Vec3f& color, const Vec3f& normal, float depth);
  Path branch(uint32_t which) const;
  void join(Path&);
  void split(int ways);
  void escape();
  void meet_bulbs(float end);
  bool scatter_inside(int body, const std::optional<Hit>&);
  bool scatter_in_smoke(float end);
  /// Light through the surface of the surrounding cloudy liquid, refracted as if it were flat.
  void ask_through_surface(int body);
  /// Scatters in smoke by phase() with mean cosine g.
  void scatter(const Vec3f& albedo, float g);
  void ask_lights(const Hit&, const Bsdf&, const Basis&, const Vec3f& out);
  bool bounce(const Hit&);
  bool catch_shadow(const Hit&);
  bool cross(const Hit&, const Bsdf&);
};

}  // namespace pour
