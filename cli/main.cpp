// easy-pour-cli: everything that Easy Pour does, without a window.
#include <unistd.h>

#include <CLI/CLI.hpp>
#include <csignal>
#include <cstdio>
#include <iostream>
#include <nlohmann/json.hpp>
#include <optional>
#include <thread>

#include "base/error.h"
#include "base/file.h"
#include "base/parallel.h"
#include "check/checks.h"
#include "deliver/deliver.h"
#include "run/scene.h"
#include "run/simulate.h"
#include "run/space.h"
#include "shape/fonts.h"
#include "shot/describe.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"

namespace {

using namespace pour;

volatile std::sig_atomic_t stop_asked = 0;

FrameRange parse_range(const std::string& text, const FrameRange& all) {
  if (text.empty()) return all;
  FrameRange r;
  char dash = 0, rest = 0;
  const int n = std::sscanf(text.c_str(), "%d%c%d%c", &r.first, &dash, &r.last, &rest);
  if (n == 1) r.last = r.first;
  if ((n != 1 && (n != 3 || dash != '-')) || r.first < 1 || r.last < r.first)
    throw usage_fault("--frames " + text, "is not a range of frames.", "Write it as 1-120.");
  return r;
}

/// NAME.pour means its newest run; otherwise the folder itself.
Run open_run(const std::string& name) {
  if (!name.ends_with(".pour")) return load_run(name);
  const auto runs = list_runs(name);
  if (runs.empty()) throw shot_fault(name, "has no run yet.", "Run it first: easy-pour-cli run " + name);
  return runs.front();
}

void set_path(Shot& shot, const std::string& assignment) {
  const size_t eq = assignment.find('=');
  if (eq == std::string::npos)
    throw usage_fault(assignment, "has no value.", "Write it as PATH=VALUE, for example forces.gravity=0.");
  const std::string path = assignment.substr(0, eq);
  from_text(find_setting(shot, path), assignment.substr(eq + 1), path);
}

struct Options {
  std::string recipe, file, other, show, out, text, font, path, detail, cell, frames, progress, size, video,
      images;
  std::vector<std::string> settings;
  int threads = 0;
  bool resume = false, background = false;
};

void run_shot(const Options& o) {
  if (o.background) (void)!nice(15);
  Shot shot = load_shot(o.file);
  if (!o.detail.empty()) set_path(shot, "run.detail=" + o.detail);
  if (!o.cell.empty()) set_path(shot, "run.detail=custom"), set_path(shot, "run.cell_size=" + o.cell);
  const FrameRange frames = parse_range(o.frames, {1, shot.film.frames});
  std::optional<Run> run;
  if (o.resume) {
    for (Run& r : list_runs(o.file))
      if (r.state != RunState::done) {
        run = std::move(r);
        break;
      }
    if (!run) throw shot_fault(o.file, "has no run that was left unfinished.", "Start one without --resume.");
    if (!o.frames.empty()) run->last_frame = std::max(run->last_frame, frames.last);
  } else {
    const Scene scene(shot);  // before anything is made on disk
    run = create_run(o.file, shot);
    run->first_frame = frames.first, run->last_frame = frames.last;
    save_run(*run);  // whoever is told of the run finds it
  }
  const bool as_json = o.progress == "json";
  const auto say = [&](const nlohmann::ordered_json& j) { std::cout << j.dump() << std::endl; };
  if (as_json)
    say({{"run", run->folder.string()}, {"frames", run->last_frame}});
  else
    std::cout << "Run " << run->folder.string() << std::endl;
  std::signal(SIGTERM, [](int) { stop_asked = 1; });
  std::signal(SIGINT, [](int) { stop_asked = 1; });
  SimulateOptions options;
  options.resume = o.resume;
  options.stop = [] { return stop_asked != 0; };
  options.on_frame = [&](const Progress& p) {
    if (as_json)
      say({{"frame", p.frame},
           {"of", p.last_frame},
           {"seconds_left", p.seconds_left},
           {"cells", p.record.cells},
           {"in_shot", p.record.ledger.in_shot},
           {"max_speed", p.record.max_speed}});
    else
      std::printf("frame %d of %d  %s cells  %.3g g of smoke  %s left\n", p.frame, p.last_frame,
                  format_count(p.record.cells).c_str(), p.record.ledger.in_shot * 1000,
                  format_duration(p.seconds_left).c_str()),
          std::fflush(stdout);
  };
  simulate(*run, options);
  const bool stopped = run->state == RunState::stopped;
  if (as_json)
    say({{"state", stopped ? "stopped" : "done"}, {"seconds", run->seconds}});
  else
    std::cout << (stopped ? "Stopped; go on with --resume.\n"
                          : "Done in " + format_duration(run->seconds) + ".\n");
}

FrameRange whole_range(const Run& run) {
  return {run.first_frame, std::max(last_whole_frame(run), run.first_frame)};
}

/// Pictures take the look and camera of the shot as it is now, where it still stands beside the run.
Shot look_of(const Run& run) {
  fs::path shot = run.folder.parent_path();
  shot.replace_extension(".pour");
  return fs::exists(shot) ? load_shot(shot) : run.shot;
}

void parse_size(const std::string& text, int& width, int& height) {
  if (text.empty()) return;
  char x = 0, rest = 0;
  if (std::sscanf(text.c_str(), "%d%c%d%c", &width, &x, &height, &rest) != 3 || x != 'x' || width < 16 ||
      height < 16 || width > 16384 || height > 16384)
    throw usage_fault("--size " + text, "is not a size.", "Write it as 1920x1080.");
}

void show(const Options& o) {
  Shot shot = load_shot(o.file);
  bool found = false;
  for (const Group& g : describe(shot))
    for (const Setting& s : g.settings) {
      const std::string path = g.path(s);
      if (!o.path.empty() && path != o.path && !path.starts_with(o.path + ".")) continue;
      if (o.path.empty() && s.applies && !s.applies()) continue;
      found = true;
      std::cout << path << " = " << to_text(s) << "\n";
    }
  if (!found) find_setting(shot, o.path);  // says what is near
}

/// What was changed from one run to another, and what came of it at the last frame that both have.
void print_comparison(const Run& before, const Run& after) {
  const auto changed = changes(seen_as(before.shot, after.shot), after.shot);
  for (const Change& c : changed) std::cout << c.text << "\n";
  if (changed.empty()) std::cout << "No setting was changed.\n";
  const int last = std::min(before.newest_frame(), after.newest_frame());
  const auto at = [last](const Run& run) -> const FrameRecord* {
    for (const FrameRecord& r : run.frames)
      if (r.frame == last) return &r;
    return nullptr;
  };
  const FrameRecord *a = at(before), *b = at(after);
  if (!a || !b) return;
  const auto row = [](const std::string& what, const std::string& x, const std::string& y) {
    std::printf("%-16s %14s %14s\n", what.c_str(), x.c_str(), y.c_str());
  };
  const auto mass = [](double kg) { return format_quantity(kg * 1e6, Unit::none) + " mg"; };
  std::cout << std::flush;
  row("frame " + std::to_string(last), "run " + std::to_string(before.number()),
      "run " + std::to_string(after.number()));
  row("cell", format_quantity(before.cell_size, Unit::length),
      format_quantity(after.cell_size, Unit::length));
  row("cells", format_count(a->cells), format_count(b->cells));
  row("poured", mass(a->ledger.poured), mass(b->ledger.poured));
  row("in shot", mass(a->ledger.in_shot), mass(b->ledger.in_shot));
  row("middle at height", format_quantity(a->centroid.y, Unit::length),
      format_quantity(b->centroid.y, Unit::length));
  row("fastest", format_quantity(a->max_speed, Unit::speed), format_quantity(b->max_speed, Unit::speed));
  row("computed in", format_duration(before.seconds), format_duration(after.seconds));
  std::fflush(stdout);
}

int run_command(int argc, char** argv) {
  CLI::App app{"Easy Pour without a window: from a word to finished frames."};
  app.require_subcommand(1);
  Options o;
  app.add_option("--threads", o.threads, "Cores to use; the result is the same with any number")
      ->check(CLI::Range(1, 1024));

  auto* list = app.add_subcommand("recipes", "Lists the shots to start from");
  auto* fonts = app.add_subcommand("fonts", "Lists the fonts");
  auto* reference = app.add_subcommand("settings", "Prints the reference of all settings");
  auto* make = app.add_subcommand("new", "Makes a shot from a recipe");
  make->add_option("recipe", o.recipe, "One of those that “recipes” lists")->required();
  make->add_option("--out", o.out, "The shot to write, NAME.pour")->required();
  make->add_option("--text", o.text, "The word");
  make->add_option("--font", o.font, "Its font, by full name");
  make->add_option("--set", o.settings, "Further settings, PATH=VALUE");
  auto* set = app.add_subcommand("set", "Changes settings of a shot");
  set->add_option("file", o.file, "NAME.pour")->required();
  set->add_option("settings", o.settings, "PATH=VALUE ...")->required();
  auto* print = app.add_subcommand("show", "Prints the settings of a shot");
  print->add_option("file", o.file, "NAME.pour")->required();
  print->add_option("path", o.path, "Only this setting or group");
  auto* check = app.add_subcommand("check", "Says what will go wrong, and how to mend it");
  check->add_option("file", o.file, "NAME.pour")->required();
  auto* run = app.add_subcommand("run", "Computes the frames of a shot");
  run->add_option("file", o.file, "NAME.pour")->required();
  run->add_option("--detail", o.detail, "draft, medium or final");
  run->add_option("--cell", o.cell, "Cell size, for example 5mm");
  run->add_option("--frames", o.frames, "Frames to keep, A-B");
  run->add_flag("--resume", o.resume, "Go on with the newest unfinished run");
  run->add_flag("--background", o.background, "Leave the cores to other programs when they want them");
  run->add_option("--progress", o.progress, "json: one object a line")
      ->check(CLI::IsMember({"json", "text"}));
  run->add_option("--threads", o.threads, "Cores to use; the result is the same with any number")
      ->check(CLI::Range(1, 1024));
  auto* table = app.add_subcommand("measure", "Prints what was measured of a run, a line for each frame");
  table->add_option("run", o.file, "A run folder, or NAME.pour for its newest run")->required();
  auto* compare =
      app.add_subcommand("compare", "Says what differs between two runs, and shows them side by side");
  compare->add_option("before", o.file, "A run folder")->required();
  compare->add_option("after", o.other, "Another one")->required();
  compare->add_option("--out", o.out, "Folder for pictures of both, side by side");
  compare->add_option("--frames", o.frames, "A-B");
  compare->add_option("--size", o.size, "Pixels of each, for example 960x540");
  auto* use = app.add_subcommand("use", "Sets a shot to what a run was made from; look and camera stay");
  use->add_option("file", o.file, "NAME.pour")->required();
  use->add_option("run", o.other, "A run folder")->required();
  auto* picture = app.add_subcommand("picture", "Makes pictures of frames");
  picture->add_option("run", o.file, "A run folder, or NAME.pour for its newest run")->required();
  picture->add_option("--frames", o.frames, "A-B");
  picture->add_option("--size", o.size, "Pixels, for example 1920x1080");
  std::vector<std::string> quantities;
  for (const QuantityName& q : quantity_names) quantities.push_back(q.key);
  picture->add_option("--show", o.show, "smoke, or its density, speed or warmth in colours")
      ->check(CLI::IsMember(quantities));
  picture->add_option("--out", o.out, "Folder for the pictures")->required();
  auto* deliver = app.add_subcommand("deliver", "Makes the finished video or images");
  deliver->add_option("run", o.file, "A run folder, or NAME.pour for its newest run")->required();
  deliver->add_option("--video", o.video, "FILE.mp4");
  deliver->add_option("--images", o.images, "Folder for PNG files");
  deliver->add_option("--frames", o.frames, "A-B");
  deliver->add_option("--size", o.size, "Pixels, for example 1920x1080");

  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& e) {
    return app.exit(e) == 0 ? 0 : int(Blame::usage);
  }
  std::optional<ThreadLimit> limit;
  if (o.threads) limit.emplace(o.threads);

  if (*list) {
    for (const Recipe& r : recipes()) std::printf("%-16s %s: %s\n", r.key, r.name, r.help);
  } else if (*fonts) {
    for (const FontFile& f : all_fonts())
      std::printf("%s%s\n", f.name.c_str(), f.shipped ? "  (shipped)" : "");
  } else if (*reference) {
    std::cout << settings_reference();
  } else if (*make) {
    Shot shot = find_recipe(o.recipe).make();
    for (Piece& p : shot.pieces) {
      if (p.kind != PieceKind::lettering) continue;
      if (make->count("--text")) p.text = o.text;
      if (!o.font.empty()) p.font = o.font;
    }
    for (const std::string& s : o.settings) set_path(shot, s);
    if (!o.out.ends_with(".pour")) o.out += ".pour";
    if (make->count("--text")) stand_on_floor(shot), shot.camera = framed(shot, Space(shot));
    (void)Space(shot);  // the word can be set in this font, or says why not
    save_shot(shot, o.out);
    std::cout << "Made " << o.out << "\n";
  } else if (*set) {
    Shot shot = load_shot(o.file);
    for (const std::string& s : o.settings) set_path(shot, s);
    save_shot(shot, o.file);
  } else if (*print) {
    show(o);
  } else if (*check) {
    int faults = 0;
    for (const Check& c : check_shot(load_shot(o.file), fs::path(o.file).parent_path())) {
      std::cout << (c.level == CheckLevel::fault ? "fault    " : "warning  ") << c.title << "\n         "
                << c.text << "\n";
      if (!c.fix_name.empty()) std::cout << "         Mend it: " << c.fix_name << "\n";
      faults += c.level == CheckLevel::fault;
    }
    return faults ? int(Blame::shot) : 0;
  } else if (*run) {
    run_shot(o);
  } else if (*table) {
    std::cout << measure_table(open_run(o.file));
  } else if (*use) {
    const Shot shot = load_shot(o.file);
    save_shot(seen_as(open_run(o.other).shot, shot), o.file);
  } else {
    const Run r = open_run(o.file);
    const Shot shot = look_of(r);
    int width = shot.film.width, height = shot.film.height;
    parse_size(o.size, width, height);
    const FrameRange range = parse_range(o.frames, whole_range(r));
    const auto progress = [](int done, int of) {
      std::fprintf(stderr, "\r%d of %d", done, of);
      if (done == of) std::fputc('\n', stderr);
      return true;
    };
    if (*compare) {
      const Run after = open_run(o.other);
      print_comparison(r, after);
      const FrameRange both = parse_range(o.frames, {std::max(range.first, whole_range(after).first),
                                                     std::min(range.last, whole_range(after).last)});
      if (!o.out.empty())
        deliver_comparison(r, after, look_of(after), both.first, both.last, width, height, o.out, progress);
      return 0;
    }
    if (*deliver && o.video.empty() && o.images.empty())
      throw usage_fault("deliver", "was not told what to make.", "Add --video FILE.mp4 or --images FOLDER.");
    const std::string folder = *picture ? o.out : o.images;
    const auto shown = std::find(quantities.begin(), quantities.end(), o.show);
    const auto quantity = o.show.empty() ? Quantity::none : Quantity(shown - quantities.begin());
    if (!folder.empty())
      deliver_images(r, shot, range.first, range.last, width, height, folder, progress, quantity);
    if (*deliver && !o.video.empty())
      deliver_video(r, shot, range.first, range.last, width, height, o.video, progress);
  }
  return 0;
}

}  // namespace

int main(int argc, char** argv) {
  try {
    return run_command(argc, argv);
  } catch (const Fault& f) {
    std::cerr << f.what() << "\n";
    return int(f.blame);
  } catch (const std::bad_alloc&) {
    std::cerr << "Memory is used up. Use larger cells or less detail.\n";
    return int(Blame::machine);
  } catch (const std::exception& e) {
    std::cerr << "Easy Pour failed: " << e.what() << "\n";
    return int(Blame::machine);
  }
}
