#include "run/job_line.h"

#include "base/error.h"
#include "base/json.h"
#include "base/text.h"

namespace pour {

std::string to_text(const JobLine& l) {
  Json j = Json::object();
  if (!l.run.empty()) j["run"] = l.run;
  if (l.of > 0) j["done"] = l.done, j["of"] = l.of, j["seconds_left"] = l.seconds_left;
  if (l.record) j["record"] = record_as_json(*l.record);
  if (!l.notice.empty()) j["notice"] = l.notice;
  if (l.in_the_way > 0) j["in_the_way"] = l.in_the_way;
  if (l.end != JobLine::End::none)
    j["end"] = l.end == JobLine::End::done ? "done" : "stopped", j["seconds"] = l.seconds;
  return one_line(j) + "\n";
}

JobLine job_line(const std::string& text) try {
  const Json j = Json::parse(text);
  JobLine l;
  l.run = j.value("run", ""), l.notice = j.value("notice", "");
  l.done = j.value("done", 0), l.of = j.value("of", 0), l.seconds_left = j.value("seconds_left", 0.0);
  if (j.contains("record")) l.record = record_from_text(j["record"].dump(), "A job");
  l.in_the_way = j.value("in_the_way", 0), l.seconds = j.value("seconds", 0.0);
  const std::string end = j.value("end", "");
  l.end = end == "done" ? JobLine::End::done : end == "stopped" ? JobLine::End::stopped : JobLine::End::none;
  return l;
} catch (const Json::exception&) {
  throw machine_fault(
      "A job", filled("told something that is no line of a job: {substr}.", {{"substr", text.substr(0, 80)}}),
      "Use the easy-pour-cli that came with this program.");
}

}  // namespace pour
