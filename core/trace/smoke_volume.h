// Smoke for path tracing: scattering and transmittance.
#pragma once
#include <vector>

#include "picture/walls.h"
#include "trace/sampler.h"

namespace pour {

/// Single-scattering albedo for which a deep body has this colour (Chiang, Kutz & Burley 2016, "Practical and
/// controllable subsurface scattering for production path tracing"; constants from memory).
Vec3f single_albedo(const Vec3f& color);

/// Optical properties of smoke.
struct SmokeOptics {
  float thickness = 0;  // m²/kg
  /// Relative extinction from tint_of(). The surplus over 1 is absorbed between scatterings, which leaves 1 /
  /// tint on average.
  Vec3f tint{1, 1, 1};
  float forward = 0;  // mean cosine of scattering
  Vec3f shine{};      // radiance of dense smoke at full emission
  SmokeBy shine_by = SmokeBy::itself;
  float far_density = 1, far_heat = 1;  // as in Look
  float breakup = 0, breakup_size = 1;  // m
  float span = 0;                       // exposure, s of shot time
  float clock = 0;                      // shot time, s
};

/// Cells of extinction (1/m), interpolated trilinearly. A coarse grid of majorants skips empty space. Free
/// paths by delta tracking (Woodcock 1965), transmittance by ratio tracking (Novák et al. 2014).
class TracedSmoke {
 public:
  TracedSmoke(SmokeWalls::Sealed, const SmokeOptics&);
  bool empty() const { return most_.empty(); }

  /// Distance along a ray to a scattering event, m, or `end` if there is none. `time` within the exposure, 0
  /// to 1.
  float meet(const Vec3f& from, const Vec3f& direction, float end, float time, Sampler&) const;
  /// Transmittance, estimated.
  float through(const Vec3f& from, const Vec3f& direction, float end, float time, Sampler&) const;
  /// Albedo at a scattering event.
  Vec3f albedo(const Vec3f& at, float time) const;
  /// Mean cosine of scattering.
  float forward() const { return optics_.forward; }
  bool shines() const { return !shine_.empty(); }
  /// Emission at an event. It is added as it is, because events occur in proportion to extinction.
  Vec3f shine(const Vec3f& at, float time) const;

 private:
  static constexpr int box = 8;       // cells
  float cells(const Vec3f& p) const;  // extinction at p, in cells from the corner
  float extinction(const Vec3f& p, float time) const;
  size_t cell_at(const Vec3f& p) const;
  Vec3f from_where(const Vec3f& p, float time) const;  // source position of p under motion and break-up
  size_t met_cell(const Vec3f& world, float time) const;
  void carry_velocity_on();
  Vec3f broken_up(const Vec3f& p, const Vec3f& velocity) const;  // displacement by break-up noise
  void set_most();
  /// Calls f(at, majorant) at each tentative event until it returns true.
  template <class F>
  void each_place(const Vec3f& from, const Vec3f& direction, float end, float time, Sampler&,
                  const F& f) const;

  Pose pose_;
  Vec3f low_;
  float cell_;
  Vec3i count_, boxes_;
  int pad_ = 0;  // boxes around the cells into which blur and break-up reach
  std::vector<float> extinction_;
  std::vector<Vec3f> albedo_;
  std::vector<float> shine_;     // share of optics_.shine; empty: no emission
  std::vector<Vec3f> velocity_;  // cells a second, in its frame of reference; empty: not needed
  SmokeOptics optics_;
  std::vector<float> most_;
  std::shared_ptr<const WallMask> walls_;
};

}  // namespace pour
