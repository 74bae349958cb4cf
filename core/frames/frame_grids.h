// The grids of a frame, for the few files that include OpenVDB's heavy headers.
#pragma once
#include "base/openvdb_trees.h"

namespace pour {

struct FrameGrids {
  openvdb::GridCPtrVec all;
};

}  // namespace pour
