// The finished picture: paths of light through the set, its liquid and its smoke.
#pragma once
#include <functional>
#include <memory>
#include <vector>

#include "picture/image.h"
#include "picture/layers.h"
#include "shot/shot.h"
#include "trace/denoise.h"
#include "trace/smoke_volume.h"

namespace pour {

/// A closed surface and what it is made of.
struct TracedBody {
  std::shared_ptr<const Surface> surface;
  Pose pose;
  Substance substance = Substance::coated;
  float roughness = 0.4f, index = 1.5f;
  Vec3f color{0.5f, 0.5f, 0.5f};  // of its surface, where that has no colours of its own
  bool thin = false;              // a wall of glass, with air on both sides
  /// Where substance is glass and it is not thin: what light meets in it. Bodies may overlap: where they do,
  /// it is all of the one that comes before others (Schmidt & Budge 2002, "Simple nested dielectrics").
  int before = 0;
  Vec3f absorption{};    // 1/m
  float scattering = 0;  // 1/m, of all that it scatters or takes
  Vec3f albedo{1, 1, 1};
  float touches = 0;  // of liquid: where something solid is nearer than this, m, it touches that
};

struct TracedSet {
  std::vector<TracedBody> bodies;
  std::vector<TracedSmoke> smoke;
  Look look;
  Camera camera;
};

/// Method: unidirectional path tracing (Kajiya 1986) on Embree. Soft boxes are asked for directly and met by
/// chance, weighed by the power heuristic (Veach & Guibas 1995); behind clear bodies they are met by chance
/// alone. No light is missing or made up, but that what comes to a point after it was scattered is cut off at
/// `brightest` (`brightest_by_chance` where its light could not be asked for), and that a path ends after
/// `longest` turns. Bit-equal at any number of threads.
class PathTracer {
 public:
  PathTracer(TracedSet, int width, int height);
  ~PathTracer();
  PathTracer(PathTracer&&) noexcept;

  /// So many more paths for each pixel; false, and with none added, where `keep_going` says no.
  bool add(int samples, const std::function<bool()>& keep_going = {});
  int samples() const { return samples_; }
  /// The mean so far, exposed; with the halo of the lens. `denoised`: see denoise.h.
  Image picture(bool denoised = false) const;
  /// Rays that were followed so far.
  uint64_t rays() const { return rays_; }

  static constexpr float brightest = 12, brightest_by_chance = 4;
  static constexpr int longest = 128;

 private:
  struct Scene;
  /// What is known of a pixel so far: sums over its paths, and of the first surface that is neither mirror
  /// nor glass.
  struct Pixel {
    Vec3f light[2], light_squared;  // of paths with even and with odd numbers; of all
    Vec3f color, normal;
    float depth = 0, color_squared = 0, depth_squared = 0, met = 0;
  };
  struct Path;
  Grainy grainy() const;

  std::unique_ptr<Scene> scene_;
  int width_, height_, samples_ = 0;
  std::vector<Pixel> pixels_;
  uint64_t rays_ = 0;
};

}  // namespace pour
