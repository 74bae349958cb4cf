// H.264 video in an MP4 file.
#pragma once
#include <filesystem>
#include <functional>

#include "picture/image.h"

namespace pour {

/// Writes `frames` pictures of equal, even size, fetched one by one from `picture` (0 .. frames - 1), at
/// `fps`: yuv420p, Rec. 709, ready for the web. Whole or not at all.
/// Throws Fault (Blame::machine) where no H.264 encoder is installed or the file can't be written.
void write_video(const std::filesystem::path&, int frames, int fps, const std::function<Image(int)>& picture);

}  // namespace pour
