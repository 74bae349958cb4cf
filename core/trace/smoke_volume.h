// Smoke as a path meets it: where it scatters light, and how much of light comes through.
#pragma once
#include <vector>

#include "picture/walls.h"
#include "trace/sampler.h"

namespace pour {

/// Of single scatterings, so that a thick body has this colour (Chiang, Kutz & Burley 2016, "Practical and
/// controllable subsurface scattering for production path tracing"; constants from memory).
Vec3f single_albedo(const Vec3f& color);

/// Cells of extinction (1/m), read between their middles. A coarse grid over it knows the most that there is
/// in each of its boxes, so that a path steps over what is empty; where it meets smoke is found by chance,
/// without a step size (Woodcock 1965; transmittance: ratio tracking, Novák et al. 2014).
class TracedSmoke {
 public:
  /// `thickness` in m²/kg. `tint` is that of tint_of(): from one scattering to the next its surplus over 1 is
  /// absorbed, which on average leaves the part 1 / tint.
  TracedSmoke(SmokeWalls::Sealed, float thickness, const Vec3f& tint = {1, 1, 1});
  bool empty() const { return most_.empty(); }

  /// The way along a ray until light is scattered, m, up to `end`; `end` where it comes through.
  float meet(const Vec3f& from, const Vec3f& direction, float end, Sampler&) const;
  /// The part of light that comes through, an estimate.
  float through(const Vec3f& from, const Vec3f& direction, float end, Sampler&) const;
  /// Part of the light that is scattered, not taken, at a point that was met.
  Vec3f albedo(const Vec3f& at) const;

 private:
  static constexpr int box = 8;            // cells
  float extinction(const Vec3f& p) const;  // p in cells from the corner
  /// Calls f(at, step of most) at each place where it may meet smoke, until it says so.
  template <class F>
  void each_place(const Vec3f& from, const Vec3f& direction, float end, Sampler&, const F& f) const;

  Pose pose_;
  Vec3f low_;
  float cell_;
  Vec3i count_, boxes_;
  std::vector<float> extinction_;
  std::vector<Vec3f> albedo_;
  std::vector<float> most_;
  std::shared_ptr<const WallMask> walls_;
};

}  // namespace pour
