// Smoke with its light worked out: what a ray needs to know at each point, once for all rays.
#pragma once
#include <vector>

#include "frames/smoke_frame.h"
#include "picture/walls.h"
#include "shot/shot.h"

namespace pour {

/// Dense cells over the box that holds smoke, x fastest, four floats each: light that the smoke sends to
/// the camera per unit of optical depth (linear RGB), and extinction in 1/m.
struct LitSmoke {
  Pose pose;            // of its space in the world
  Vec3f low;            // corner of the box, m
  float cell_size = 0;  // m
  Vec3i count;          // cells
  std::vector<float> rgba;
  Vec3f tint{1, 1, 1};  // extinction of red, green and blue, times that of the colour that is dimmed least
  std::shared_ptr<const WallMask> walls;  // smoke ends there; null where nothing holds it
  Vec3f high() const { return low + to<float>(count) * cell_size; }
  bool empty() const { return rgba.empty(); }
};
/// All volumes of a frame.
using LitFrame = std::vector<LitSmoke>;

/// Method: transmittance from each of the lights by a sweep through the cells away from the light,
/// one slice after the other; light scattered many times by the octaves of Wrenninge, Kulla & Lundqvist
/// ("Oz: the great and volumetric", 2013), each of which takes the colour of the smoke once more.
/// Each volume is lit by itself: rooms that move cast no shadow on each other. `time` is the shot's, s.
LitSmoke light_smoke(SmokeVolume, const Look&, const SmokeWalls& = {}, double time = 0);
LitFrame light_frame(std::vector<SmokeVolume>, const Look&, const SmokeWalls&, double time);

/// Smoke that glows in its own colour, the same on all sides.
LitSmoke glowing_smoke(SmokeVolume, const Look&, const SmokeWalls& = {}, double time = 0);

/// Extinction of red, green and blue, times that of the colour that is dimmed least: `shade` is what is left
/// of white light behind one optical depth, apart from its brightness.
Vec3f tint_of(const Color& shade);

/// The look with only what light_smoke() reads; the rest is as usual. Smoke that was lit with one look stands
/// for every look with the same of this.
Look lighting_of(const Look&);

/// The part of the light from `toward` that reaches each cell: exp(-optical depth), 0..1.
std::vector<float> transmittance(const std::vector<float>& extinction, const Vec3i& count, float cell_size,
                                 const Vec3f& toward);

}  // namespace pour
