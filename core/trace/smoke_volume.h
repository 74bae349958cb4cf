// Smoke as a path meets it: where it scatters light, and how much of light comes through.
#pragma once
#include <vector>

#include "picture/walls.h"
#include "trace/sampler.h"

namespace pour {

/// Of single scatterings, so that a thick body has this colour (Chiang, Kutz & Burley 2016, "Practical and
/// controllable subsurface scattering for production path tracing"; constants from memory).
Vec3f single_albedo(const Vec3f& color);

/// What smoke does to light.
struct SmokeOptics {
  float thickness = 0;  // m²/kg
  /// That of tint_of(): from one scattering to the next its surplus over 1 is absorbed, which on average
  /// leaves the part 1 / tint.
  Vec3f tint{1, 1, 1};
  float forward = 0;  // mean cosine of what it scatters
  Vec3f shine{};      // radiance of what is thick and glows altogether
  SmokeBy shine_by = SmokeBy::itself;
  float far_density = 1, far_heat = 1;  // as Look has them
  float breakup = 0, breakup_size = 1;  // m
  float span = 0;                       // how long the shutter is open, s of the shot
  float clock = 0;                      // the time of the shot, s
};

/// Cells of extinction (1/m), read between their middles. A coarse grid over it knows the most that there is
/// in each of its boxes, so that a path steps over what is empty; where it meets smoke is found by chance,
/// without a step size (Woodcock 1965; transmittance: ratio tracking, Novák et al. 2014).
class TracedSmoke {
 public:
  TracedSmoke(SmokeWalls::Sealed, const SmokeOptics&);
  bool empty() const { return most_.empty(); }

  /// The way along a ray until light is scattered, m, up to `end`; `end` where it comes through. `time`
  /// from 0, where the shutter opens, to 1.
  float meet(const Vec3f& from, const Vec3f& direction, float end, float time, Sampler&) const;
  /// The part of light that comes through, an estimate.
  float through(const Vec3f& from, const Vec3f& direction, float end, float time, Sampler&) const;
  /// Part of the light that is scattered, not taken, at a point that was met at this time.
  Vec3f albedo(const Vec3f& at, float time) const;
  /// The mean cosine between light that it scatters and the way that it had.
  float forward() const { return optics_.forward; }
  bool shines() const { return !shine_.empty(); }
  /// The light that smoke gives off at a point that was met: what it adds is this much, since it is met as
  /// often as it is thick.
  Vec3f shine(const Vec3f& at, float time) const;

 private:
  static constexpr int box = 8;       // cells
  float cells(const Vec3f& p) const;  // of extinction, at p in cells from the corner
  float extinction(const Vec3f& p, float time) const;
  size_t cell_at(const Vec3f& p) const;
  Vec3f from_where(const Vec3f& p, float time) const;  // motion and noise bring what is at p
  size_t met_cell(const Vec3f& world, float time) const;
  void carry_velocity_on();
  Vec3f broken_up(const Vec3f& p, const Vec3f& velocity) const;  // where noise takes a place from
  void set_most();
  /// Calls f(at, step of most) at each place where it may meet smoke, until it says so.
  template <class F>
  void each_place(const Vec3f& from, const Vec3f& direction, float end, float time, Sampler&,
                  const F& f) const;

  Pose pose_;
  Vec3f low_;
  float cell_;
  Vec3i count_, boxes_;
  int pad_ = 0;  // boxes around the cells that smoke may be seen in, too
  std::vector<float> extinction_;
  std::vector<Vec3f> albedo_;
  std::vector<float> shine_;  // part of optics_.shine; none: it gives off no light
  std::vector<Vec3f>
      velocity_;  // cells a second, in its own space; none: it is neither blurred nor broken up
  SmokeOptics optics_;
  std::vector<float> most_;
  std::shared_ptr<const WallMask> walls_;
};

}  // namespace pour
