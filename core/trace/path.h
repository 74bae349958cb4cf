// One path of light from the eye.
#pragma once
#include "trace/scene.h"

namespace pour {

struct PathTracer::Path {
  const Scene& scene;
  Sampler random;
  Pixel& pixel;      // to which what is met first is added
  Vec3f* of_lights;  // to which light is added by where it comes from: backdrop, then lights, then what was
                     // cut off from each; may be null
  float time = 0.5f;
  uint64_t rays = 0;

  Vec3f from{}, way{};
  Vec3f light{}, left{1, 1, 1};  // what came in; of light from further on, what comes to the eye
  float through = 0;             // of the backdrop that is seen
  Inside inside{};
  enum class Seen { straight, bent, mirrored } seen = Seen::straight;
  bool scattered = false, noted = false, split_up = false;
  bool asked_within =
      false;  // last scattered in a liquid, from where lights were asked for through its surface
  int turn = 0, forks = 0;
  int shore = -1;          // the body whose surface was met last, where what is in it varies
  Vec3f beside{};          // what light meets there
  float density = 0;       // of the last direction, where lights were asked for too; otherwise 0
  LightBits lit_by = ~0u;  // what scattered light last

  /// To its end; what came in. Adds to `through` and `rays`.
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
  /// What lights send through the surface of the cloudy liquid that it is in, refracted where it is flat.
  void ask_through_surface(int body);
  /// In the air, to where phase() says, with a mean cosine of g.
  void scatter(const Vec3f& albedo, float g);
  void ask_lights(const Hit&, const Bsdf&, const Basis&, const Vec3f& out);
  bool bounce(const Hit&);
  bool catch_shadow(const Hit&);
  bool cross(const Hit&, const Bsdf&);
};

}  // namespace pour
