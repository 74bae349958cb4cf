// The skin around the particles of a liquid.
#pragma once
#include "frames/liquid_frame.h"
#include "shape/mesh.h"
#include "shot/shot.h"

namespace pour {

struct Skin {
  Mesh mesh;                    // m
  std::vector<Vec3f> colors;    // of its points, linear: of the particles next to them
  std::vector<Vec3f> velocity;  // the same, m/s
  std::vector<float> depth;     // of each particle under the skin, m, up to a few cells; where asked for
};

/// The finest cells that a skin is made of, m: finer ones show nothing more and take all memory.
inline double finest_skin(double run_cell) { return run_cell / 8; }

/// `colors` has one for each point of the liquid. Method: the density of anisotropic kernels
/// (surface/kernels.h) on voxels of half a cell, OpenVDB's volumeToMesh, then smooth() on the mesh. Same bits
/// at any thread count; besides the points and the mesh about 110 bytes a particle.
Skin skin_of(const LiquidPoints&, const std::vector<Vec3f>& colors, const SkinSettings& = {},
             bool with_depth = false);

}  // namespace pour
