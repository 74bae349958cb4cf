// Commands that make pictures of runs, compare them and deliver them.
#include <memory>

#include "base/text.h"
#include "base/units.h"
#include "deliver/deliver.h"
#include "deliver/skins.h"
#include "door.h"
#include "job.h"
#include "shot/compare.h"
#include "shot/describe.h"

using namespace pour;

namespace {

struct PictureOptions {
  std::string run, other, frames, size, show, points, out, video, images, sheet, format, name;
  bool hold = false, replace = false, no_denoise = false;
  int samples = 0, count = 12;  // samples -1: as the shot says
  double noise = 0, seconds = 0;
  std::string look;
  JobOptions job;
};

const std::vector<std::string>& quantities() {
  static const std::vector<std::string> keys = [] {
    std::vector<std::string> out;
    for (const QuantityName& q : quantity_names) out.emplace_back(q.key);
    return out;
  }();
  return keys;
}

/// By Stills.
const std::vector<std::string>& formats() {
  static const std::vector<std::string> all = [] {
    std::vector<std::string> out;
    for (const Option& o : find_setting(Shot(), "film.image_format").options) out.emplace_back(o.key);
    return out;
  }();
  return all;
}

DeliverOptions options_for(const PictureOptions& o, const Run& run, const Shot& shot, Job& job) {
  DeliverOptions d = options_of(shot, frames_so_far(run));
  parse_size(o.size, d.width, d.height);
  if (!o.frames.empty())
    d.frames =
        parse_range(o.frames, {run.first_frame, run.last_frame}, "run " + std::to_string(run.number()));
  else if (o.job.follow)
    d.frames.last = run.last_frame;
  else if (d.frames.last < run.last_frame && d.frames.last >= d.frames.first)
    job.say(filled("Run {number} has come to frame {last} of {last_frame}.",
                   {{"number", std::to_string(run.number())},
                    {"last", std::to_string(d.frames.last)},
                    {"last_frame", std::to_string(run.last_frame)}}));
  if (d.frames.last < d.frames.first)
    throw shot_fault(run.folder.string(), "has no frames yet.", "Run the shot, or resume this run.");
  if (o.samples >= 0) d.samples = o.samples, d.noise = 0;
  if (o.noise > 0) d.noise = o.noise / 100;
  if (o.seconds > 0) d.seconds = o.seconds;
  d.denoise = !o.no_denoise, d.replace = o.replace;
  if (!o.name.empty()) d.name = o.name;
  for (size_t i = 0; i < formats().size(); ++i)
    if (o.format == formats()[i]) d.stills = Stills(i);
  d.gaps = o.hold ? Gaps::hold : Gaps::refuse;
  d.progress = [&job](int done, int of) { return job.show(done, of); };
  d.keep_going = [&job] { return !job.asked_to_stop(); };
  d.notice = [&job](const std::string& text) { job.say(text); };
  return d;
}

/// A stopped job is not a success.
void end(Job& job, bool whole) {
  job.end(whole);
  if (!whole)
    throw machine_fault("The job", "was stopped before it was through.", "Give the command again to go on.");
}

/// Pictures of all frames, or of those that are there and of more as they appear.
bool make_images(Job& job, const PictureOptions& o, const Run& run, const Shot& shot, const std::string& to,
                 DeliverOptions d, const Showing& how = {}) try {
  d.numbered = d.frames.last > d.frames.first;
  return follow(job, o.job, run, d.frames, [&](const Run& now, const FrameRange& fresh) {
    d.frames = fresh;
    return deliver_images(now, shot, to, d, how);
  });
} catch (const ImagesInTheWay& there) {
  if (job.as_json()) job.tell({.in_the_way = int(there.count)});
  throw;
}

void make_pictures(const PictureOptions& o) {
  Job job(o.job);
  const Run run = open_run(o.run);
  const Shot shot = look_of(run, o.run, o.look);
  DeliverOptions d = options_for(o, run, shot, job);
  if (!o.show.empty() || !o.points.empty()) d.samples = 0;
  d.loop = 0;
  const auto shown = std::find(quantities().begin(), quantities().end(), o.show);
  Showing how;
  if (!o.show.empty()) how.quantity = Quantity(shown - quantities().begin());
  if (!o.points.empty()) how.point_size = o.points == "small" ? small_points : large_points;
  end(job, make_images(job, o, run, shot, o.out, d, how));
}

void surface(const PictureOptions& o) {
  Job job(o.job);
  const Run run = open_run(o.run);
  FrameRange so_far = frames_so_far(run);
  if (o.job.follow) so_far.last = run.last_frame;
  if (so_far.last < so_far.first)
    throw shot_fault(run.folder.string(), "has no frames yet.", "Run the shot, or resume this run.");
  const FrameRange range = parse_range(o.frames, so_far, "run " + std::to_string(run.number()));
  const Shot shot = look_of(run, o.run, o.look);
  SkinsMade made;
  const bool whole = follow(job, o.job, run, range, [&](const Run& now, const FrameRange& fresh) {
    const SkinsMade more = make_skins(now, shot, fresh, [&](int done, int of) { return job.show(done, of); });
    made.made += more.made, made.current += more.current;
    return more.whole;
  });
  job.say(filled("Skins of {made} frames were made, of {current} they were current: {folder}",
                 {{"made", std::to_string(made.made)},
                  {"current", std::to_string(made.current)},
                  {"folder", (run.folder / "skins").string()}}));
  end(job, whole);
}

void deliver(const PictureOptions& o) {
  if (o.video.empty() && o.images.empty() && o.sheet.empty())
    throw usage_fault("deliver", "was not told what to make.",
                      "Add --video FILE.mp4, --images FOLDER or --sheet FILE.png.");
  Job job(o.job);
  Run run = open_run(o.run);
  const Shot shot = look_of(run, o.run, o.look);
  for (const std::string& file : {o.video, o.sheet})
    if (std::error_code error; !file.empty() && !o.replace && fs::is_regular_file(file, error))
      throw shot_fault(file, "is there already.", "Add --replace, or name another file.");
  const DeliverOptions images = options_for(o, run, shot, job);
  if (loops(run, images))
    run = once_finished(job, o.job, run, images.frames);
  else if (images.loop > 0 && !(o.video.empty() && o.images.empty()))
    job.say("These frames are not the whole run, so the film does not loop.");
  bool whole = o.images.empty() || make_images(job, o, run, shot, o.images, images);
  if (whole && (!o.video.empty() || !o.sheet.empty())) {
    DeliverOptions d = options_for(o, run, shot, job);
    d.size_is_each = !o.size.empty();
    run = once_finished(job, o.job, run, d.frames);
    if (!o.video.empty()) {
      whole = deliver_video(run, shot, o.video, d);
      if (const std::string lost = lost_in_video(shot, o.video, d); whole && !lost.empty()) job.say(lost);
    }
    whole = whole && (o.sheet.empty() || deliver_sheet(run, shot, o.sheet, o.count, d));
  }
  end(job, whole);
}

/// Prints the changes between two runs, and their measurements at the last common frame.
void print_comparison(Job& job, const Run& before, const Run& after) {
  const auto changed = simulation_changes(before.shot, after.shot);
  for (const Change& c : changed) job.say(c.text);
  if (changed.empty()) job.say("No setting was changed.");
  const int last = std::min(before.newest_frame(), after.newest_frame());
  if (!before.record(last) || !after.record(last)) return;
  const auto row = [&job](const std::string& what, const std::string& x, const std::string& y) {
    char line[200];
    std::snprintf(line, sizeof line, "%-16s %14s %14s", what.c_str(), x.c_str(), y.c_str());
    job.say(line);
  };
  row("frame " + std::to_string(last), "run " + std::to_string(before.number()),
      "run " + std::to_string(after.number()));
  row("cell", format_quantity(before.cell_size, Unit::length),
      format_quantity(after.cell_size, Unit::length));
  for (const FlowRecord& a : before.record(last)->flows) {
    const FlowRecord& b = after.record(last)->flow(a.name);
    if (b.name.empty()) continue;
    row(a.name + ", cells", format_count(a.cells), format_count(b.cells));
    row("poured", amount_in_words(a, a.ledger.poured), amount_in_words(b, b.ledger.poured));
    row("in shot", amount_in_words(a, a.ledger.in_shot), amount_in_words(b, b.ledger.in_shot));
    row("middle at height", format_quantity(a.centroid.y, Unit::length),
        format_quantity(b.centroid.y, Unit::length));
    row("fastest", format_quantity(a.max_speed, Unit::speed), format_quantity(b.max_speed, Unit::speed));
  }
  row("computed in", format_duration(before.seconds), format_duration(after.seconds));
}

void compare(const PictureOptions& o) {
  const Run before = open_run(o.run), after = open_run(o.other);
  Job job(o.job);
  print_comparison(job, before, after);
  if (o.out.empty()) return job.end(true);
  const Shot shot = look_of(after, o.other, o.look);
  DeliverOptions d = options_for(o, after, shot, job);
  if (o.frames.empty()) {
    const FrameRange a = frames_so_far(before), b = frames_so_far(after);
    d.frames = {std::max(a.first, b.first), std::min(a.last, b.last)};
  }
  end(job, deliver_comparison(before, after, shot, o.out, d));
}

}  // namespace

void add_picture_commands(CLI::App& app) {
  const auto o = std::make_shared<PictureOptions>();
  const auto seen = [o](CLI::App* command, const char* follow) {
    command->add_option("--look", o->look,
                        "NAME.pour whose look and camera are used; “-” reads a shot from standard input "
                        "(default: the shot as it is now)");
    add_job_options(command, o->job, follow);
  };
  const char* follow = "Follows a run that is under way and takes its frames as they finish";
  const auto common = [o](CLI::App* command) {
    command->add_option("--frames", o->frames, "Range of frames, A-B");
    command->add_option("--size", o->size, "Size of each picture in pixels, for example 1920x1080");
    command->add_flag("--replace", o->replace, "Overwrites pictures made with other settings");
  };
  const auto named = [o](CLI::App* command) {
    command
        ->add_option("--format", o->format,
                     "File format: png, exr (linear light), passes (EXR with all passes) or jpeg")
        ->check(CLI::IsMember(formats()));
    command->add_option("--name", o->name, "File name, for example {shot}_{run}_{frame:04}");
  };
  const auto traced = [o](CLI::App* command) {
    command->add_option("--noise", o->noise, "Stops at this noise before denoising, in percent")
        ->check(CLI::Range(0.01, 100.0));
    command->add_option("--seconds", o->seconds, "Longest time for each picture, in seconds")
        ->check(CLI::Range(0.1, 1e6));
    command->add_flag("--no-denoise", o->no_denoise, "Keeps the noise");
  };
  const char* which = "Run folder, or NAME.pour for its newest run";
  const char* hold = "Repeats the previous frame where one is missing";
  auto* two = app.add_subcommand("compare", "Compares two runs: their settings, and pictures side by side");
  two->add_option("before", o->run, "Run folder")->required();
  two->add_option("after", o->other, "Run folder to compare it with")->required();
  two->add_option("--out", o->out, "Folder for side-by-side pictures");
  common(two), seen(two, nullptr);
  two->callback([o] { compare(*o); });

  auto* picture = app.add_subcommand("picture", "Renders quick pictures of frames");
  picture->add_option("run", o->run, which)->required();
  common(picture), seen(picture, follow);
  picture->add_option("--show", o->show, "smoke shows the look; the others show a quantity in false colours")
      ->check(CLI::IsMember(quantities()));
  picture
      ->add_option("--points", o->points,
                   "Draws liquid as small or large points instead of a skin. Above 150,000 points only some "
                   "are drawn.")
      ->check(CLI::IsMember({"small", "large"}));
  picture->add_flag("--hold-missing", o->hold, hold);
  picture->add_option("--out", o->out, "Folder for the pictures")->required();
  named(picture);
  picture->callback([o] { make_pictures(*o); });

  auto* skins = app.add_subcommand("surface", "Builds the skins of a run's liquids and keeps them as PLY");
  skins->add_option("run", o->run, which)->required();
  skins->add_option("--frames", o->frames, "Range of frames, A-B");
  seen(skins, follow);
  skins->callback([o] { surface(*o); });

  const char* paths = "Samples per pixel of traced pictures: 16 for a look, 64 or more to deliver";
  auto* render = app.add_subcommand("render", "Renders traced pictures of frames");
  render->add_option("run", o->run, which)->required();
  common(render), seen(render, follow);
  named(render), traced(render);
  render
      ->add_option("--samples", o->samples,
                   filled("{paths} (default 32). With --noise or --seconds, at most this many.",
                          {{"paths", std::string(paths)}}))
      ->check(CLI::Range(1, 65536));
  render->add_flag("--hold-missing", o->hold, hold);
  render->add_option("--out", o->out, "Folder for the pictures")->required();
  render->callback([o] {
    if (o->samples == 0) o->samples = o->noise > 0 || o->seconds > 0 ? 4096 : 32;
    make_pictures(*o);
  });

  auto* finished = app.add_subcommand("deliver", "Delivers the finished video or images");
  finished->add_option("run", o->run, which)->required();
  finished->add_option("--video", o->video,
                       "Video file: .mp4 (H.264), .mov (ProRes, 10 bits) or .webm (VP9). The last two keep "
                       "alpha when the backdrop is transparent.");
  finished->add_option("--images", o->images, "Folder for an image sequence");
  finished->add_option("--sheet", o->sheet, "Contact sheet to write, FILE.png");
  finished->add_option("--count", o->count, "Number of pictures on the sheet")->check(CLI::Range(1, 400));
  named(finished), traced(finished);
  common(finished), seen(finished, follow);
  finished
      ->add_option("--samples", o->samples,
                   filled("{paths}, 0 for quick pictures (default: the shot's setting)",
                          {{"paths", std::string(paths)}}))
      ->check(CLI::Range(0, 65536));
  finished->add_flag("--hold-missing", o->hold, hold);
  finished->callback([o, finished] {
    if (finished->count("--samples") == 0) o->samples = -1;
    deliver(*o);
  });
}
