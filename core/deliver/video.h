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
  bool alpha = false;  // of the pictures, is kept where the file can
};

/// Whether a video of this name keeps an alpha.
bool keeps_alpha(const std::filesystem::path&);

/// Writes pictures of that size, fetched one by one from `picture` (0 .. frames - 1), tagged as Rec. 709. By
/// the suffix of the file: .mp4 is H.264 (yuv420p), ready for the web; .mov is ProRes with 10 bits (422 HQ,
/// or 4444 with alpha), to be worked on; .webm is VP9 (yuv420p, or yuva420p with alpha). Alpha is straight.
/// Whole or not at all; the name is always a file's, whatever colons it has. Throws Fault (Blame::shot) for
/// another suffix or a size that it can't have, Fault (Blame::machine) where no encoder is installed or the
/// file can't be written; both before the first picture is fetched where they are known. The same bytes on
/// every machine with the same libraries, however many cores it has.
void write_video(const std::filesystem::path&, const VideoFormat&, const std::function<Words(int)>& picture);

}  // namespace pour
