// A piece as a level set in an OpenVDB file.
#pragma once
#include <filesystem>
#include <vector>

#include "shape/body.h"

namespace pour {

struct LevelSetSaid {
  size_t voxels = 0;
  double furthest = 0;  // that a point of the bodies is from its surface, m
};

/// The grid `surface`: signed distance (m, below 0 inside) within three voxels of what any of the closed
/// bodies covers, as they stand in the world. Method: OpenVDB's meshToLevelSet and csgUnion. Whole or not at
/// all. Throws Fault (Blame::shot) for a cell of which there would be more than a thousand along the bodies.
LevelSetSaid write_level_set(const std::vector<Body>& placed, double cell, const std::filesystem::path&);

}  // namespace pour
