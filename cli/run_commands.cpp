// Commands that simulate runs and report on them.
#include <memory>

#include "base/text.h"
#include "base/units.h"
#include "door.h"
#include "job.h"
#include "run/checkpoint.h"
#include "run/simulate.h"
#include "run/space.h"
#include "run/start.h"
#include "shot/assign.h"
#include "shot/shot_file.h"

using namespace pour;

namespace {

struct RunOptions {
  std::string file, detail, cell, frames, from;
  bool resume = false;
  JobOptions job;
};

void set_cells(Shot& shot, const RunOptions& o) {
  if (!o.detail.empty()) assign(shot, "run.detail=" + o.detail);
  if (!o.cell.empty()) assign(shot, "run.detail=custom"), assign(shot, "run.cell_size=" + o.cell);
}

Run new_run(const RunOptions& o) {
  if (is_folder(o.file))
    throw usage_fault(o.file, "is a folder.", "Name a shot, NAME.pour, or add --resume to go on with a run.");
  const fs::path file = shot_file(o.file);
  Shot shot = load_shot(file);
  set_cells(shot, o);
  const FrameRange frames = parse_range(o.frames, {1, shot.film.frames}, "the shot");
  check_can_run(shot);  // before anything is made on disk
  if (o.from.empty()) return create_run(file, shot, frames);
  Run run;
  run.folder = runs_folder(file) / "next", run.shot = shot;
  run.first_frame = frames.first, run.last_frame = frames.last, run.start = start_from_text(o.from);
  check_start(run);
  const RunStart start = run.start;
  run = create_run(file, shot, frames);
  run.start = start;
  save_run(run);
  return run;
}

/// The run that was named, or of a shot the newest one that is not finished.
Run unfinished_run(const RunOptions& o) {
  Run run;
  if (is_folder(o.file)) {
    run = load_run(o.file);
  } else {
    RunList all = list_runs(shot_file(o.file));
    const auto found = std::find_if(all.runs.begin(), all.runs.end(), is_unfinished);
    if (!all.bad.empty() && (found == all.runs.end() || all.bad.front().number > found->number()))
      throw shot_fault("A newer run",
                       filled("can't be read. {problem}", {{"problem", all.bad.front().problem}}),
                       "Name the run to go on with, for example NAME.runs/001.");
    if (found == all.runs.end())
      throw shot_fault(o.file, "has no run that was left unfinished.",
                       "Start one without --resume, or name a run folder to have its frames looked after.");
    run = std::move(*found);
  }
  if (!o.detail.empty() || !o.cell.empty()) {
    Shot other = run.shot;
    set_cells(other, o);
    if (const double has = Space(run.shot).cell_size; std::abs(Space(other).cell_size - has) > 1e-6 * has)
      throw usage_fault("--resume",
                        filled("continues with the cells of the run, {cell}.",
                               {{"cell", format_quantity(has, Unit::length)}}),
                        "Leave out --detail and --cell.");
  }
  const FrameRange frames = parse_range(o.frames, {1, run.shot.film.frames}, "the shot");
  if (!o.frames.empty()) run.last_frame = std::max(run.last_frame, frames.last);
  return run;
}

void compute(const RunOptions& o) {
  Job job(o.job);
  Run run = o.resume ? unfinished_run(o) : new_run(o);
  if (job.as_json())
    job.tell({.run = run.folder.string()});
  else
    say("Run " + run.folder.string());
  SimulateOptions options;
  options.resume = o.resume;
  options.stop = [&] { return job.asked_to_stop(); };
  options.on_notice = [&](const std::string& text) { job.say(text); };
  options.on_frame = [&](const Progress& p) {
    if (job.as_json())
      return job.tell(
          {.done = p.frame, .of = p.last_frame, .seconds_left = p.seconds_left, .record = p.record});
    std::string line =
        filled("frame {frame} of {last_frame}",
               {{"frame", std::to_string(p.frame)}, {"last_frame", std::to_string(p.last_frame)}});
    for (const FlowRecord& f : p.record.flows) line += "  " + in_words(f);
    say(line + "  " + format_duration(p.seconds_left) + " left");
  };
  options.pace = pace_beside(run);
  simulate(run, options);
  const bool stopped = run.state == RunState::stopped;
  if (job.as_json())
    job.end(!stopped);
  else
    say(stopped ? "Stopped; go on with --resume."
                : filled("Done in {seconds}.", {{"seconds", format_duration(run.seconds)}}));
}

}  // namespace

void add_run_commands(CLI::App& app) {
  auto* run = app.add_subcommand("run", "Simulates the frames of a shot");
  const auto o = std::make_shared<RunOptions>();
  run->add_option("file", o->file, "NAME.pour. With --resume, a run folder too")->required();
  run->add_option("--detail", o->detail, "draft, medium or final");
  run->add_option("--cell", o->cell, "Cell size, for example 5mm, instead of a detail");
  run->add_option("--frames", o->frames, "Range of frames to keep, A-B");
  run->add_option("--from", o->from,
                  "Continues from a frame of an earlier run, RUN:FRAME, with the shot as it is now");
  run->add_flag("--resume", o->resume,
                "Resumes the named run, or the shot's newest unfinished one. Missing and damaged frames are "
                "simulated again.");
  add_job_options(run, o->job);
  run->callback([o] { compute(*o); });

  auto* table = app.add_subcommand("measure", "Prints the measurements of a run, one line per frame");
  table->add_option("run", o->file, "Run folder, or NAME.pour for its newest run")->required();
  table->callback([o] { say_text(measure_table(open_run(o->file))); });
}
