#include "job.h"

#include <sys/prctl.h>
#include <sys/resource.h>
#include <unistd.h>

#include <csignal>
#include <cstdio>
#include <thread>

#include "base/text.h"
#include "base/units.h"
#include "door.h"
#include "run/run_lock.h"

using namespace pour;

namespace {

volatile std::sig_atomic_t stop_asked = 0;

/// Each of these is a polite stop, however often it comes: whoever ends a group of processes sends it twice.
void stop_on_signals() {
  struct sigaction action {};
  action.sa_handler = [](int) { stop_asked = 1; };
  action.sa_flags = SA_RESTART;
  for (const int s : {SIGTERM, SIGINT, SIGHUP}) ::sigaction(s, &action, nullptr);
  std::signal(SIGPIPE, SIG_IGN);  // frames matter more than who reads of them
}

/// A run that ended too soon is no reason for fewer pictures without a word.
void check_came(const Run& run, const FrameRange& frames) {
  if (run.newest_frame() < frames.last)
    throw shot_fault(
        "Run " + std::to_string(run.number()),
        filled("ended at frame {newest}, before frame {last}.",
               {{"newest", std::to_string(run.newest_frame())}, {"last", std::to_string(frames.last)}}),
        "Resume it, or name frames that are there.");
}

/// Threads alone take this much room for addresses: with less, libraries end the program without a word.
void refuse_without_memory() {
  constexpr rlim_t least = 800'000'000;
  rlimit most{};
  if (::getrlimit(RLIMIT_AS, &most) != 0 || most.rlim_cur == RLIM_INFINITY || most.rlim_cur >= least) return;
  throw machine_fault(
      "Memory",
      filled("this program may take {limit}, and needs at least {least}.",
             {{"limit", format_bytes(double(most.rlim_cur))}, {"least", format_bytes(double(least))}}),
      "Raise the limit (“ulimit -v”), or start it on another machine.");
}

bool wait_a_while(const Job& job) {
  std::this_thread::sleep_for(std::chrono::milliseconds(300));
  return !job.asked_to_stop();
}

}  // namespace

void add_job_options(CLI::App* command, JobOptions& o, const char* follow) {
  command->add_flag("--background", o.background, "Runs at low priority");
  command
      ->add_option("--progress", o.progress, "Format of progress messages; json prints one object per line")
      ->check(CLI::IsMember({"json", "text"}));
  if (follow) command->add_flag("--follow", o.follow, follow);
}

Job::Job(const JobOptions& o) : json_(o.progress == "json") {
  refuse_without_memory();
  if (o.background) {
    (void)!nice(15);
    // A paused job continues when the window that paused it is gone.
    ::prctl(PR_SET_PDEATHSIG, SIGCONT);
  }
  stop_on_signals();
}

Job::~Job() { end_line(); }

void Job::end_line() {
  if (open_) std::fputc('\n', stderr);
  open_ = false;
}

bool Job::asked_to_stop() const { return stop_asked != 0; }

void Job::tell(const JobLine& line) const { say_text(to_text(line)); }

void Job::say(const std::string& text) {
  end_line();
  if (json_)
    tell({.notice = text});
  else
    ::say(text);
}

bool Job::show(int done, int of) {
  if (of_all_ > 0) done += before_, of = of_all_;
  const double left = done > 0 ? seconds() / done * (of - done) : 0;
  if (json_) {
    tell({.done = done, .of = of, .seconds_left = left});
  } else {
    std::fprintf(stderr, "\r%d of %d, %s left   ", done, of, format_duration(left).c_str());
    open_ = true;
    if (done == of) end_line();
  }
  return !asked_to_stop();
}

void Job::end(bool whole) {
  end_line();
  if (json_) tell({.end = whole ? JobLine::End::done : JobLine::End::stopped, .seconds = seconds()});
}

double Job::seconds() const {
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start_).count();
}

bool follow(Job& job, const JobOptions& o, const Run& run, FrameRange frames,
            const std::function<bool(const Run&, const FrameRange&)>& work) {
  if (!o.follow) return work(run, frames);
  const int all = frames.last - frames.first + 1;
  int next = frames.first;
  for (int still = 0; next <= frames.last;) {
    const bool under_way = writer_of(run.folder).has_value();  // before looking, so that nothing is missed
    const Run now = load_run(run.folder);
    const FrameRange fresh{next, std::min(frames.last, now.newest_frame())};
    if (fresh.last >= fresh.first) {
      job.is_part(next - frames.first, all);
      if (!work(now, fresh)) return false;
      next = fresh.last + 1;
    }
    still = under_way ? 0 : still + 1;  // one that has just been made is not written to yet
    if (still > 1) check_came(now, frames);
    if (next <= frames.last && !wait_a_while(job)) return false;
  }
  job.is_part(0, 0);
  return true;
}

Run once_finished(const Job& job, const JobOptions& o, const Run& run, const FrameRange& frames) {
  if (!o.follow) return run;
  while (writer_of(run.folder) && wait_a_while(job)) {
  }
  Run now = load_run(run.folder);
  if (!job.asked_to_stop()) check_came(now, frames);
  return now;
}
