// The finished picture: paths of light through the set, its liquid and its smoke.
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

/// A picture on a body, in the body's own space: on what faces +z, or around its y axis.
struct TracedLabel {
  std::shared_ptr<const Pixels> picture;
  LabelPlace place = LabelPlace::front;
  float height = 0, middle = 0;  // of the picture, and of its middle above the origin, m
  float radius = 0;              // of what it goes around, m
  float turn = 0;                // rad
  /// What is printed at a point with this outward normal and uv, over `under`.
  Vec3f over(const Vec3f& under, const Vec3f& at, const Vec3f& normal,
             const std::array<float, 2>& uv = {}) const;
};

/// A closed surface and what it is made of.
struct TracedBody {
  std::shared_ptr<const Surface> surface;
  Pose pose;
  Pose before_it, after_it;  // where it stands half a `TracedSet::span` before and after, if it moves
  bool moves = false;
  std::vector<Vec3f> velocity;  // of its points, m/s of the shot, in the world; empty: none
  Substance substance = Substance::coated;
  float roughness = 0.4f, index = 1.5f;
  Vec3f color{0.5f, 0.5f, 0.5f};  // of its surface, where that has no colours of its own
  std::vector<std::shared_ptr<const Pixels>> textures;  // of its surface
  std::shared_ptr<const TracedLabel> label;
  float relief = 0, relief_size = 1;  // height of bumps and from one to the next, m in its own space
  bool thin = false;                  // a wall of glass, with air on both sides
  /// Where substance is glass and it is not thin: what light meets in it. Bodies may overlap: where they do,
  /// it is all of the one that comes before others (Schmidt & Budge 2002, "Simple nested dielectrics").
  int before = 0;
  Vec3f absorption{};    // 1/m
  float scattering = 0;  // 1/m, of all that it scatters or takes
  Vec3f albedo{1, 1, 1};
  /// The colours of its surface are what light meets next to them: the absorption, or the albedo where it
  /// scatters. What is above is their mean.
  bool varies = false;
  float touches = 0;         // of liquid: where something solid is nearer than this, m, it touches that
  uint32_t lit_by = ~0u;     // bits of the look's lights
  int piece = 0, fluid = 0;  // numbers in the shot from 1 on; 0: none

  /// On a straight way within it, between what light meets at its surface at both ends where that is known,
  /// m⁻¹.
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
  Camera before_it, after_it;  // the camera half a span before and after, if it moves
  bool camera_moves = false;
  double span = 0;     // the time between the poses that are known, s of the shot
  bool blurs = false;  // the shutter is open all the span; otherwise it opens for no time in its middle
};

/// What is met first straight through the middle of each pixel, in the middle of the exposure; nothing is
/// blurred. Row-major, rows from the top.
struct DataPasses {
  std::vector<float> depth;             // along the camera's axis, m; 0 where nothing is met
  std::vector<Vec3f> normal, position;  // in the world; m
  std::vector<Vec3f> velocity;          // in the world, m/s of the shot
  std::vector<float> piece, fluid;      // numbers in the shot from 1 on
};

/// Method: unidirectional path tracing (Kajiya 1986) on Embree. Large lights are asked for directly and met
/// by chance, weighed by the power heuristic (Veach & Guibas 1995); behind clear bodies they are met by
/// chance alone. Small ones (within 4° around their middle, and spots) are asked for alone; through clear
/// bodies their light goes straight, with what is mirrored and absorbed on its way: an approximation that
/// leaves out that they are bent. Light that was scattered is cut off at `brightest` times the strength of
/// its light (`brightest_by_chance` where that could not be asked for), and what was cut off comes back
/// spread over the surfaces around (given_back.h): pictures are linear in the strengths of lights. A path
/// ends after `longest` turns. In cloudy liquid lights are asked for through its surface as if that were flat
/// as far as light comes in it. What moves is seen where it is at a moment while the shutter is open, by
/// chance. Bit-equal at any number of threads.
class PathTracer {
 public:
  /// `each_light`: keeps what comes from each light apart, too.
  PathTracer(TracedSet, int width, int height, bool each_light = false);
  ~PathTracer();
  PathTracer(PathTracer&&) noexcept;

  /// So many more paths for each pixel; false, and with none added, where `keep_going` says no.
  bool add(int samples, const std::function<bool()>& keep_going = {});
  int samples() const { return samples_; }
  /// All that its paths brought so far, as bytes of this machine, and back: then it goes on to the same bits.
  /// False, and nothing changed, for those of another size or another number of lights.
  std::string paths() const;
  bool set_paths(const std::string&);
  /// The mean so far, exposed; with the halo of the lens. `denoised`: see denoise.h. Where the backdrop is
  /// transparent it has an alpha.
  Image picture(bool denoised = false) const;
  /// Of what the picture shows: standard deviation of the mean by its brightness, on average over it. Needs
  /// four paths a pixel.
  float noise() const;
  /// Part of each pixel that is covered; row-major. All of it where there is a backdrop.
  std::vector<float> alpha() const;
  /// What comes from the backdrop and from smoke that glows, and then from each of the look's lights,
  /// exposed; with no halo. Together they are the picture, denoised or not. Empty where lights are not kept
  /// apart.
  std::vector<Image> of_lights(bool denoised = false) const;
  DataPasses data() const;
  /// Rays that were followed so far.
  uint64_t rays() const { return rays_; }

  static constexpr float brightest = 12, brightest_by_chance = 4;
  static constexpr int longest = 512;

 private:
  struct Scene;
  /// What is known of a pixel so far: sums over its paths, and of the first surface that is neither mirror
  /// nor glass.
  struct Pixel {
    Vec3f light[2], light_squared;  // of paths with even and with odd numbers; of all
    Vec3f color, normal;
    float depth = 0, color_squared = 0, depth_squared = 0, met = 0;
    float through = 0;   // of the backdrop that is seen
    Vec3f cut;           // of light, from paths that brought too much
    float receives = 0;  // how much scattered light is shown of what comes, summed over all that came
  };
  struct Path;
  Grainy grainy() const;
  std::vector<float> receiving() const;
  void trace(int x, int y, int sample, Pixel&, Vec3f* of_lights, uint64_t& rays) const;

  std::unique_ptr<Scene> scene_;
  int width_, height_, samples_ = 0;
  std::vector<Pixel> pixels_;
  size_t kept_lights_ = 0;  // a pixel: backdrop and each light; as much again for what was cut off from each
  std::vector<Vec3f> of_lights_;
  uint64_t rays_ = 0;
};

}  // namespace pour
