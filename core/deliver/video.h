// Video files.
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
  bool alpha = false;  // kept if the format can
};

/// Whether the format of this name keeps alpha.
bool keeps_alpha(const std::filesystem::path&);

/// Encodes pictures fetched one by one from `picture` (0 .. frames - 1), tagged as Rec. 709. The suffix
/// chooses the format: .mp4 is H.264 (yuv420p) for viewing; .mov is 10-bit ProRes (422 HQ, or 4444 with
/// alpha) for editing; .webm is VP9 (yuv420p, or yuva420p with alpha). Alpha is straight. Writes the whole
/// file or nothing, and takes colons in names literally. Throws Fault: Blame::shot for another suffix or an
/// unsupported size, Blame::machine if an encoder is missing or the file cannot be written, before the first
/// picture if possible. Same bytes with the same libraries, at any number of cores.
void write_video(const std::filesystem::path&, const VideoFormat&, const std::function<Words(int)>& picture);

}  // namespace pour
