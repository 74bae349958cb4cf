// The file of a frame, assembled from the grids of each flow.
#pragma once
#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace pour {

/// Grids of OpenVDB (frame_grids.h).
struct FrameGrids;
using FramePart = std::function<void(FrameGrids&)>;

/// Writes the whole file or nothing. Equal grids give equal bytes. Returns the id in its header.
std::string write_frame(const std::filesystem::path&, const std::vector<FramePart>&);

}  // namespace pour
