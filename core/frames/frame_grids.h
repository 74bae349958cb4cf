// The grids of a frame; OpenVDB's headers are heavy, so this one is for the files that make them.
#pragma once
#include "base/openvdb_trees.h"

namespace pour {

struct FrameGrids {
  openvdb::GridCPtrVec all;
};

}  // namespace pour
