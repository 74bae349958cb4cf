// hammer [--dose] [--seed N] [--jobs N] [--report FILE] [CAMPAIGN[=TRIES] ...]
// hammer CAMPAIGN --only NUMBER     one try again, in this process, its folder kept
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <map>
#include <sstream>

#include "base/text.h"
#include "hammer.h"
#include "shape/fonts.h"

namespace hammer {
namespace {

#if defined(__SANITIZE_ADDRESS__)
constexpr bool sanitized = true;  // takes terabytes of addresses, and its time
#else
constexpr bool sanitized = false;
#endif

const std::vector<Campaign> campaigns{
    {"shots", "shots with changed values, names and bytes are read, checked and run", 10000, 4, 60, 2.5e9,
     shots},
    {"runs", "run folders are broken, read, delivered and resumed", 2000, 5, 30, 2.5e9, run_folders},
    {"models", "models of nine formats are broken and brought in", 4500, 3, 60, 2.5e9, models},
    {"drawings", "drawings are broken and brought in", 500, 3, 60, 2.5e9, drawings},
    {"kills", "runs are killed and resumed until they are done", 200, 1, 60, 2.5e9, kills},
    {"disks", "disks run full under every command that writes", 600, 2, 60, 2.5e9, small_disks},
    {"writers", "two write to one shot or one run", 100, 1, 60, 2.5e9, two_writers},
    {"commands", "command lines at random", 1500, 3, 60, 2.5e9, command_lines},
    {"extremes", "settings at their limits and a hair beyond, as values and keys: loaded, checked, run, seen",
     2000, 1, 60, 4e9, extremes},
    {"pictures", "labels, backdrops and rooms with negative, huge, endless or missing light", 400, 2, 60,
     2.5e9, odd_pictures},
    {"dense", "drawings and models that are valid, but far too much", 100, 0, 60, 4e9, dense_files},
    {"deliveries", "two deliveries at once", 200, 1, 60, 2.5e9, two_deliveries},
    {"starts", "going on from runs with fluids reordered and checkpoints torn", 200, 1, 60, 2.5e9,
     other_starts},
    {"records", "runs of liquid stopped and killed: their records are the same", 100, 1, 60, 2.5e9,
     same_records},
    {"in_the_way", "pipes, devices, links and folders where files should go", 300, 1, 60, 2.5e9, in_the_way},
    {"memory", "jobs with little memory", 200, 1, 60, 2.5e9, little_memory}};

double seconds_now() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

struct Options {
  uint64_t seed = 1;
  int jobs = 2, only = -1;
  bool dose = false;
  std::string report;
  std::map<std::string, int> tries;  // of the campaigns that are wanted; empty: all
};

std::string one_try(const Try& attempt, const Campaign& c, const Options& o, int number,
                    const fs::path& folder, Held& held) {
  fs::remove_all(folder);
  fs::create_directories(folder);
  Luck luck(o.seed, c.name, number);
  try {
    held = attempt(luck, folder);
    return "";
  } catch (const Broken& b) {
    return b.what;
  } catch (const pour::Fault& f) {
    return std::string("a fault that should not be: ") + f.what();
  } catch (const std::exception& e) {
    return std::string("an exception: ") + e.what();
  }
}

/// A stretch of tries in a process of its own, which notes each before and after it.
void stretch(const Campaign& c, const Options& o, int first, int last, const fs::path& work,
             const fs::path& log) {
  std::ofstream out(log);
  if (!sanitized) {
    rlimit most{};
    ::getrlimit(RLIMIT_AS, &most);
    most.rlim_cur = rlim_t(c.bytes);  // the programs that it starts may have more
    ::setrlimit(RLIMIT_AS, &most);
  }
  const Try attempt = c.prepare(work / (c.name + "-common"));
  for (int n = first; n < last; ++n) {
    out << n << " begins" << std::endl;
    ::alarm(unsigned(c.seconds * (sanitized ? 10 : 1)));
    const double begun = seconds_now();
    Held held = Held::refused;
    const std::string broken = one_try(attempt, c, o, n, work / (c.name + "-" + std::to_string(n)), held);
    ::alarm(0);
    out << n << (broken.empty() ? held == Held::accepted ? " accepted " : " refused " : " broken ")
        << seconds_now() - begun << " " << pour::printable(broken) << std::endl;
    if (broken.empty()) fs::remove_all(work / (c.name + "-" + std::to_string(n)));
  }
}

struct Outcome {
  int refused = 0, accepted = 0;
  double slowest = 0;
  std::vector<std::pair<int, std::string>> broken;
};

/// Takes in what a stretch noted; returns the try after the one that it died in, or `last`.
int take_in(const fs::path& log, int last, int status, Outcome& outcome) {
  std::ifstream in(log);
  int begun = -1, next = last;
  for (std::string line; std::getline(in, line);) {
    std::istringstream words(line);
    std::string how;
    int n = 0;
    double seconds = 0;
    words >> n >> how >> seconds;
    if (how == "begins") {
      begun = n;
      continue;
    }
    begun = -1;
    outcome.slowest = std::max(outcome.slowest, seconds);
    outcome.refused += how == "refused", outcome.accepted += how == "accepted";
    std::string why;
    std::getline(words, why);
    if (how == "broken") outcome.broken.emplace_back(n, why);
  }
  if (begun >= 0) {
    const std::string how = !WIFSIGNALED(status) ? "its process ended"
                            : WTERMSIG(status) == SIGALRM
                                ? "it takes too long"
                                : "it died of signal " + std::to_string(WTERMSIG(status));
    outcome.broken.emplace_back(begun, how);
    next = begun + 1;
  } else if (!WIFEXITED(status) || WEXITSTATUS(status)) {
    outcome.broken.emplace_back(-1, "its process could not begin");
  }
  return next;
}

Outcome run_campaign(const Campaign& c, const Options& o, int tries, const fs::path& work) {
  {  // what all tries share is made once, and not by two at a time
    const pid_t child = ::fork();
    if (child == 0) {
      int code = 1;
      try {
        fs::create_directories(work / (c.name + "-common"));
        (void)c.prepare(work / (c.name + "-common"));
        code = 0;
      } catch (const Broken& b) {
        std::fprintf(stderr, "%s: %s\n", c.name.c_str(), b.what.c_str());
      } catch (const std::exception& e) {
        std::fprintf(stderr, "%s: %s\n", c.name.c_str(), e.what());
      }
      ::_exit(code);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    if (status) return {0, 0, 0, {{-1, "what it needs could not be made"}}};
  }
  struct Job {
    int first, last;
    fs::path log;
  };
  constexpr int length = 25;
  std::vector<std::pair<int, int>> waiting;
  for (int first = 0; first < tries; first += length)
    waiting.emplace_back(first, std::min(tries, first + length));
  std::reverse(waiting.begin(), waiting.end());
  std::map<pid_t, Job> running;
  Outcome outcome;
  while (!waiting.empty() || !running.empty()) {
    while (!waiting.empty() && int(running.size()) < o.jobs) {
      const auto [first, last] = waiting.back();
      waiting.pop_back();
      const fs::path log = work / (c.name + "-log-" + std::to_string(first));
      std::fflush(nullptr);
      const pid_t child = ::fork();
      if (child == 0) {
        try {
          stretch(c, o, first, last, work, log);
        } catch (...) {
          ::_exit(1);
        }
        ::_exit(0);
      }
      running[child] = {first, last, log};
    }
    int status = 0;
    const pid_t ended = ::waitpid(-1, &status, 0);
    const auto job = running.find(ended);
    if (job == running.end()) continue;
    const int next = take_in(job->second.log, job->second.last, status, outcome);
    if (next < job->second.last) waiting.emplace_back(next, job->second.last);
    fs::remove(job->second.log);
    running.erase(job);
  }
  std::sort(outcome.broken.begin(), outcome.broken.end());
  return outcome;
}

Options parse(int argc, char** argv) {
  Options o;
  const auto number = [&](int& i) -> long long {
    const auto n = i + 1 < argc ? pour::whole_number(argv[++i], 0, 1000000000) : std::nullopt;
    if (!n) throw pour::usage_fault(argv[i], "is no number.", "Write one.");
    return *n;
  };
  for (int i = 1; i < argc; ++i) {
    const std::string word = argv[i], name = word.substr(0, word.find('='));
    if (word == "--dose") {
      o.dose = true;
    } else if (word == "--seed") {
      o.seed = uint64_t(number(i));
    } else if (word == "--jobs") {
      o.jobs = int(number(i));
    } else if (word == "--only") {
      o.only = int(number(i));
    } else if (word == "--report" && i + 1 < argc) {
      o.report = argv[++i];
    } else {
      const bool known =
          std::any_of(campaigns.begin(), campaigns.end(), [&](const Campaign& c) { return c.name == name; });
      const auto tries = name == word ? std::optional<long long>(-1)
                                      : pour::whole_number(word.substr(name.size() + 1), 0, 100000000);
      if (!known || !tries)
        throw pour::usage_fault(word, "is no campaign.",
                                "Those are shots, runs, kills, disks, writers, commands.");
      o.tries[name] = int(*tries);
    }
  }
  return o;
}

int hammer_all(const Options& o) {
  const fs::path work = fs::temp_directory_path() / ("hammer-" + std::to_string(::getpid()));
  fs::create_directories(work);
  (void)pour::all_fonts();  // found once, not by every child
  std::string report = "seed " + std::to_string(o.seed) + "\n";
  int tried = 0, broken = 0;
  for (const Campaign& c : campaigns) {
    const auto wanted = o.tries.find(c.name);
    if (!o.tries.empty() && wanted == o.tries.end()) continue;
    // The sweep is whole where a test may take minutes (./test long).
    const bool sweeps = c.name == "extremes" && std::getenv("EASY_POUR_LONG");
    const int tries = wanted != o.tries.end() && wanted->second >= 0 ? wanted->second
                      : o.dose && !sweeps                            ? c.dose
                                                                     : c.whole;
    if (tries == 0) continue;  // too long for a dose
    if (o.only >= 0) {
      Held held{};
      fs::create_directories(work / (c.name + "-common"));
      const std::string why =
          one_try(c.prepare(work / (c.name + "-common")), c, o, o.only, work / (c.name + "-only"), held);
      std::printf("%s\n%s\n", (work / (c.name + "-only")).c_str(), why.empty() ? "held" : why.c_str());
      return why.empty() ? 0 : 1;
    }
    const double begun = seconds_now();
    const Outcome out = run_campaign(c, o, tries, work);
    char line[300];
    std::snprintf(line, sizeof line,
                  "%-9s %6d tries  %6d refused  %6d accepted  %4zu broken  slowest %.1f s  all %.0f s  %s\n",
                  c.name.c_str(), tries, out.refused, out.accepted, out.broken.size(), out.slowest,
                  seconds_now() - begun, c.what.c_str());
    report += line;
    std::fputs(line, stdout);
    for (const auto& [n, why] : out.broken) {
      const std::string text = "  " + c.name + " --seed " + std::to_string(o.seed) + " --only " +
                               std::to_string(n) + ": " + why + "\n";
      report += text;
      std::fputs(text.c_str(), stdout);
    }
    std::fflush(stdout);
    tried += tries, broken += int(out.broken.size());
  }
  if (!o.report.empty()) pour::write_whole(o.report, report);
  if (broken)
    std::printf("What broke is kept in %s.\n", work.c_str());
  else
    fs::remove_all(work);
  std::printf("%d passed, %d failed\n", tried - broken, broken);
  return broken ? 1 : 0;
}

}  // namespace

Luck::Luck(uint64_t seed, const std::string& campaign, int number)
    : number_(number), engine_(pour::checksum(std::to_string(seed) + campaign + std::to_string(number))) {}

double Luck::between(double low, double high) {
  return low + (high - low) * double(engine_() >> 11) / double(uint64_t(1) << 53);
}

void no_leftovers(const fs::path& folder) {
  for (const auto& e : fs::recursive_directory_iterator(folder)) {
    const std::string name = e.path().filename().string();
    must(!name.starts_with(".writing") && !name.starts_with(".new"), "left half made: " + e.path().string());
  }
}

std::vector<std::pair<std::string, std::string>> contents(const fs::path& folder, const std::string& ending) {
  std::vector<std::pair<std::string, std::string>> out;
  std::error_code none;
  for (const auto& e : fs::recursive_directory_iterator(folder, none))
    if (e.is_regular_file() && e.path().string().ends_with(ending))
      out.emplace_back(fs::relative(e.path(), folder).string(), pour::read_whole(e.path()));
  std::sort(out.begin(), out.end());
  return out;
}

}  // namespace hammer

int main(int argc, char** argv) {
  std::signal(SIGXFSZ, SIG_IGN);
  try {
    return hammer::hammer_all(hammer::parse(argc, argv));
  } catch (const std::exception& e) {
    std::fprintf(stderr, "%s\n", e.what());
    return 2;
  }
}
