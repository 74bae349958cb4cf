#include "run/run_folder.h"

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <ctime>
#include <limits>

#include "base/error.h"
#include "base/file.h"
#include "base/json.h"
#include "base/parallel.h"
#include "base/text.h"
#include "base/version.h"
#include "shot/shot_file.h"

namespace pour {
namespace {

constexpr int run_version = 2;  // version 1 held the records in run.json, and no checksums
constexpr int most_frames = 100000;
constexpr double most = std::numeric_limits<double>::max();
constexpr const char* state_names[] = {"running", "done", "stopped", "failed"};

// The lists of what a frame's record holds, of all of it and of each flow: the columns of the table and the
// keys in the records.
template <class R>
struct Column {
  const char* name;
  bool whole;
  double (*get)(const R&);
  void (*set)(R&, double);
};
#define COLUMN(R, name, member)                                                                   \
  Column<R> {                                                                                     \
    name, std::is_same_v<decltype(R().member), int>, [](const R& r) { return double(r.member); }, \
        [](R& r, double v) { r.member = decltype(R().member)(v); }                                \
  }
constexpr Column<FrameRecord> first_columns[] = {COLUMN(FrameRecord, "frame", frame),
                                                 COLUMN(FrameRecord, "time_s", time)};
constexpr Column<FrameRecord> last_columns[] = {COLUMN(FrameRecord, "wall_s", wall),
                                                COLUMN(FrameRecord, "peak_rss", peak_rss)};
constexpr Column<FlowRecord> flow_columns[] = {
    COLUMN(FlowRecord, "cells", cells),
    COLUMN(FlowRecord, "particles", particles),
    COLUMN(FlowRecord, "drops", drops),
    COLUMN(FlowRecord, "poured", ledger.poured),
    COLUMN(FlowRecord, "decayed", ledger.decayed),
    COLUMN(FlowRecord, "drained", ledger.drained),
    COLUMN(FlowRecord, "left", ledger.left),
    COLUMN(FlowRecord, "numeric", ledger.numeric),
    COLUMN(FlowRecord, "in_shot", ledger.in_shot),
    COLUMN(FlowRecord, "centroid_x", centroid.x),
    COLUMN(FlowRecord, "centroid_y", centroid.y),
    COLUMN(FlowRecord, "centroid_z", centroid.z),
    COLUMN(FlowRecord, "max_speed", max_speed),
    COLUMN(FlowRecord, "kinetic_energy", kinetic_energy),
    COLUMN(FlowRecord, "max_divergence", max_divergence),
    COLUMN(FlowRecord, "solver_iterations", solver_iterations),
    COLUMN(FlowRecord, "substeps", substeps),
};
#undef COLUMN

}  // namespace

fs::path Run::frame_file(int frame) const {
  char name[32];
  std::snprintf(name, sizeof name, "%06d.vdb", frame);
  return folder / "frames" / name;
}

StoredFrame Run::stored_frame(int frame) const {
  const FrameRecord* r = record(frame);
  return {frame_file(frame), r ? r->id : "", cell_size};
}

const FlowRecord& FrameRecord::flow(std::string_view name) const {
  static const FlowRecord none;
  const auto at =
      std::find_if(flows.begin(), flows.end(), [&](const FlowRecord& f) { return f.name == name; });
  return at != flows.end() ? *at : none;
}

const FrameRecord* Run::record(int frame) const {
  const auto at = std::lower_bound(frames.begin(), frames.end(), frame,
                                   [](const FrameRecord& r, int f) { return r.frame < f; });
  return at != frames.end() && at->frame == frame ? &*at : nullptr;
}

Pace pace_of(const RunList& all) {
  for (const Run& r : all.runs)
    if (const Pace p = r.pace(); p.seconds_per_cell > 0) return p;
  return {};
}

Pace pace_beside(const Run& run) { return pace_of(runs_in(run.folder.parent_path())); }

Pace Run::pace() const {
  double wall = 0, work = 0, particles = 0;
  Pace out;
  bool gas = false;
  for (const FrameRecord& r : frames) {
    wall += r.wall;
    out.speed += r.smoke().max_speed / double(frames.size());
    for (const FlowRecord& f : r.flows) {
      work += f.cells * f.substeps, particles += f.particles * f.substeps;
      gas = gas || (f.particles == 0 && f.cells > 0);
      if (f.particles > 0) out.liquid_speed += f.max_speed / double(frames.size());
    }
  }
  if (work <= 1e5) return {};
  out.seconds_per_cell = wall / work;
  if (!gas && particles > 1e5) out.seconds_per_particle = wall / particles;
  return out;
}

fs::path runs_folder(const fs::path& shot_file) {
  fs::path p = shot_file;
  return p.replace_extension(".runs");
}

// At most nine digits and nothing else, so that a folder of somebody's own is not taken for one.
static int number_of(const fs::path& folder) {
  const std::string name = folder.filename().string();
  return name.size() <= 9 ? int(whole_number(name, 1, 999999999).value_or(0)) : 0;
}

int Run::number() const { return number_of(folder); }

namespace {

/// Calls f with each entry of a folder, if it exists.
template <class F>
void each_entry(const fs::path& folder, const F& f) {
  std::error_code error;
  fs::directory_iterator i(folder, error);
  if (error == std::errc::no_such_file_or_directory) return;
  for (const fs::directory_iterator end; !error && i != end; i.increment(error)) f(i->path());
  if (error) throw file_fault(folder, "can't be looked into", error.value());
}

/// The numbers of NAME.runs while one is given out.
class Numbers {
 public:
  explicit Numbers(const fs::path& runs) : runs_(runs), file_(runs / ".last") {
    std::error_code error;
    fs::create_directories(runs, error);
    fd_ = ::open(file_.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0666);
    if (error || fd_ < 0) throw file_fault(runs, "a run can't be stored here", error ? error.value() : errno);
    (void)::flock(fd_, LOCK_EX);
  }
  ~Numbers() { ::close(fd_); }
  Numbers(const Numbers&) = delete;
  Numbers& operator=(const Numbers&) = delete;

  /// After all that are there, and all that were: a number that was deleted never comes back.
  int next() const {
    char text[16] = {};
    (void)!::pread(fd_, text, sizeof text - 1, 0);
    int highest = int(whole_number(text, 0, 999999998).value_or(0));
    each_entry(runs_, [&](const fs::path& p) { highest = std::max(highest, number_of(p)); });
    return highest + 1;
  }
  void gave(int number) const {
    const std::string text = std::to_string(number);
    if (::pwrite(fd_, text.data(), text.size(), 0) != ssize_t(text.size()))
      throw file_fault(file_, "could not be written", errno);
  }

 private:
  fs::path runs_, file_;
  int fd_ = -1;
};

std::string now_in_words() {
  timespec t{};
  ::clock_gettime(CLOCK_REALTIME, &t);
  tm utc{};
  ::gmtime_r(&t.tv_sec, &utc);
  char date[40], all[64];
  std::strftime(date, sizeof date, "%Y-%m-%dT%H:%M:%S", &utc);
  std::snprintf(all, sizeof all, "%s.%09ldZ", date, t.tv_nsec);
  return all;
}

}  // namespace

Run create_run(const fs::path& shot_file, const Shot& shot, const FrameRange& frames) {
  const fs::path all = runs_folder(shot_file);
  const Numbers numbers(all);
  std::error_code error;
  // Made beside its place and moved there, so that a run folder always has its run.json. What others left
  // half made is nobody's: only one at a time comes here.
  each_entry(all, [&](const fs::path& p) {
    if (p.filename().string().starts_with(".new-")) fs::remove_all(p, error);
  });
  Run run;
  run.folder = all / (".new-" + std::to_string(::getpid()));
  run.shot = shot, run.shot_file = shot_file.filename().string();
  run.program = EASY_POUR_VERSION, run.made = now_in_words();
  run.first_frame = frames.first, run.last_frame = frames.last;
  const int number = numbers.next();
  try {
    if (!fs::create_directories(run.folder / "frames", error) && error)
      throw file_fault(all, "a run can't be stored here", error.value());
    save_run(run);
    numbers.gave(number);
    char name[16];
    std::snprintf(name, sizeof name, "%03d", number);
    fs::rename(run.folder, all / name, error);
    if (error) throw file_fault(all / name, "could not be made", error.value());
    run.folder = all / name;
  } catch (const Fault&) {
    fs::remove_all(run.folder, error);
    throw;
  }
  return run;
}

void save_run(const Run& run) {
  Json j;
  j["easy_pour_run"] = run_version;
  j["program"] = run.program;
  j["made"] = run.made;
  j["shot_file"] = run.shot_file;
  j["state"] = state_names[int(run.state)];
  j["message"] = run.message.substr(0, text_longest / 2);
  j["cell_size"] = run.cell_size;
  if (!run.start.run.empty()) j["start"] = {{"run", run.start.run}, {"frame", run.start.frame}};
  j["first_frame"] = run.first_frame, j["last_frame"] = run.last_frame;
  j["seconds"] = run.seconds;
  j["shot"] = shot_as_json(run.shot);
  write_whole(run.folder / "run.json", sealed(j).dump(1) + "\n");
}

namespace {

FrameRecord record_from_line(const Run& run, const std::string& line, const std::string& where) {
  const Json j = unsealed(parse_json(line, where, "a readable record of a frame"), where);
  if (text_in(j, "run", where) != run.made)
    throw shot_fault(where, "belongs to another run.", "Resume the run.");
  return record_from_json(j, where);
}

/// The lines of frames.jsonl up to the first that can't be read. The half line at the end that a writer
/// which was killed may have left is no damage.
void load_records(Run& run) {
  const fs::path file = run.folder / "frames.jsonl";
  if (!is_there(file)) return;
  const std::string text = read_whole(file);
  size_t from = 0, line = 1;
  try {
    for (size_t end; (end = text.find('\n', from)) != std::string::npos; from = end + 1, ++line)
      put_record(run, record_from_line(run, text.substr(from, end - from), file.string()));
  } catch (const Fault&) {
    run.damage = filled(
        "“frames.jsonl” is garbled at line {line} or of another run; “resume” computes what follows anew.",
        {{"line", std::to_string(line)}});
  }
}

void load_version_1(Run& run, const Json& j, const std::string& where) {
  if (!j.contains("frames") || !j["frames"].is_array())
    throw shot_fault(where, "“frames” is missing.",
                     "Run the shot again; the frames beside it are still good.");
  for (const Json& f : j["frames"]) {
    Json all;
    const auto take = [&](const auto& columns) {
      for (const auto& c : columns) all[c.name] = f.is_object() && f.contains(c.name) ? f[c.name] : Json(0);
    };
    take(first_columns), take(flow_columns), take(last_columns);
    all["id"] = "";
    put_record(run, record_from_json(all, where));
  }
}

}  // namespace

Run load_run(const fs::path& named) {
  Run run;
  run.folder = true_path(named);
  const fs::path file = run.folder / "run.json";
  const std::string where = file.string();
  std::error_code error;
  if (!is_there(file) && fs::is_directory(run.folder, error))
    throw shot_fault(run.folder.string(), "is not a run folder: it has no run.json that can be seen.",
                     "Name a folder like NAME.runs/001.");
  Json j = parse_json(read_whole(file), where, "a readable record of a run",
                      "Restore it from a copy, or run the shot again.");
  if (!j.is_object() || !j.contains("easy_pour_run"))
    throw shot_fault(where, "is no record of a run.", "Name a folder like NAME.runs/001.");
  const int version = whole_in(j, "easy_pour_run", 0, 1000000, where);
  if (version < 1 || version > run_version)
    throw shot_fault(where, "is from another version of Easy Pour.", "Run the shot again.");
  if (version > 1) {
    j = unsealed(std::move(j), where);
  } else {
    for (const char* later : {"made", "shot_file", "message"})
      if (!j.contains(later)) j[later] = "";
  }
  const std::string state = text_in(j, "state", where);
  const auto known = std::find(std::begin(state_names), std::end(state_names), state);
  if (known == std::end(state_names))
    throw shot_fault(where, "has an unknown state.", "Restore it from a copy.");
  run.state = RunState(known - std::begin(state_names));
  run.program = text_in(j, "program", where), run.made = text_in(j, "made", where);
  run.shot_file = fs::path(text_in(j, "shot_file", where)).filename().string(),
  run.message = text_in(j, "message", where);
  run.cell_size = number_in(j, "cell_size", 0, 100, where);
  if (run.cell_size != 0) run.cell_size = number_in(j, "cell_size", 1e-5, 100, where);
  run.first_frame = whole_in(j, "first_frame", 1, most_frames, where);
  run.last_frame = whole_in(j, "last_frame", run.first_frame, most_frames, where);
  if (j.contains("start")) {
    const Json& start = j["start"];
    run.start = {text_in(start, "run", where), whole_in(start, "frame", 1, most_frames, where)};
    if (!whole_number(run.start.run, 1, 999999999))
      throw shot_fault(where, "goes on from a run that has no number.", "Restore it from a copy.");
  }
  run.seconds = number_in(j, "seconds", 0, most, where);
  if (!j.contains("shot")) throw shot_fault(where, "holds no shot.", "Restore it from a copy.");
  run.shot = shot_from_json(j["shot"], where);
  if (version > 1)
    load_records(run);
  else
    load_version_1(run, j, where);
  look_for_frames(run);
  return run;
}

void put_record(Run& run, const FrameRecord& r) {
  const auto at = std::lower_bound(run.frames.begin(), run.frames.end(), r.frame,
                                   [](const FrameRecord& a, int f) { return a.frame < f; });
  if (at != run.frames.end() && at->frame == r.frame)
    *at = r;
  else
    run.frames.insert(at, r);
}

static std::string record_line(const Run& run, const FrameRecord& r) {
  Json j = record_as_json(r);
  j["run"] = run.made;
  return one_line(sealed(j)) + "\n";
}

void store_record(const Run& run, const FrameRecord& r) {
  append_whole(run.folder / "frames.jsonl", record_line(run, r));
}

void mend_records(const Run& run) {
  std::string all;
  for (const FrameRecord& r : run.frames) all += record_line(run, r);
  write_whole(run.folder / "frames.jsonl", all);
}

void look_for_frames(Run& run) {
  run.stored.clear();
  std::error_code error;  // a folder that can't be seen holds nothing that can be shown
  for (fs::directory_iterator i(run.folder / "frames", error), end; !error && i != end; i.increment(error))
    if (i->path().extension() == ".vdb")
      if (const auto n = whole_number(i->path().stem().string(), 1, most_frames)) run.stored.insert(int(*n));
}

RunList list_runs(const fs::path& shot_file) { return runs_in(runs_folder(shot_file)); }

RunList runs_in(const fs::path& all) {
  RunList out;
  each_entry(all, [&](const fs::path& folder) {
    if (!number_of(folder) && !is_there(folder / "run.json")) return;  // somebody's own
    if (folder.filename().string().starts_with(".")) return;
    try {
      out.runs.push_back(load_run(folder));
    } catch (...) {
      out.bad.push_back({folder, number_of(folder), fault_in_flight(folder.string()).what()});
    }
  });
  std::sort(out.runs.begin(), out.runs.end(), [](const Run& a, const Run& b) {
    return std::pair(a.number(), a.name()) > std::pair(b.number(), b.name());
  });
  std::sort(out.bad.begin(), out.bad.end(), [](const BadRun& a, const BadRun& b) {
    return std::pair(a.number, a.folder) > std::pair(b.number, b.folder);
  });
  return out;
}

std::vector<int> missing_frames(const Run& run, const FrameRange& range) {
  std::vector<uint8_t> missing(size_t(range.last - range.first + 1));
  parallel_for(
      missing.size(),
      [&](size_t i) {
        const int f = range.first + int(i);
        missing[i] = !run.record(f) || !is_whole_frame(run.stored_frame(f));
      },
      1);
  std::vector<int> out;
  for (size_t i = 0; i < missing.size(); ++i)
    if (missing[i]) out.push_back(range.first + int(i));
  return out;
}

std::string frames_in_words(const std::vector<int>& frames) {
  constexpr size_t most_spans = 4;
  std::string out;
  size_t spans = 0, i = 0;
  for (; i < frames.size() && spans < most_spans; ++spans) {
    size_t end = i;
    while (end + 1 < frames.size() && frames[end + 1] == frames[end] + 1) ++end;
    out += (out.empty() ? "" : ", ") + std::to_string(frames[i]);
    if (end > i) out += "-" + std::to_string(frames[end]);
    i = end + 1;
  }
  return i < frames.size() ? filled("{out} and {frames} more",
                                    {{"out", out}, {"frames", std::to_string(frames.size() - i)}})
                           : out;
}

bool is_unfinished(const Run& run) {
  if (run.state != RunState::done) return true;
  for (int f = run.first_frame; f <= run.last_frame; ++f)
    if (!run.record(f) || !run.has_frame(f)) return true;
  return false;
}

namespace {

template <class R, size_t n>
void put_columns(Json& j, const Column<R> (&columns)[n], const R& r) {
  for (const auto& c : columns)
    if (c.whole)
      j[c.name] = int(c.get(r));
    else
      j[c.name] = c.get(r);
}

template <class R, size_t n>
void take_columns(const Json& j, const Column<R> (&columns)[n], R& r, const std::string& where) {
  for (const auto& c : columns)
    c.set(r, c.whole ? whole_in(j, c.name, 0, std::numeric_limits<int>::max(), where)
                     : number_in(j, c.name, -most, most, where));
}

template <class R, size_t n>
void add_to_line(std::string& line, const Column<R> (&columns)[n], const R& r) {
  for (const auto& c : columns) {
    char b[40];
    std::snprintf(b, sizeof b, "%.9g", c.get(r));
    line += (line.empty() ? "" : ",") + std::string(b);
  }
}

}  // namespace

Json record_as_json(const FrameRecord& r) {
  Json j;
  put_columns(j, first_columns, r);
  j["flows"] = Json::object();
  for (const FlowRecord& f : r.flows) put_columns(j["flows"][f.name], flow_columns, f);
  put_columns(j, last_columns, r);
  j["id"] = r.id;
  return j;
}

FrameRecord record_from_json(const Json& j, const std::string& where) {
  FrameRecord r;
  take_columns(j, first_columns, r, where);
  take_columns(j, last_columns, r, where);
  if (r.frame < 1 || r.frame > most_frames)
    throw shot_fault(where, filled("has a record of frame {frame}.", {{"frame", std::to_string(r.frame)}}),
                     "Restore it from a copy.");
  r.id = text_in(j, "id", where);
  const auto take_flow = [&](const std::string& name, const Json& of) {
    FlowRecord f;
    f.name = name;
    Json whole = of;
    if (whole.is_object() && !whole.contains("drops")) whole["drops"] = 0;  // before there was liquid
    take_columns(whole, flow_columns, f, where);
    r.flows.push_back(std::move(f));
  };
  const auto flows = j.find("flows");
  if (flows == j.end()) {
    take_flow("smoke", j);  // as it was when smoke was all that flows
    return r;
  }
  if (!flows->is_object()) throw shot_fault(where, "has “flows” that are none.", "Restore it from a copy.");
  for (const auto& [name, of] : flows->items()) take_flow(name, of);
  return r;
}

FrameRecord record_from_text(const std::string& text, const std::string& where) {
  return record_from_json(parse_json(text, where, "a readable record of a frame"), where);
}

std::string measure_table(const Run& run) {
  std::vector<std::string> flows;
  for (const FrameRecord& r : run.frames)
    for (const FlowRecord& f : r.flows)
      if (std::find(flows.begin(), flows.end(), f.name) == flows.end()) flows.push_back(f.name);
  if (flows.empty()) flows.push_back("smoke");
  std::string out;
  for (const auto& c : first_columns) out += (out.empty() ? "" : ",") + std::string(c.name);
  for (const std::string& flow : flows)
    for (const auto& c : flow_columns) out += "," + (flows.size() > 1 ? flow + "_" : "") + c.name;
  for (const auto& c : last_columns) out += "," + std::string(c.name);
  out += '\n';
  for (const FrameRecord& r : run.frames) {
    std::string line;
    add_to_line(line, first_columns, r);
    for (const std::string& flow : flows) add_to_line(line, flow_columns, r.flow(flow));
    add_to_line(line, last_columns, r);
    out += line + '\n';
  }
  return out;
}

}  // namespace pour
