// Common parts of long commands: progress and stopping.
#pragma once
#include <chrono>
#include <CLI/CLI.hpp>
#include <string>

#include "run/job_line.h"

struct JobOptions {
  std::string progress = "text";
  bool background = false, follow = false;
};
/// Adds --progress, --background and, with a text in `follow`, --follow.
void add_job_options(CLI::App*, JobOptions&, const char* follow = nullptr);

/// A running job. SIGTERM, SIGINT and SIGHUP ask it to stop cleanly.
class Job {
 public:
  explicit Job(const JobOptions&);
  ~Job();
  bool as_json() const { return json_; }
  bool asked_to_stop() const;
  void tell(const pour::JobLine&) const;  // as JSON
  /// Prints a line, or sends a notice.
  void say(const std::string&);
  /// Reports progress; returns whether to continue.
  bool show(int done, int of);
  /// Sets the part of the whole work that show() reports on.
  void is_part(int before, int of_all) { before_ = before, of_all_ = of_all; }
  /// Reports that it finished or was stopped.
  void end(bool whole);
  double seconds() const;

 private:
  void end_line();
  const bool json_;
  const std::chrono::steady_clock::time_point start_ = std::chrono::steady_clock::now();
  bool open_ = false;  // the terminal line is unfinished
  int before_ = 0, of_all_ = 0;
};

/// Calls work(run, frames) for these frames. With --follow, first for existing frames and then for new ones
/// while the run is in progress. Returns false if stopped or if `work` returned false. Throws Fault
/// (Blame::shot) if the run ends before the last frame.
bool follow(Job&, const JobOptions&, const pour::Run&, pour::FrameRange frames,
            const std::function<bool(const pour::Run&, const pour::FrameRange&)>& work);
/// Reads the run; with --follow, once it is no longer in progress. Throws as follow().
pour::Run once_finished(const Job&, const JobOptions&, const pour::Run&, const pour::FrameRange& frames);
