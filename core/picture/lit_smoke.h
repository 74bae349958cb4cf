// Lit smoke: per-cell light and extinction for ray marching.
#pragma once
#include <vector>

#include "frames/smoke_frame.h"
#include "picture/walls.h"
#include "shot/shot.h"

namespace pour {

/// Dense cells over the bounds of the smoke, x fastest, four floats each: light towards the camera per
/// optical depth (linear RGB), and extinction in 1/m.
struct LitSmoke {
  Pose pose;            // in the world
  Vec3f low;            // corner of the box, m
  float cell_size = 0;  // m
  Vec3i count;          // cells
  std::vector<float> rgba;
  Vec3f tint{1, 1, 1};  // extinction of red, green and blue relative to the smallest of the three
  std::shared_ptr<const WallMask> walls;  // cuts smoke at walls; null if no vessel holds it
  Vec3f high() const { return low + to<float>(count) * cell_size; }
  bool empty() const { return rgba.empty(); }
};
/// All volumes of a frame.
using LitFrame = std::vector<LitSmoke>;

/// Method: transmittance from each of the lights by a sweep through slices of cells away from the light;
/// multiple scattering by the octaves of Wrenninge, Kulla & Lundqvist ("Oz: the great and volumetric", 2013),
/// each multiplied by the smoke's colour once more. Volumes are lit separately: moving rooms cast no shadow
/// on each other. `time` is shot time, s.
LitSmoke light_smoke(SmokeVolume, const Look&, const SmokeWalls& = {}, double time = 0);
LitFrame light_frame(std::vector<SmokeVolume>, const Look&, const SmokeWalls&, double time);

/// Smoke that emits its own colour evenly.
LitSmoke glowing_smoke(SmokeVolume, const Look&, const SmokeWalls& = {}, double time = 0);

/// Relative extinction of red, green and blue, so that white light has the tint `shade` after one optical
/// depth, apart from its brightness.
Vec3f tint_of(const Color& shade);

/// The settings of a look that light_smoke() reads, others at their defaults. Looks that are equal in this
/// share lit smoke.
Look lighting_of(const Look&);

/// Transmittance from `toward` to each cell: exp(-optical depth), 0..1.
std::vector<float> transmittance(const std::vector<float>& extinction, const Vec3i& count, float cell_size,
                                 const Vec3f& toward);

}  // namespace pour
