// Traced pictures: path tracing of set, liquid and smoke.
#pragma once
#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "base/pixels.h"
#include "picture/image.h"
#include "picture/layers.h"
#include "shot/shot.h"
#include "trace/denoise.h"
#include "trace/smoke_volume.h"

namespace pour {

/// A label on a body, in the body's frame of reference: on surfaces facing +z, or around the y axis.
struct TracedLabel {
  std::shared_ptr<const Pixels> picture;
  LabelPlace place = LabelPlace::front;
  float height = 0, middle = 0;  // m; middle is the height of its centre
  float radius = 0;              // of the body that it wraps, m
  float turn = 0;                // rad
  /// The label composited over `under` at a point with this outward normal and uv.
  Vec3f over(const Vec3f& under, const Vec3f& at, const Vec3f& normal,
             const std::array<float, 2>& uv = {}) const;
};

/// A closed surface and its material.
struct TracedBody {
  std::shared_ptr<const Surface> surface;
  Pose pose;
  Pose before_it, after_it;  // pose half a `TracedSet::span` before and after, if it moves
  bool moves = false;
  std::vector<Vec3f> velocity;  // of its points, m/s in shot time, in the world; empty: at rest
  Substance substance = Substance::coated;
  float roughness = 0.4f, index = 1.5f;
  Vec3f color{0.5f, 0.5f, 0.5f};                        // if the surface has no colours of its own
  std::vector<std::shared_ptr<const Pixels>> textures;  // of its surface
  std::shared_ptr<const TracedLabel> label;
  float relief = 0, relief_size = 1;  // height and spacing of bumps, m in its frame of reference
  bool thin = false;                  // thin glass with air on both sides
  /// The medium inside solid glass or liquid. Where bodies overlap, the one of higher priority counts
  /// (Schmidt & Budge 2002, "Simple nested dielectrics").
  int before = 0;
  Vec3f absorption{};    // 1/m
  float scattering = 0;  // 1/m, extinction
  Vec3f albedo{1, 1, 1};
  /// Surface colours give the local absorption, or albedo if it scatters. The members above are means.
  bool varies = false;
  float touches = 0;         // of liquid: closer solids count as touched, m
  uint32_t lit_by = ~0u;     // bits of the look's lights
  int piece = 0, fluid = 0;  // indices in the shot, counted from 1; 0: none

  /// Mean absorption along a straight segment, from the coefficients at its two ends, 1/m.
  Vec3f absorption_between(const Vec3f* begin, const Vec3f* end) const {
    if (!varies || scattering > 0) return absorption;
    return ((begin ? *begin : absorption) + (end ? *end : absorption)) * 0.5f;
  }
};

struct TracedSet {
  std::vector<TracedBody> bodies;
  std::vector<TracedSmoke> smoke;
  uint32_t smoke_lit_by = ~0u, floor_lit_by = ~0u;
  Look look;
  Camera camera;
  Camera before_it, after_it;  // half a span before and after, if it moves
  bool camera_moves = false;
  double span = 0;     // time between the poses, s of shot time
  bool blurs = false;  // motion blur over the span; otherwise an instant in its middle
};

/// Data passes: the first surface at the centre of each pixel in the middle of the exposure, without blur.
/// Row-major, rows from the top.
struct DataPasses {
  std::vector<float> depth;             // along the camera's axis, m; 0 if nothing is hit
  std::vector<Vec3f> normal, position;  // in the world; m
  std::vector<Vec3f> velocity;          // in the world, m/s of shot time
  std::vector<float> piece, fluid;      // indices in the shot, counted from 1
};

/// Method: unidirectional path tracing (Kajiya 1986) on Embree. Large lights are sampled both ways with the
/// power heuristic (Veach & Guibas 1995), behind clear bodies by paths alone. Small lights (radius under 4°,
/// and spots) are only sampled directly; their light passes clear bodies straight, with Fresnel and
/// absorption but without refraction. Scattered light is clamped at `brightest` times the strength of its
/// light (`brightest_by_chance` if it could not be sampled), and the clamped energy is spread over nearby
/// surfaces (given_back.h), so pictures stay linear in the lights. A path ends after `longest` events. In
/// cloudy liquid, lights are sampled through the surface as if it were flat. Each path has a random time
/// within the exposure. Bit-equal at any thread count.
class PathTracer {
 public:
  /// `each_light`: also accumulates each light separately.
  PathTracer(TracedSet, int width, int height, bool each_light = false);
  ~PathTracer();
  PathTracer(PathTracer&&) noexcept;

  /// Adds paths to each pixel. Returns false, and adds none, if `keep_going` says no.
  bool add(int samples, const std::function<bool()>& keep_going = {});
  int samples() const { return samples_; }
  /// Saves and restores its accumulated paths, so that it continues to the same bits. restore() returns false
  /// and changes nothing for another size or number of lights.
  std::string paths() const;
  bool set_paths(const std::string&);
  /// The current picture, with exposure and halo. `denoised`: see denoise.h. It has alpha if the backdrop is
  /// transparent.
  Image picture(bool denoised = false) const;
  /// Mean relative noise: standard error divided by brightness, averaged over the picture. Needs four paths a
  /// pixel.
  float noise() const;
  /// Alpha of each pixel, row-major; 1 with a backdrop.
  std::vector<float> alpha() const;
  /// Light of backdrop and emission, then of each light of the look, with exposure, without halo. They add up
  /// to the picture, denoised or not. Empty without `each_light`.
  std::vector<Image> of_lights(bool denoised = false) const;
  DataPasses data() const;
  /// Number of rays so far.
  uint64_t rays() const { return rays_; }

  static constexpr float brightest = 12, brightest_by_chance = 4;
  static constexpr int longest = 512;

 private:
  struct Scene;
  /// Accumulated data of a pixel: sums over paths, and features of the first surface that is neither mirror
  /// nor glass.
  struct Pixel {
    Vec3f light[2], light_squared;  // of even and odd paths; squares of all
    Vec3f color, normal;
    float depth = 0, color_squared = 0, depth_squared = 0, met = 0;
    float through = 0;   // of the backdrop that is seen
    Vec3f cut;           // light clamped from overly bright paths
    float receives = 0;  // diffuse response, summed over paths
  };
  struct Path;
  Grainy grainy() const;
  std::vector<float> receiving() const;
  void trace(int x, int y, int sample, Pixel&, Vec3f* of_lights, uint64_t& rays) const;

  std::unique_ptr<Scene> scene_;
  int width_, height_, samples_ = 0;
  std::vector<Pixel> pixels_;
  size_t kept_lights_ = 0;  // values a pixel: backdrop and each light, and the clamped light of each
  std::vector<Vec3f> of_lights_;
  uint64_t rays_ = 0;
};

}  // namespace pour
