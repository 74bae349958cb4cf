// A piece as a level set in an OpenVDB file.
#pragma once
#include <filesystem>
#include <vector>

#include "shape/body.h"

namespace pour {

struct LevelSetSaid {
  size_t voxels = 0;
  double furthest = 0;  // deepest point inside the bodies, m
};

/// The grid `surface`: signed distance (m, below 0 inside) within three voxels of the union of closed bodies
/// in the world. Method: OpenVDB's meshToLevelSet and csgUnion. Writes the whole file or nothing. Throws
/// Fault (Blame::shot) if the bodies would be more than a thousand voxels long.
LevelSetSaid write_level_set(const std::vector<Body>& placed, double cell, const std::filesystem::path&);

}  // namespace pour
