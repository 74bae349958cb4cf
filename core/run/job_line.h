// What a job (a run, skins, pictures) tells whoever started it, a line of JSON at a time: written and read
// here and nowhere else.
#pragma once
#include <optional>
#include <string>

#include "run/run_folder.h"

namespace pour {

/// Of each line only what it tells is set.
struct JobLine {
  std::string run;       // the folder that it works on
  int done = 0, of = 0;  // how far it is, where `of` is above 0
  double seconds_left = 0;
  std::optional<FrameRecord> record;  // of the frame that was computed
  std::string notice;                 // for people to read
  int in_the_way = 0;                 // images that were made in another way and were not replaced
  enum class End { none, done, stopped } end = End::none;  // the last line
  double seconds = 0;                                      // that all of it took
};

/// With its end of line.
std::string to_text(const JobLine&);
/// Throws Fault (Blame::machine) for what is none.
JobLine job_line(const std::string& text);

}  // namespace pour
