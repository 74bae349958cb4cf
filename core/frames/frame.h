// The file of a frame, put together from what each flow has to show of it.
#pragma once
#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace pour {

/// Grids of OpenVDB (frame_grids.h).
struct FrameGrids;
using FramePart = std::function<void(FrameGrids&)>;

/// Whole or not at all; the same parts always give the same bytes. Returns the id that its header bears.
std::string write_frame(const std::filesystem::path&, const std::vector<FramePart>&);

}  // namespace pour
