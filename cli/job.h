// What all commands that take long have in common: how they tell how far they are, and how they stop.
#pragma once
#include <chrono>
#include <CLI/CLI.hpp>
#include <string>

#include "run/job_line.h"

struct JobOptions {
  std::string progress = "text";
  bool background = false, follow = false;
};
/// --progress, --background and, where `follow` says what for, --follow.
void add_job_options(CLI::App*, JobOptions&, const char* follow = nullptr);

/// A job from its start to its end. SIGTERM, SIGINT and SIGHUP ask it to stop in order.
class Job {
 public:
  explicit Job(const JobOptions&);
  ~Job();
  bool as_json() const { return json_; }
  bool asked_to_stop() const;
  void tell(const pour::JobLine&) const;  // as JSON
  /// For people: a line of its own, or a notice.
  void say(const std::string&);
  /// Tells how much is done; whether to go on.
  bool show(int done, int of);
  /// What show() is told is of a part of the work, with so much before it, of all of it.
  void is_part(int before, int of_all) { before_ = before, of_all_ = of_all; }
  /// Tells a program that it is through, or was stopped.
  void end(bool whole);
  double seconds() const;

 private:
  void end_line();
  const bool json_;
  const std::chrono::steady_clock::time_point start_ = std::chrono::steady_clock::now();
  bool open_ = false;  // the line on the terminal
  int before_ = 0, of_all_ = 0;
};

/// Calls work(run, its frames) for these; where the job follows, for those that are there and then for more
/// as they appear, as long as the run is under way and the job is not asked to stop. False where that or
/// `work` ended it. Throws Fault (Blame::shot) where
/// the run ends before the last of them.
bool follow(Job&, const JobOptions&, const pour::Run&, pour::FrameRange frames,
            const std::function<bool(const pour::Run&, const pour::FrameRange&)>& work);
/// The run; where the job follows, once nobody writes to it any more. Throws as follow() does.
pour::Run once_finished(const Job&, const JobOptions&, const pour::Run&, const pour::FrameRange& frames);
