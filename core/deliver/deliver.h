// Delivery of a run: images, a video, or a contact sheet.
#pragma once
#include <filesystem>
#include <functional>

#include "base/error.h"
#include "deliver/unfinished.h"
#include "picture/image_file.h"
#include "picture/quantity.h"
#include "picture/quick_picture.h"
#include "run/run_folder.h"
#include "trace/path_tracer.h"

namespace pour {

/// Called after each picture with the number done; false stops.
using DeliverProgress = std::function<bool(int done, int of)>;

/// For missing or damaged frames: refuse, naming them, or repeat the frame before.
enum class Gaps { refuse, hold };

struct DeliverOptions {
  FrameRange frames;
  int width = 1920, height = 1080;
  Gaps gaps = Gaps::refuse;
  int loop = 0;     // the last so many frames fade into the first ones and are then left out; 0: none
  int samples = 0;  // paths a pixel of traced pictures; 0: quick pictures
  DeliverProgress progress;
  std::function<bool()> keep_going;                // polled while a picture is traced; false stops
  std::function<void(const std::string&)> notice;  // receives notices for the user
  /// Stop early once PathTracer::noise() falls to `noise`, or after `seconds` a picture (at least one path a
  /// pixel). 0: off. The number of paths is kept in the file and reproduces the same bits.
  double noise = 0, seconds = 0;
  bool denoise = true;
  Stills stills = Stills::png;
  std::string name = "{shot}.{frame:06}";
  bool numbered = false;      // numbers a single picture too
  bool size_is_each = false;  // of a sheet: width and height are of each picture
  bool replace = false;       // replaces files made with other settings
};
/// The options of a shot's film for these frames.
DeliverOptions options_of(const Shot&, const FrameRange&);
/// Whether the film loops: it has a loop blend, and these are all frames of the run.
bool loops(const Run&, const DeliverOptions&);

/// A picture and its data.
struct Taken {
  Image image;  // empty if stopped
  int samples = 0;
  std::vector<Channels> passes;
};

/// Makes pictures of a run with the look and camera of a shot, which may be newer than the run's.
class Photographer {
 public:
  /// A quantity other than `none` is shown in false colours under even light.
  Photographer(const Run&, const Shot& look_of, const Showing& = {});
  /// Throws Fault (Blame::shot) if the frame is missing, damaged or not as recorded.
  Image picture(int frame, int width, int height) const;
  /// The traced set of a frame. Throws as picture().
  TracedSet traced(int frame) const;
  /// Traced or quick by the options, with passes if asked for. An unfinished traced picture is continued, and
  /// kept again if stopped.
  Taken take(int frame, const DeliverOptions&, const Unfinished* = nullptr) const;

 private:
  const Run& run_;
  const Showing shown_;
  const Shot look_of_;
  SmokeWalls walls_;
};

/// The deliverable frames of a run: all if it is done, otherwise those so far.
FrameRange frames_so_far(const Run&);

/// Existing images that would have to be replaced (Blame::shot).
struct ImagesInTheWay : Fault {
  ImagesInTheWay(const std::filesystem::path& first, size_t count);
  size_t count;
};

// Each throws Fault before the first picture if frames are missing or the folder cannot be written.

/// Writes images into `folder`, named by the options. Existing images with the same inputs are kept, so a
/// stopped delivery continues. Throws ImagesInTheWay for images with other inputs, unless `replace`. Returns
/// whether it finished.
bool deliver_images(const Run&, const Shot& look_of, const std::filesystem::path& folder,
                    const DeliverOptions&, const Showing& = {});
/// Two runs side by side, each at the given size.
bool deliver_comparison(const Run& before, const Run& after, const Shot& look_of,
                        const std::filesystem::path& folder, const DeliverOptions&);
/// Writes a video; see video.h for formats. Its pictures are kept in a hidden folder beside it until it is
/// finished, so a stopped film continues; `notice` is told where, and their size.
bool deliver_video(const Run&, const Shot& look_of, const std::filesystem::path& file, const DeliverOptions&);
/// Features of a shot that this video format cannot hold, in words; empty if it holds all.
std::string lost_in_video(const Shot&, const std::filesystem::path& file, const DeliverOptions&);
/// Writes a PNG of `count` pictures from first to last, in rows, about as wide as the options say. Throws
/// Fault (Blame::shot) above 30,000 pixels along a side.
bool deliver_sheet(const Run&, const Shot& look_of, const std::filesystem::path& file, int count,
                   const DeliverOptions&);

}  // namespace pour
