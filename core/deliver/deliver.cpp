#include "deliver/deliver.h"

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <optional>

#include "base/error.h"
#include "base/file.h"
#include "deliver/video.h"
#include "picture/liquid_piece.h"
#include "picture/quick_picture.h"
#include "shot/animate.h"
#include "shot/compare.h"
#include "trace/traced_set.h"

namespace pour {
namespace {

struct Stopped {};

/// The frame to be shown for each of a range. Throws Fault naming those that are missing.
std::vector<int> frames_shown(const Run& run, const FrameRange& range, Gaps gaps) {
  if (range.first > range.last || range.first < 1)
    throw shot_fault("Frames", std::to_string(range.first) + "-" + std::to_string(range.last) + " is empty.",
                     "Name the first frame, then the last one.");
  if (range.first < run.first_frame || range.last > run.last_frame)
    throw shot_fault("Frames",
                     std::to_string(range.first) + "-" + std::to_string(range.last) + " are not all in run " +
                         std::to_string(run.number()) + ", which keeps " + std::to_string(run.first_frame) +
                         "-" + std::to_string(run.last_frame) + ".",
                     "Deliver frames of the run, or run the shot for more.");
  const std::vector<int> missing = missing_frames(run, range);
  if (!missing.empty() && (gaps == Gaps::refuse || missing.front() == range.first))
    throw shot_fault(
        run.folder.string(), "frames are missing or torn: " + frames_in_words(missing) + ".",
        run.newest_frame() && missing.front() > run.newest_frame() && gaps == Gaps::refuse
            ? "Deliver frames up to " + std::to_string(run.newest_frame()) + ", or resume the run."
            : "Resume the run to compute them again" +
                  std::string(gaps == Gaps::refuse ? ", or show the frame before again in their place."
                                                   : "; there is none before them to be shown."));
  std::vector<int> out;
  for (int f = range.first; f <= range.last; ++f)
    out.push_back(std::binary_search(missing.begin(), missing.end(), f) ? out.back() : f);
  return out;
}

}  // namespace

FrameRange frames_so_far(const Run& run) {
  return {run.first_frame,
          run.state == RunState::done ? run.last_frame : std::min(run.last_frame, run.newest_frame())};
}

Photographer::Photographer(const Run& run, const Shot& look_of, const Showing& shown)
    : run_(run), shown_(shown), look_of_(look_of), walls_(run.shot, run.cell_size) {}

Image Photographer::picture(int frame, int width, int height) const {
  std::vector<SmokeVolume> volumes = read_frame(run_.stored_frame(frame), needs_flow(shown_.quantity));
  const Shot seen = shot_at(look_of_, frame);
  const double time = Clock(run_.shot).time(frame);
  const Look look = shown_.quantity == Quantity::none ? seen.look : plain_look(seen.look);
  const LiquidPoints liquid = read_liquid(run_.stored_frame(frame));
  double most = most_of(liquid, shown_.quantity);
  const LitFrame smoke = shown_.quantity == Quantity::none
                             ? light_frame(std::move(volumes), look, walls_, time)
                             : coloured_frame(std::move(volumes), shown_.quantity, look, walls_, time, most);
  std::vector<PicturePiece> pieces = picture_pieces(shot_at(seen_as(run_.shot, look_of_), frame));
  add_liquid_piece(pieces, liquid, shown_, most);
  return quick_picture(smoke, pieces, look, seen.camera, width, height);
}

TracedSet Photographer::traced(int frame) const {
  return traced_frame(run_.stored_frame(frame), seen_as(run_.shot, look_of_), frame, walls_);
}

Image Photographer::picture(int frame, const DeliverOptions& o) const {
  if (o.samples <= 0) return picture(frame, o.width, o.height);
  PathTracer tracer(traced(frame), o.width, o.height);
  return tracer.add(o.samples, o.keep_going) ? tracer.picture(true) : Image();
}

namespace {

/// What `picture` gives for each frame that is shown, as files of a folder.
bool write_images(const Run& run, const fs::path& folder, const DeliverOptions& o,
                  const std::vector<int>& shown, const std::function<Image(int frame)>& picture) {
  std::error_code error;
  if (!folder.empty()) fs::create_directories(folder, error);
  if (folder.empty() || error) {
    const Fault f = file_fault(folder, "the folder can't be made", folder.empty() ? ENOENT : error.value());
    throw machine_fault(f.where, f.problem, "Choose a folder that you may write to.");
  }
  const std::string name = run.folder.parent_path().stem().string();
  for (int i = 0, n = int(shown.size()); i < n; ++i) {
    char number[16];
    std::snprintf(number, sizeof number, ".%06d.png", o.frames.first + i);
    const fs::path file = folder / ((name.empty() ? "frame" : name) + number);
    if (i == 0) check_writable(file);
    const Image image = picture(shown[size_t(i)]);
    if (image.rgb.empty()) return false;
    write_png(image, file);
    if (o.progress && !o.progress(i + 1, n)) return false;
  }
  return true;
}

}  // namespace

bool deliver_images(const Run& run, const Shot& look_of, const fs::path& folder, const DeliverOptions& o,
                    const Showing& how) {
  const std::vector<int> shown = frames_shown(run, o.frames, o.gaps);
  const Photographer photographer(run, look_of, how);
  return write_images(run, folder, o, shown, [&](int f) { return photographer.picture(f, o); });
}

bool deliver_comparison(const Run& before, const Run& after, const Shot& look_of, const fs::path& folder,
                        const DeliverOptions& o) {
  const std::vector<int> shown = frames_shown(before, o.frames, Gaps::refuse);
  (void)frames_shown(after, o.frames, Gaps::refuse);
  const Photographer left(before, look_of), right(after, look_of);
  const auto picture = [&](int f) {
    const Image a = left.picture(f, o.width, o.height), b = right.picture(f, o.width, o.height);
    Image both{2 * o.width, o.height, {}};
    for (size_t y = 0, row = 3 * size_t(o.width); y < size_t(o.height); ++y)
      for (const Image* i : {&a, &b})
        both.rgb.insert(both.rgb.end(), &i->rgb[y * row], &i->rgb[y * row] + row);
    return both;
  };
  return write_images(after, folder, o, shown, picture);
}

bool deliver_video(const Run& run, const Shot& look_of, const fs::path& file, const DeliverOptions& o) {
  const std::vector<int> shown = frames_shown(run, o.frames, o.gaps);
  const int n = int(shown.size());
  try {
    write_video(file, {o.width, o.height, exact_rate(run.shot.film.fps), n},
                [&, photographer = std::optional<Photographer>()](int i) mutable {
                  if (!photographer) photographer.emplace(run, look_of);
                  Image image = photographer->picture(shown[size_t(i)], o);
                  if (image.rgb.empty()) throw Stopped{};
                  if (o.progress && !o.progress(i + 1, n)) throw Stopped{};
                  return image;
                });
  } catch (const Stopped&) {
    return false;
  }
  return true;
}

}  // namespace pour
