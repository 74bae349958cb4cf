#include "deliver/deliver.h"

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <optional>

#include "base/error.h"
#include "base/file.h"
#include "base/text.h"
#include "base/units.h"
#include "base/version.h"
#include "deliver/held.h"
#include "deliver/names.h"
#include "deliver/video.h"
#include "picture/liquid_piece.h"
#include "picture/quick_picture.h"
#include "picture/smoke_look.h"
#include "shot/animate.h"
#include "shot/compare.h"
#include "shot/shot_file.h"
#include "trace/kept_skins.h"
#include "trace/traced_set.h"

namespace pour {
namespace {

struct Stopped {};

/// The frame to be shown for each of a range. Throws Fault naming those that are missing.
std::vector<int> frames_shown(const Run& run, const FrameRange& range, Gaps gaps) {
  if (range.first > range.last || range.first < 1)
    throw shot_fault("Frames",
                     filled("{first}-{last} is empty.",
                            {{"first", std::to_string(range.first)}, {"last", std::to_string(range.last)}}),
                     "Name the first frame, then the last one.");
  if (range.first < run.first_frame || range.last > run.last_frame)
    throw shot_fault(
        "Frames",
        filled("{first}-{last} are not all in run {number}, which keeps {first_frame}-{last_frame}.",
               {{"first", std::to_string(range.first)},
                {"last", std::to_string(range.last)},
                {"number", std::to_string(run.number())},
                {"first_frame", std::to_string(run.first_frame)},
                {"last_frame", std::to_string(run.last_frame)}}),
        "Deliver frames of the run, or run the shot for more.");
  const std::vector<int> missing = missing_frames(run, range);
  if (!missing.empty() && (gaps == Gaps::refuse || missing.front() == range.first))
    throw shot_fault(
        run.folder.string(),
        filled("frames are missing or torn: {missing}.", {{"missing", frames_in_words(missing)}}),
        run.newest_frame() && missing.front() > run.newest_frame() && gaps == Gaps::refuse
            ? filled("Deliver frames up to {newest_frame}, or resume the run.",
                     {{"newest_frame", std::to_string(run.newest_frame())}})
        : gaps == Gaps::refuse
            ? "Resume the run to compute them again, or show the frame before again in their place."
            : "Resume the run to compute them again; there is none before them to be shown.");
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
  const Shot seen = shot_at(look_of_, frame);
  std::vector<SmokeVolume> volumes =
      read_frame(run_.stored_frame(frame), needs_flow(shown_.quantity) || needs_warmth(seen.look));
  const double time = Clock(run_.shot).time(frame);
  const Look look = shown_.quantity == Quantity::none ? seen.look : plain_look(seen.look);
  const Shot shot = seen_as(run_.shot, look_of_), now = shot_at(shot, frame);
  const FluidColors colors = colors_of_materials(now);
  LiquidPoints liquid = read_liquid(run_.stored_frame(frame));
  color_by_materials(colors, liquid);
  const std::vector<float> values = values_of(liquid, shown_.quantity);
  double most = most_of(values);
  const LitFrame smoke = shown_.quantity == Quantity::none
                             ? light_frame(std::move(volumes), look, walls_, time)
                             : coloured_frame(std::move(volumes), shown_.quantity, look, walls_, time, most);
  std::vector<PicturePiece> pieces = picture_pieces(now);
  auto kept = shown_ == Showing() ? kept_skins(run_.stored_frame(frame), shot, frame) : std::nullopt;
  if (kept)
    add_skin_pieces(pieces, std::move(*kept), colors);
  else
    add_liquid_piece(pieces, liquid, seen.surface, shown_, values, most);
  return quick_picture(smoke, pieces, look, seen.camera, width, height);
}

TracedSet Photographer::traced(int frame) const {
  return traced_frame(run_.stored_frame(frame), seen_as(run_.shot, look_of_), frame, walls_);
}

namespace {

/// Traces as many paths as the options ask for, in portions of about a second, so that stops and time limits
/// are obeyed soon and partial work is kept. False if stopped. Throws Fault (Blame::shot) if there is no time
/// for even one path a pixel.
bool trace(PathTracer& tracer, const DeliverOptions& o) {
  constexpr int most = 4;        // paths a pixel, of a portion
  constexpr double portion = 1;  // s
  const auto start = std::chrono::steady_clock::now();
  const auto spent = [&] {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  };
  const auto in_time = [&] { return o.seconds <= 0 || spent() < o.seconds; };
  const auto keep_going = [&] { return in_time() && (!o.keep_going || o.keep_going()); };
  int next = 1;
  while (tracer.samples() < o.samples) {
    const double before = spent();
    const int more = std::min({next, most - tracer.samples() % most, o.samples - tracer.samples()});
    if (!tracer.add(more, keep_going)) {
      if (o.keep_going && !o.keep_going()) return false;
      if (tracer.samples() > 0) break;
      throw shot_fault("Picture",
                       filled("is not traced in {seconds}, not with one path a pixel.",
                              {{"seconds", format_duration(o.seconds)}}),
                       "Allow it more time, or make it smaller.");
    }
    // At certain numbers alone, so that it is the same one however fast the machine is.
    if (o.noise > 0 && tracer.samples() % most == 0 && double(tracer.noise()) <= o.noise) break;
    if (!in_time()) break;
    next = int(std::clamp(portion * more / std::max(1e-3, spent() - before), 1.0, double(most)));
  }
  return true;
}

Channels three(const char* name, const std::vector<Vec3f>& values, const char* letters, bool half) {
  Channels out{name, {}, {}, half};
  for (const char* l = letters; *l; ++l) out.names.emplace_back(1, *l);
  for (const Vec3f& v : values)
    for (int c = 0; c < 3; ++c) out.values.push_back(v[c]);
  return out;
}

std::vector<Channels> passes_of(const PathTracer& tracer, const Look& look, bool denoised) {
  DataPasses data = tracer.data();
  std::vector<Channels> out{{"", {"Z"}, std::move(data.depth)},
                            three("normal", data.normal, "XYZ", true),
                            three("position", data.position, "XYZ", false),
                            three("velocity", data.velocity, "XYZ", true),
                            {"", {"piece"}, std::move(data.piece)},
                            {"", {"fluid"}, std::move(data.fluid)}};
  std::vector<Image> lights = tracer.of_lights(denoised);
  for (size_t i = 0; i < lights.size(); ++i)
    out.push_back({i == 0 ? "backdrop" : "light." + look.lights[i - 1].id,
                   {"R", "G", "B"},
                   std::move(lights[i].rgb),
                   true,
                   true});
  return out;
}

}  // namespace

Taken Photographer::take(int frame, const DeliverOptions& o, const Unfinished* kept) const {
  Taken out;
  if (o.samples <= 0) {
    if (o.stills == Stills::passes)
      throw shot_fault("Passes", "come with traced pictures alone.", "Choose how many paths a pixel.");
    out.image = picture(frame, o.width, o.height);
    return out;
  }
  const bool passes = o.stills == Stills::passes;
  PathTracer tracer(traced(frame), o.width, o.height, passes);
  if (kept) kept->give_back(tracer);
  if (!trace(tracer, o)) {
    if (kept) kept->keep(tracer);
    return out;
  }
  out.image = tracer.picture(o.denoise), out.samples = tracer.samples();
  if (!passes) return out;
  out.passes = passes_of(tracer, shot_at(seen_as(run_.shot, look_of_), frame).look, o.denoise);
  if (out.image.alpha.empty()) out.image.alpha = tracer.alpha();
  return out;
}

namespace {

/// Images of a folder: their files and inputs.
struct Images {
  std::vector<int> shown;  // the run's frame for each
  std::vector<int> tail;   // the run's frames that fade into the first ones, in a film that loops
  std::vector<fs::path> files;
  std::vector<std::string> inputs;
  std::string parts;
};

/// Moves the last frames of a looping film to its tail. Throws Fault (Blame::shot).
void cut_loop(Images& images, const Run& run, const DeliverOptions& o) {
  if (!loops(run, o)) return;
  if (2 * size_t(o.loop) > images.shown.size())
    throw shot_fault("Loop blend",
                     filled("of {loop} frames is longer than half of the film, which has {all}.",
                            {{"loop", std::to_string(o.loop)}, {"all", std::to_string(images.shown.size())}}),
                     filled("Choose at most {most}.", {{"most", std::to_string(images.shown.size() / 2)}}));
  if (o.stills == Stills::passes)
    throw shot_fault("Loop blend", "can't mix data passes.",
                     "Deliver EXR without passes, or set the loop blend to none.");
  images.tail.assign(images.shown.end() - o.loop, images.shown.end());
  images.shown.resize(images.shown.size() - size_t(o.loop));
}

/// Two pictures mixed in linear light, `share` of the second.
Image mixed(const Image& a, const Image& b, float share) {
  Image out = a;
  for (size_t i = 0; i < out.rgb.size(); ++i) out.rgb[i] += (b.rgb[i] - a.rgb[i]) * share;
  for (size_t i = 0; i < out.alpha.size(); ++i) out.alpha[i] += (b.alpha[i] - a.alpha[i]) * share;
  out.contrast += (b.contrast - a.contrast) * share;
  return out;
}

/// The i-th of the images. An empty one if stopped.
Taken take_image(const Photographer& photographer, const Images& images, size_t i, const DeliverOptions& o,
                 const Unfinished& kept) {
  Taken out = photographer.take(images.shown[i], o, &kept);
  if (i >= images.tail.size() || out.image.rgb.empty()) return out;
  const Taken before = photographer.take(images.tail[i], o);
  if (before.image.rgb.empty()) return {};
  out.image = mixed(before.image, out.image, float(i + 1) / float(images.tail.size() + 1));
  return out;
}

Images images_of(const Run& run, const Shot& look_of, const fs::path& folder, const DeliverOptions& o,
                 const std::string& how) {
  Images out;
  out.shown = frames_shown(run, o.frames, o.gaps);
  cut_loop(out, run, o);
  const std::string shot = run.folder.parent_path().stem().string();
  const Shot seen = seen_as(run.shot, look_of);
  const Shot content = undelivered(seen);  // how it is delivered is said below
  const std::string common =
      in_digits(checksum(shot_to_json(content))) + EASY_POUR_VERSION + how + " " + std::to_string(o.width) +
      "x" + std::to_string(o.height) + " " + std::to_string(o.samples) + " " + std::to_string(o.noise) + " " +
      std::to_string(o.seconds) + (o.denoise ? " d" : " n") + std::to_string(int(o.stills));
  for (size_t i = 0; i < out.shown.size(); ++i) {
    const int frame = o.frames.first + int(i);
    out.files.push_back(folder / (picture_name(o.name, shot.empty() ? "frame" : shot, run.number(), frame,
                                               o.numbered || out.shown.size() > 1) +
                                  suffix_of(o.stills)));
    const StoredFrame stored = run.stored_frame(out.shown[i]);
    const bool kept = o.samples <= 0 && has_skins(stored, seen, out.shown[i]);  // finer than those in passing
    std::string faded;  // which frame fades into this one
    if (i < out.tail.size())
      faded = "<" + std::to_string(out.tail[i]) + "/" + std::to_string(out.tail.size()) +
              run.stored_frame(out.tail[i]).id;
    out.inputs.push_back(in_digits(
        checksum(common + " " + std::to_string(out.shown[i]) + stored.id + (kept ? " kept" : "") + faded)));
  }
  for (const Piece& p : seen.pieces)
    out.parts += "piece " + std::to_string(&p - seen.pieces.data() + 1) + " " + p.name + "\n";
  for (const Fluid& f : seen.fluids)
    out.parts += "fluid " + std::to_string(&f - seen.fluids.data() + 1) + " " + f.name + "\n";
  return out;
}

bool is_current(const Images& images, size_t i) {
  return made_from(images.files[i]).inputs == images.inputs[i];
}

std::vector<size_t> in_the_way(const Images& images) {
  std::vector<size_t> out;
  std::error_code error;
  for (size_t i = 0; i < images.files.size(); ++i)
    if (fs::exists(images.files[i], error) && !is_current(images, i)) out.push_back(i);
  return out;
}

void make_folder(const fs::path& folder) {
  std::error_code error;
  if (!folder.empty()) fs::create_directories(folder, error);
  if (!folder.empty() && !error) return;
  const Fault f = file_fault(folder, "the folder can't be made", folder.empty() ? ENOENT : error.value());
  throw machine_fault(f.where, f.problem, "Choose a folder that you may write to.");
}

/// Writes what `take` gives for each image.
bool write_images(const Images& images, const fs::path& folder, const DeliverOptions& o,
                  const std::function<Taken(size_t i, const Unfinished&)>& take) {
  make_folder(folder);
  const Held held(images.files);
  if (!o.replace)
    if (const auto there = in_the_way(images); !there.empty())
      throw ImagesInTheWay(images.files[there.front()], there.size());
  size_t mended = 0;
  for (size_t i = 0, n = images.files.size(); i < n; ++i) {
    if (!is_current(images, i)) {
      check_writable(images.files[i]);
      const Unfinished unfinished(images.files[i], images.inputs[i]);
      const Taken taken = take(i, unfinished);
      if (taken.image.rgb.empty()) return false;
      mended += write_image(taken.image, images.files[i], o.stills,
                            {images.inputs[i], taken.samples, images.parts}, taken.passes);
      unfinished.remove();
    }
    if (o.progress && !o.progress(int(i) + 1, int(n)) && i + 1 < n) return false;
  }
  if (mended && o.notice)
    o.notice(
        filled("{mended} values of light were negative or too bright for half floats: they are 0 or 65504. "
               "Lower the exposure or the lights.",
               {{"mended", std::to_string(mended)}}));
  return true;
}

std::string said_of(const Showing& how) {
  return std::to_string(int(how.quantity)) + " " + std::to_string(how.point_size);
}

}  // namespace

ImagesInTheWay::ImagesInTheWay(const fs::path& first, size_t n)
    : Fault(Blame::shot, first.string(),
            n == 1 ? "is there already, and was made in another way."
                   : filled("and {count} more are there already, and were made in another way.",
                            {{"count", std::to_string(n - 1)}}),
            "Let them be replaced, or choose another folder or other names."),
      count(n) {}

DeliverOptions options_of(const Shot& shot, const FrameRange& frames) {
  DeliverOptions o;
  o.frames = frames;
  o.width = shot.film.width, o.height = shot.film.height;
  o.loop = shot.film.loop;
  o.samples = shot.film.samples, o.noise = shot.film.samples > 0 ? shot.film.noise : 0;
  o.stills = shot.film.image_format, o.name = shot.film.image_names;
  return o;
}

bool loops(const Run& run, const DeliverOptions& o) {
  return o.loop > 0 && o.frames == FrameRange{run.first_frame, run.last_frame};
}

bool deliver_images(const Run& run, const Shot& look_of, const fs::path& folder, const DeliverOptions& o,
                    const Showing& how) {
  const Images images = images_of(run, look_of, folder, o, said_of(how));
  const Photographer photographer(run, look_of, how);
  return write_images(images, folder, o, [&](size_t i, const Unfinished& kept) {
    return take_image(photographer, images, i, o, kept);
  });
}

bool deliver_comparison(const Run& before, const Run& after, const Shot& look_of, const fs::path& folder,
                        const DeliverOptions& o) {
  (void)frames_shown(before, o.frames, Gaps::refuse);
  DeliverOptions whole = o;
  whole.loop = 0;
  const Images images = images_of(after, look_of, folder, whole, "beside " + before.folder.string());
  const Photographer left(before, look_of), right(after, look_of);
  return write_images(images, folder, o, [&](size_t i, const Unfinished&) {
    const int f = images.shown[i];
    const Image a = left.picture(f, o.width, o.height), b = right.picture(f, o.width, o.height);
    Taken both{{2 * o.width, o.height, {}}};
    for (size_t y = 0, row = 3 * size_t(o.width); y < size_t(o.height); ++y)
      for (const Image* i : {&a, &b})
        both.image.rgb.insert(both.image.rgb.end(), &i->rgb[y * row], &i->rgb[y * row] + row);
    both.image.contrast = a.contrast;
    return both;
  });
}

std::string lost_in_video(const Shot& shot, const fs::path& file, const DeliverOptions& o) {
  if (shot.look.backdrop == Backdrop::transparent && o.samples <= 0)
    return "Quick pictures have no transparency: they show the studio. Traced ones have it.";
  return shot.look.backdrop == Backdrop::transparent && file.extension() == ".mp4"
             ? "MP4 has no transparency: what is behind is black. MOV and WebM keep it."
             : "";
}

namespace {

/// Where the pictures of a film are until it is finished.
fs::path kept_pictures(const fs::path& film) {
  return film.parent_path() / ("." + film.filename().string() + ".frames");
}

/// Says where they are and how large.
void tell_of_pictures(const fs::path& folder, const DeliverOptions& o) {
  std::error_code error;
  double bytes = 0;
  for (fs::directory_iterator i(folder, error), end; !error && i != end; i.increment(error))
    if (std::error_code gone; i->is_regular_file(gone)) bytes += double(i->file_size(gone));
  if (bytes > 0 && o.notice)
    o.notice(
        filled("What was made of the film so far is kept, {bytes}, in {folder}. The same delivery goes on "
               "from there.",
               {{"bytes", format_bytes(bytes)}, {"folder", folder.string()}}));
}

}  // namespace

bool deliver_video(const Run& run, const Shot& look_of, const fs::path& file, const DeliverOptions& o) {
  const bool alpha = o.samples > 0 && look_of.look.backdrop == Backdrop::transparent && keeps_alpha(file);
  const fs::path folder = kept_pictures(file);
  DeliverOptions each = o;
  each.stills = Stills::png, each.name = "{frame:06}", each.numbered = true;
  const Images images = images_of(run, look_of, folder, each, alpha ? "film with alpha" : "film");
  const int n = int(images.files.size());
  const Held held({file});
  std::error_code error;
  fs::create_directory(folder, error);  // where it can't be made, the film itself says why
  std::optional<Photographer> photographer;
  const auto picture = [&](int i) {
    const size_t k = size_t(i);
    Words words;
    if (!read_words(images.files[k], images.inputs[k], words)) {
      if (!photographer) photographer.emplace(run, look_of);
      const Unfinished unfinished(images.files[k], images.inputs[k]);
      Taken taken = take_image(*photographer, images, k, each, unfinished);
      if (taken.image.rgb.empty()) throw Stopped{};
      if (!alpha) taken.image.alpha.clear();
      words = words_of(taken.image);
      try {
        write_words(words, images.files[k], {images.inputs[k], taken.samples, {}});
        unfinished.remove();
      } catch (const Fault&) {  // without room to keep it the film itself may still find some
      }
    }
    if (o.progress && !o.progress(i + 1, n)) throw Stopped{};
    return words;
  };
  try {
    write_video(file, {o.width, o.height, exact_rate(run.shot.film.frame_rate), n, alpha}, picture);
  } catch (const Stopped&) {
    tell_of_pictures(folder, o);
    return false;
  } catch (...) {
    fs::remove(folder, error);  // if nothing is in it
    tell_of_pictures(folder, o);
    throw;
  }
  std::error_code gone;
  fs::remove_all(folder, gone);
  return true;
}

bool deliver_sheet(const Run& run, const Shot& look_of, const fs::path& file, int count,
                   const DeliverOptions& o) {
  const std::vector<int> shown = frames_shown(run, o.frames, o.gaps);
  const int n = std::clamp(count, 1, int(shown.size())), columns = int(std::ceil(std::sqrt(double(n)))),
            rows = (n + columns - 1) / columns;
  DeliverOptions each = o;
  if (!o.size_is_each)
    each.width = std::max(16, o.width / columns), each.height = std::max(16, o.height / columns);
  constexpr int most = 30000;  // pixels along a side
  if (each.width > most / columns || each.height > most / rows)
    throw shot_fault(
        "Size", filled("makes a sheet of over {most} pixels along a side.", {{"most", format_count(most)}}),
        filled("Choose at most {columns}x{rows} for each picture.",
               {{"columns", std::to_string(most / columns)}, {"rows", std::to_string(most / rows)}}));
  each.stills = Stills::png;
  const Held held({file});
  check_writable(file);
  const Photographer photographer(run, look_of);
  Image sheet{each.width * columns, each.height * rows, {}};
  sheet.rgb.assign(3 * size_t(sheet.width) * size_t(sheet.height), 0);
  for (int i = 0; i < n; ++i) {
    const Image image =
        photographer.take(shown[size_t(n > 1 ? i * (int(shown.size()) - 1) / (n - 1) : 0)], each).image;
    if (image.rgb.empty()) return false;
    sheet.contrast = image.contrast;
    for (int y = 0; y < each.height; ++y) {
      const size_t from = 3 * size_t(y) * size_t(each.width), row = 3 * size_t(each.width),
                   to = 3 * (size_t(i / columns * each.height + y) * size_t(sheet.width) +
                             size_t(i % columns * each.width));
      std::copy(&image.rgb[from], &image.rgb[from] + row, &sheet.rgb[to]);
    }
    if (o.progress && !o.progress(i + 1, n)) return false;
  }
  write_image(sheet, file, Stills::png);
  return true;
}

}  // namespace pour
