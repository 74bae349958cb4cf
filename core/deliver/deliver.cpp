#include "deliver/deliver.h"

#include <cstdio>

#include "base/error.h"
#include "base/file.h"
#include "deliver/video.h"
#include "picture/quick_picture.h"

namespace pour {
namespace {

struct Stopped {};

void check_range(const Run& run, int first, int last) {
  if (first > last || first < 1)
    throw shot_fault("Frames", std::to_string(first) + "-" + std::to_string(last) + " is empty.",
                     "Name the first frame, then the last one.");
  for (int f = first; f <= last; ++f)
    if (!run.has_frame(f))
      throw shot_fault(run.frame_file(f).string(), "is missing.",
                       last_whole_frame(run) >= run.first_frame
                           ? "Deliver frames " + std::to_string(run.first_frame) + "-" +
                                 std::to_string(last_whole_frame(run)) + ", or resume the run."
                           : "Run the shot first.");
}

}  // namespace

Photographer::Photographer(const Run& run, const Shot& look_of, Quantity quantity)
    : run_(run),
      quantity_(quantity),
      look_(quantity == Quantity::none ? look_of.look : plain_look(look_of.look)),
      camera_(look_of.camera),
      walls_(run.shot, run.cell_size),
      pieces_(picture_pieces(run.shot)) {}

Image Photographer::picture(int frame, int width, int height) const {
  const fs::path file = run_.frame_file(frame);
  double most = 0;
  const LitSmoke smoke = quantity_ == Quantity::none ? light_smoke(read_frame(file), look_, walls_)
                                                     : coloured_smoke(file, quantity_, look_, walls_, most);
  return quick_picture(smoke, pieces_, look_, camera_, width, height);
}

namespace {

/// What `picture` gives for each frame, as files of a folder.
bool write_images(const Run& run, int first, int last, const fs::path& folder,
                  const std::function<Image(int frame)>& picture, const DeliverProgress& progress) {
  std::error_code error;
  fs::create_directories(folder, error);
  if (error)
    throw machine_fault(folder.string(), "can't be made: " + error.message() + ".",
                        "Choose a folder that you may write to.");
  const std::string name = run.folder.parent_path().stem().string();
  for (int f = first; f <= last; ++f) {
    char number[16];
    std::snprintf(number, sizeof number, ".%06d.png", f);
    write_png(picture(f), folder / ((name.empty() ? "frame" : name) + number));
    if (progress && !progress(f - first + 1, last - first + 1)) return false;
  }
  return true;
}

}  // namespace

bool deliver_images(const Run& run, const Shot& look_of, int first, int last, int width, int height,
                    const fs::path& folder, const DeliverProgress& progress, Quantity quantity) {
  check_range(run, first, last);
  const Photographer photographer(run, look_of, quantity);
  return write_images(
      run, first, last, folder, [&](int f) { return photographer.picture(f, width, height); }, progress);
}

bool deliver_comparison(const Run& before, const Run& after, const Shot& look_of, int first, int last,
                        int width, int height, const fs::path& folder, const DeliverProgress& progress) {
  check_range(before, first, last), check_range(after, first, last);
  const Photographer left(before, look_of), right(after, look_of);
  const auto picture = [&](int f) {
    const Image a = left.picture(f, width, height), b = right.picture(f, width, height);
    Image both{2 * width, height, {}};
    for (size_t y = 0, row = 3 * size_t(width); y < size_t(height); ++y)
      for (const Image* i : {&a, &b})
        both.rgb.insert(both.rgb.end(), &i->rgb[y * row], &i->rgb[y * row] + row);
    return both;
  };
  return write_images(after, first, last, folder, picture, progress);
}

bool deliver_video(const Run& run, const Shot& look_of, int first, int last, int width, int height,
                   const fs::path& file, const DeliverProgress& progress) {
  check_range(run, first, last);
  const Photographer photographer(run, look_of);
  try {
    write_video(file, last - first + 1, run.shot.film.fps, [&](int i) {
      Image image = photographer.picture(first + i, width, height);
      if (progress && !progress(i + 1, last - first + 1)) throw Stopped{};
      return image;
    });
  } catch (const Stopped&) {
    return false;
  }
  return true;
}

int last_whole_frame(const Run& run) {
  int f = run.first_frame - 1;
  while (f < run.last_frame && run.has_frame(f + 1)) ++f;
  return f >= run.first_frame ? f : 0;
}

}  // namespace pour
