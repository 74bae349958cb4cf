// The skin around the particles of a liquid, made anew for each frame.
#pragma once
#include "frames/liquid_frame.h"
#include "shape/mesh.h"
#include "shot/shot.h"

namespace pour {

struct Skin {
  Mesh mesh;                    // m
  std::vector<Vec3f> colors;    // of its points, linear: of the particles next to them
  std::vector<Vec3f> velocity;  // the same, m/s
  std::vector<float> depth;     // of each particle under the skin, m, up to about a cell; where asked for
};

/// `colors` has one for each point of the liquid. Method: averaged positions (Zhu & Bridson 2005) on voxels
/// of half a cell, smoothed once, OpenVDB's volumeToMesh.
Skin skin_of(const LiquidPoints&, const std::vector<Vec3f>& colors, const SkinSettings& = {},
             bool with_depth = false);

}  // namespace pour
