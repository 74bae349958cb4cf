// Campaigns of bad luck from a seed: what is broken at random must be told, and never lead to a wrong result
// that looks right, a crash, or more time and memory than a budget.
//
// To hammer a new reader, write a function that makes one broken thing and reads it (readers.cpp); for a new
// job, one that disturbs it and looks at what it left (jobs.cpp). Then name it in main.cpp.
#pragma once
#include <cstdint>
#include <functional>
#include <random>
#include <string>
#include <utility>
#include <vector>

#include "base/error.h"
#include "base/file.h"
#include "shot/shot.h"

namespace hammer {

namespace fs = pour::fs;

/// The same numbers for the same seed, campaign and try, whatever ran before.
class Luck {
 public:
  Luck(uint64_t seed, const std::string& campaign, int number);
  /// From 0 to n - 1.
  size_t below(size_t n) { return n ? size_t(engine_() % n) : 0; }
  bool one_in(size_t n) { return below(n) == 0; }
  double between(double low, double high);
  int number() const { return number_; }  // of the try
  template <class T>
  const T& of(const std::vector<T>& all) {
    return all[below(all.size())];
  }

 private:
  int number_;
  std::mt19937_64 engine_;
};

/// How one try went.
enum class Held { refused, accepted };

/// What must not be; `what` says so in words.
struct Broken {
  std::string what;
};
inline void must(bool holds, const std::string& what) {
  if (!holds) throw Broken{what};
}

/// One try in a folder of its own, which is empty at first. Throws Broken.
using Try = std::function<Held(Luck&, const fs::path& folder)>;

struct Campaign {
  std::string name, what;
  int whole, dose;                                     // tries in all, and in the short dose
  int seconds;                                         // that one may take
  double bytes;                                        // of memory that one may take
  std::function<Try(const fs::path& common)> prepare;  // called once; `common` stays for all tries
};

/// A JSON text with some of its values, names or bytes changed.
std::string broken_json(const std::string& text, Luck&);
/// Some bytes changed, taken out, put in or cut off.
std::string broken_bytes(std::string text, Luck&);

// readers.cpp
Try shots(const fs::path& common);
Try run_folders(const fs::path& common);
// imports.cpp
Try models(const fs::path& common);
Try drawings(const fs::path& common);
// jobs.cpp
Try kills(const fs::path& common);
Try small_disks(const fs::path& common);
Try two_writers(const fs::path& common);
Try command_lines(const fs::path& common);

// sweep.cpp
Try extremes(const fs::path& common);
Try odd_pictures(const fs::path& common);
Try dense_files(const fs::path& common);
// jobs_two.cpp
Try two_deliveries(const fs::path& common);
Try other_starts(const fs::path& common);
Try same_records(const fs::path& common);
Try in_the_way(const fs::path& common);
Try little_memory(const fs::path& common);

/// Made once and copied: a.pour, a run of it, and its pictures in p and v.mp4.
void prepare_run(const fs::path& common, int frames);
constexpr int killed_frames = 24;  // of that run
/// What every message of the program must be.
struct Told;
void must_be_polite(const Told&, const std::string& line);
/// A command line of those words, to be shown.
std::string joined(const std::vector<std::string>& words);
/// A fault says what, where and how to mend it, and is not endless.
void must_explain(const pour::Fault&);

/// A shot that runs in a second.
pour::Shot small_shot(int frames);

/// easy-pour-cli, ended after `seconds`. The exit code, or minus the signal that ended it.
struct Told {
  int code = 0;
  std::string out, err;
};
struct Limits {
  int seconds = 60;
  long file_bytes = -1;    // the largest file it may write
  long memory = -1;        // bytes of addresses that it may take
  int kill_after_ms = -1;  // ends it by force
};
Told tell(const std::vector<std::string>& arguments, const fs::path& in, const Limits& = {});
/// Two at once; `later` begins so many ms after `first`.
std::pair<Told, Told> tell_two(const std::vector<std::string>& first, const std::vector<std::string>& later,
                               const fs::path& in, int later_ms);

/// Throws Broken where a file beside the shots or runs is half made.
void no_leftovers(const fs::path& folder);
/// The bytes of all files below a folder whose name ends so, by their path in it.
std::vector<std::pair<std::string, std::string>> contents(const fs::path& folder, const std::string& ending);

}  // namespace hammer
