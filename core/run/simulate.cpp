#include "run/simulate.h"

#include <malloc.h>

#include <chrono>
#include <cmath>
#include <future>
#include <utility>

#include "base/error.h"
#include "base/file.h"
#include "base/text.h"
#include "base/units.h"
#include "base/version.h"
#include "run/checkpoint.h"
#include "run/flow.h"
#include "run/run_lock.h"
#include "run/space.h"
#include "run/staging.h"
#include "run/start.h"
#include "shot/out_of_range.h"

namespace pour {
namespace {

double seconds_now() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

void refuse_without_memory(const Staging& staging, const Estimate& need) {
  const double free = available_memory();
  if (need.memory <= free) return;
  // Memory goes with the cells, and those with the cube of their size.
  const double fits = staging.cell_size() * std::cbrt(1.1 * need.memory / std::max(free, 1.0));
  throw machine_fault(
      "Memory",
      filled("this run needs about {memory}, and {free} are free.",
             {{"memory", format_bytes(need.memory)}, {"free", format_bytes(free)}}),
      filled("Cells of {fits} would fit.", {{"fits", format_quantity(fits, Unit::length, 2)}}));
}

class Simulation {
 public:
  Simulation(Run& run, const SimulateOptions& options)
      : run_(run),
        options_(options),
        staging_(run.shot, options.stop),
        flows_(flows_of(staging_, options.on_notice)),
        expected_(staging_.estimate(options.pace).frames) {
    refuse_unsettled_ranges(run.shot);
    // All frames of a run have one cell size.
    if (options.resume && run.cell_size > 0 && run.cell_size != staging_.cell_size())
      throw shot_fault(run.folder.string(), "was computed with other cells than its shot has.",
                       "Start a new run.");
    run_.cell_size = staging_.cell_size();
    refuse_without_memory(staging_, staging_.estimate(run.pace()));
    begin();
  }

  void compute() {
    if (fresh_) {
      if (run_.start.run.empty()) {
        for (const auto& flow : flows_) flow->begin();
        finish_frame();
      } else {
        begin_from_start(run_, flows_, options_.on_notice);
        frame_ = run_.start.frame;
      }
    }
    for (;;) {
      if (later_ && frame_ >= last_gap_) go_on_from_checkpoint();
      if (frame_ >= run_.last_frame) break;
      if (!compute_frame()) {
        keep_checkpoint();
        run_.state = RunState::stopped;
        save_run(run_);
        return;
      }
      // As often as it costs little: at most a twentieth of the time goes into checkpoints.
      const bool due = seconds_now() - last_checkpoint_ > std::max(0.5, 20 * checkpoint_cost_);
      if (frame_ == run_.last_frame || due) keep_checkpoint();
    }
    settle_frame();
    tell_of_books();
    run_.state = RunState::done;
    save_run(run_);
  }

 private:
  /// Finds out from where to go on, and which frames are there.
  void begin() {
    if (options_.resume) {
      look_for_frames(run_);
      for (const FrameRecord& r : run_.frames) whole_.insert(r.frame);
      for (const int f : missing_frames(run_, {run_.first_frame, run_.last_frame})) whole_.erase(f);
      mend_records(run_);
      if (has_checkpoint(run_)) try {
          later_ = read_checkpoint(run_, flows_);
        } catch (const Fault& f) {
          if (options_.on_notice) options_.on_notice(f.what());
        }
      for (int f = run_.start.frame + 1; f <= later_; ++f)
        if (!whole_.contains(f)) last_gap_ = f;
      fresh_ = !later_ || last_gap_;
      if (last_gap_ && options_.on_notice) {
        std::vector<int> gone;
        for (int f = run_.start.frame + 1; f <= last_gap_; ++f)
          if (!whole_.contains(f)) gone.push_back(f);
        options_.on_notice(filled("Frames that are missing or torn are computed again: {gone}.",
                                  {{"gone", frames_in_words(gone)}}));
      }
    } else {
      run_.frames.clear(), run_.seconds = 0;
      std::error_code ignored;
      fs::remove(run_.folder / "frames.jsonl", ignored);
      if (!run_.start.run.empty()) take_over_frames(run_);
    }
    run_.state = RunState::running, run_.message.clear(), run_.damage.clear();
    save_run(run_);
    started_ = last_checkpoint_ = seconds_now();
  }

  /// Says where the surface of a liquid shows more or less than was poured.
  void tell_of_books() const {
    constexpr double much = 0.01;
    if (!options_.on_notice || run_.frames.empty()) return;
    for (const FlowRecord& f : run_.frames.back().flows) {
      const double off = f.ledger.poured > 0 ? f.ledger.numeric / f.ledger.poured : 0;
      if (f.name != "liquid" || std::abs(off) <= much) continue;
      char percent[16];
      std::snprintf(percent, sizeof percent, "%.1f %%", 100 * std::abs(off));
      options_.on_notice(filled(
          off > 0 ? "The liquid shows {percent} more than was poured: its cells are coarse for where it "
                    "flows. Finer cells are closer."
                  : "The liquid shows {percent} less than was poured: its cells are coarse for where it "
                    "flows. Finer cells are closer.",
          {{"percent", percent}}));
    }
  }

  void go_on_from_checkpoint() {
    if (last_gap_) later_ = read_checkpoint(run_, flows_);  // else they are there since it was looked for
    frame_ = std::exchange(later_, 0);
    started_ = last_checkpoint_ = seconds_now();
  }

  void keep_checkpoint() {
    settle_frame();      // a checkpoint never is further than the frames
    if (later_) return;  // the one on disk is further
    const double t = seconds_now();
    write_checkpoint(run_, frame_, flows_);
    last_checkpoint_ = seconds_now(), checkpoint_cost_ = last_checkpoint_ - t;
  }

  /// Steps to the next frame and stores it; false if stopped before.
  bool compute_frame() {
    const double end = staging_.clock().time(frame_ + 1);
    for (const auto& flow : flows_)
      if (!flow->advance(frame_ + 1, end, options_.stop)) return false;
    ++frame_;
    finish_frame();
    return true;
  }

  void finish_frame() {
    FrameRecord r;
    r.frame = frame_, r.time = staging_.clock().time(frame_);
    for (const auto& flow : flows_) {
      r.flows.push_back(flow->measure());
      if (!std::isfinite(r.flows.back().ledger.in_shot) || !std::isfinite(r.flows.back().kinetic_energy))
        throw shot_fault("Run",
                         filled("the flow blew up at frame {frame}.", {{"frame", std::to_string(r.frame)}}),
                         "Lower the speeds and forces, or “Cells a step”.");
    }
    settle_frame();
    // Temporary memory of the steps is released before the frame is written.
    release_field_memory();
    r.wall = seconds_now() - started_;
    started_ = seconds_now();
    if (whole_.contains(r.frame)) return report_frame(*run_.record(r.frame));  // it is there, to the bit
    if (r.frame < run_.first_frame) return keep_record(r);
    // Written on a thread of its own, from a copy, while the next frame is computed.
    writing_ = r;
    std::vector<FramePart> parts;
    for (const auto& flow : flows_) parts.push_back(flow->frame_part());
    written_ = std::async(std::launch::async, [parts = std::move(parts), file = run_.frame_file(r.frame)] {
      std::string id = write_frame(file, parts);
      malloc_trim(0);
      return id;
    });
  }

  /// Waits for the frame that is being written, and keeps its record.
  void settle_frame() {
    if (!written_.valid()) return;
    writing_.id = written_.get();
    run_.stored.insert(writing_.frame);
    keep_record(writing_);
  }

  void keep_record(FrameRecord r) {
    r.peak_rss = peak_memory();
    store_record(run_, r);
    put_record(run_, r);
    report_frame(r);
  }

  void report_frame(const FrameRecord& r) {
    run_.seconds = 0;
    for (const FrameRecord& f : run_.frames) run_.seconds += f.wall;
    if (options_.on_frame) options_.on_frame({r.frame, run_.last_frame, time_left(), r});
  }

  double time_left() const {
    double expected = 0, left = 0;
    for (int f = 1; f <= run_.last_frame; ++f) {
      const double one = expected_[size_t(std::min(f, int(expected_.size())) - 1)];
      if (run_.record(f))
        expected += one;
      else if (f > frame_ && (!later_ || f <= last_gap_ || f > later_))
        left += one;
    }
    return seconds_left(run_.seconds, expected, left);
  }

  Run& run_;
  const SimulateOptions& options_;
  const Staging staging_;
  const std::vector<std::unique_ptr<Flow>> flows_;
  const std::vector<double> expected_;  // seconds of each frame
  int frame_ = 1;                       // the last that is finished, or the first
  bool fresh_ = true;
  int later_ = 0;  // of the checkpoint, to go on from once the gaps before it are filled; 0: there is none
  int last_gap_ = 0;
  std::set<int> whole_;  // frames with their records that need not be written again
  double started_ = 0, last_checkpoint_ = 0, checkpoint_cost_ = 0;
  FrameRecord writing_;
  std::future<std::string> written_;  // the id of the frame that is being written; ends before all above
};

}  // namespace

double seconds_left(double took, double expected, double expected_left) {
  const double before = 0.1 * (expected + expected_left);  // that the expectation counts for
  return before > 0 ? expected_left * (took + before) / (expected + before) : 0;
}

void check_can_run(const Shot& shot) {
  refuse_unsettled_ranges(shot);
  const Staging staging(shot, Space(shot), Staging::For::looking);
  refuse_without_memory(staging, staging.estimate());
}

void simulate(Run& run, const SimulateOptions& options) {
  const RunLock lock(run.folder);
  if (options.resume) {  // another process may have written since it was read
    const int last = run.last_frame;
    run = load_run(run.folder);
    run.last_frame = std::max(run.last_frame, last);
  }
  if (options.resume && run.program != EASY_POUR_VERSION)
    throw shot_fault(
        run.folder.string(),
        filled("was computed by Easy Pour {program}, this is {version}: its frames would not fit together.",
               {{"program", run.program}, {"version", EASY_POUR_VERSION}}),
        "Start a new run.");
  try {
    Simulation(run, options).compute();
  } catch (const GivenUp&) {  // before the first step
    run.state = RunState::stopped;
    save_run(run);
  } catch (...) {
    const Fault f = fault_in_flight("Run");
    run.state = RunState::failed, run.message = f.what();
    try {
      save_run(run);
    } catch (const Fault&) {  // a full disk may refuse this too; the message still goes up
    }
    throw f;
  }
}

}  // namespace pour
