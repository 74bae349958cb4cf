// A run as finished pictures: images, a video, or a sheet of small ones.
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
  std::function<bool()> keep_going;                // asked while a picture is traced; false stops
  std::function<void(const std::string&)> notice;  // is told what somebody should know
  /// Fewer paths, where PathTracer::noise() is down to this before; or as many as there is time for, s a
  /// picture (at least one path a pixel, or there is none). 0: not asked. How many it were is kept in the
  /// file: that number gives the same bits.
  double noise = 0, seconds = 0;
  bool denoise = true;
  Stills stills = Stills::png;
  std::string name = "{shot}.{frame:06}";
  bool numbered = false;      // a single picture, too
  bool size_is_each = false;  // of a sheet: width and height are those of each of its pictures
  bool replace = false;       // files that are there and were made in another way
};
/// As the film of a shot says, of these frames.
DeliverOptions options_of(const Shot&, const FrameRange&);

/// A picture, and what is known of it.
struct Taken {
  Image image;  // empty: it was stopped
  int samples = 0;
  std::vector<Channels> passes;
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
  /// Traced or quick, as the options say; with passes where they ask for them. A traced one goes on from what
  /// was kept of it, and is kept where it is stopped.
  Taken take(int frame, const DeliverOptions&, const Unfinished* = nullptr) const;

 private:
  const Run& run_;
  const Showing shown_;
  const Shot look_of_;
  SmokeWalls walls_;
};

/// What there is to deliver of a run: all its frames where it is done, otherwise those so far.
FrameRange frames_so_far(const Run&);

/// Images that are there already and would have to be replaced (Blame::shot).
struct ImagesInTheWay : Fault {
  ImagesInTheWay(const std::filesystem::path& first, size_t count);
  size_t count;
};

// Each throws Fault before the first picture is made where frames are missing or the place can't be written.

/// Pictures named as the options say, in `folder`. Those that are there and were made from the same are left
/// as they are, so that what was stopped goes on; for those that were made in another way it throws
/// ImagesInTheWay, unless they are to be replaced. Returns whether it was finished.
bool deliver_images(const Run&, const Shot& look_of, const std::filesystem::path& folder,
                    const DeliverOptions&, const Showing& = {});
/// Two runs side by side, each picture of the given size, twice as wide.
bool deliver_comparison(const Run& before, const Run& after, const Shot& look_of,
                        const std::filesystem::path& folder, const DeliverOptions&);
/// See video.h for what the suffix of the file says. Its pictures are kept in a hidden folder beside it until
/// it is finished, so that a film that was stopped goes on; `notice` is told where, and how large they are.
bool deliver_video(const Run&, const Shot& look_of, const std::filesystem::path& file, const DeliverOptions&);
/// What a video of this name can't have of a shot, in words; empty where it has all of it.
std::string lost_in_video(const Shot&, const std::filesystem::path& file, const DeliverOptions&);
/// A PNG of `count` pictures from first to last, in rows; all of it about as wide as the options say. Throws
/// Fault (Blame::shot) for one of over 30,000 pixels along a side.
bool deliver_sheet(const Run&, const Shot& look_of, const std::filesystem::path& file, int count,
                   const DeliverOptions&);

}  // namespace pour
