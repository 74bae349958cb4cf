// H.264 video in an MP4 file.
#pragma once
#include <filesystem>
#include <functional>

#include "picture/image.h"
#include "shot/clock.h"

namespace pour {

struct VideoFormat {
  int width = 0, height = 0;  // pixels, even
  FrameRate rate;
  int frames = 0;
};

/// Writes pictures of that size, fetched one by one from `picture` (0 .. frames - 1): yuv420p, Rec. 709,
/// ready for the web. Whole or not at all; the name is always a file's, whatever colons it has.
/// Throws Fault (Blame::shot) for a size that H.264 can't have, Fault (Blame::machine) where no encoder is
/// installed or the file can't be written; both before the first picture is fetched where they are known.
void write_video(const std::filesystem::path&, const VideoFormat&, const std::function<Image(int)>& picture);

}  // namespace pour
