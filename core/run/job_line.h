// Progress lines of a job (run, skins, pictures), one JSON object a line. Written and read only here.
#pragma once
#include <optional>
#include <string>

#include "run/run_folder.h"

namespace pour {

/// Only the members that a line carries are set.
struct JobLine {
  std::string run;       // run folder
  int done = 0, of = 0;  // progress, if `of` > 0
  double seconds_left = 0;
  std::optional<FrameRecord> record;  // of a finished frame
  std::string notice;                 // for people
  int in_the_way = 0;                 // images with other settings that were not replaced
  enum class End { none, done, stopped } end = End::none;  // the last line
  double seconds = 0;                                      // total
};

/// As text, with a newline.
std::string to_text(const JobLine&);
/// Throws Fault (Blame::machine) if it is not a job line.
JobLine job_line(const std::string& text);

}  // namespace pour
