// The skin around the particles of a liquid.
#pragma once
#include "frames/liquid_frame.h"
#include "shape/mesh.h"
#include "shot/shot.h"

namespace pour {

struct Skin {
  Mesh mesh;                    // m
  std::vector<Vec3f> colors;    // of its vertices, linear, from the nearest particles
  std::vector<Vec3f> velocity;  // of its vertices, m/s
  std::vector<float> depth;     // of each particle below the skin, m, up to a few cells; if asked for
};

/// The finest cells of a skin, m. Finer ones show no more detail and need too much memory.
inline double finest_skin(double run_cell) { return run_cell / 8; }

/// `colors` has one entry for each point. Method: the density of anisotropic kernels (surface/kernels.h) on
/// voxels of half a cell, OpenVDB's volumeToMesh, then smooth() on the mesh. Bit-equal at any thread count.
/// Needs about 110 bytes a particle besides points and mesh.
Skin skin_of(const LiquidPoints&, const std::vector<Vec3f>& colors, const SkinSettings& = {},
             bool with_depth = false);

}  // namespace pour
