// A run as finished pictures: a sequence of PNG files or a video.
#pragma once
#include <filesystem>
#include <functional>

#include "picture/quantity.h"
#include "picture/quick_picture.h"
#include "run/run_folder.h"
#include "trace/path_tracer.h"

namespace pour {

/// Asked after each picture with how many are done; false stops.
using DeliverProgress = std::function<bool(int done, int of)>;

/// What to do where frames are missing or torn: refuse, naming them, or show the one before again.
enum class Gaps { refuse, hold };

struct DeliverOptions {
  FrameRange frames;
  int width = 1920, height = 1080;
  Gaps gaps = Gaps::refuse;
  int samples = 0;  // paths a pixel of traced pictures; 0: quick ones
  DeliverProgress progress;
  std::function<bool()> keep_going;  // asked while a picture is traced; false stops
};

/// Makes the pictures of a run with the look and camera of a shot: the run's own, or a newer one's.
class Photographer {
 public:
  /// A quantity other than `none` is shown in its colours, in plain light.
  Photographer(const Run&, const Shot& look_of, const Showing& = {});
  /// Throws Fault (Blame::shot) where the frame is missing, torn or another one than the run recorded.
  Image picture(int frame, int width, int height) const;
  /// What there is to be traced at a frame. Throws as picture() does.
  TracedSet traced(int frame) const;
  /// Traced with so many paths a pixel, or quick where that is 0; empty where `keep_going` says no.
  Image picture(int frame, const DeliverOptions&) const;

 private:
  const Run& run_;
  const Showing shown_;
  const Shot look_of_;
  SmokeWalls walls_;
};

/// What there is to deliver of a run: all its frames where it is done, otherwise those so far.
FrameRange frames_so_far(const Run&);

// Each throws Fault before the first picture is made where frames are missing or the place can't be written.

/// NAME.000001.png and so on in `folder`. Returns whether it was finished.
bool deliver_images(const Run&, const Shot& look_of, const std::filesystem::path& folder,
                    const DeliverOptions&, const Showing& = {});
/// Two runs side by side, each picture of the given size: NAME.000001.png and so on, twice as wide.
bool deliver_comparison(const Run& before, const Run& after, const Shot& look_of,
                        const std::filesystem::path& folder, const DeliverOptions&);
bool deliver_video(const Run&, const Shot& look_of, const std::filesystem::path& file, const DeliverOptions&);

}  // namespace pour
