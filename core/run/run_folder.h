// A run on disk, readable by anybody:
//
//   NAME.runs/001/run.json          the shot, versions and state, with a checksum
//   NAME.runs/001/frames.jsonl      a record for each frame, one a line; the last one for a frame counts
//   NAME.runs/001/frames/000001.vdb
//   NAME.runs/001/checkpoint        the last state in full precision (run/checkpoint.h)
//   NAME.runs/001/lock              held by the process that writes here (run/run_lock.h)
//   NAME.runs/.last                 the highest number ever given
#pragma once
#include <filesystem>
#include <nlohmann/json_fwd.hpp>
#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "frames/smoke_frame.h"
#include "gas/gas.h"
#include "run/flow.h"
#include "shot/shot.h"

namespace pour {

struct FrameRecord {
  int frame = 0;
  double time = 0;                // s
  std::vector<FlowRecord> flows;  // measurements of each flow
  double wall = 0, peak_rss = 0;  // s; bytes
  std::string id;                 // of the frame's file; empty: no file

  /// The record of a flow; zeros if there is none.
  const FlowRecord& flow(std::string_view name) const;
  const FlowRecord& smoke() const { return flow("smoke"); }
};

enum class RunState { running, done, stopped, failed };

/// Measured speed of this machine and of the fluid; zero: not measured.
struct Pace {
  double seconds_per_cell = 0;      // of one step
  double speed = 0;                 // of the fastest smoke, on average, m/s
  double seconds_per_particle = 0;  // of one step, from runs of liquid only
  double liquid_speed = 0;          // of the fastest liquid, on average, m/s
};

/// The frame of an earlier run of the shot from which a run continues.
struct RunStart {
  std::string run;  // folder name; empty: starts anew
  int frame = 0;
};

struct Run {
  std::filesystem::path folder;
  Shot shot;
  std::string shot_file;                // file name beside NAME.runs; empty: unknown
  std::string program;                  // version of Easy Pour
  std::string made;                     // time of creation, UTC; unique
  double cell_size = 0;                 // m; 0 before the first frame
  int first_frame = 1, last_frame = 1;  // frames that are stored
  RunStart start;
  RunState state = RunState::running;
  std::string message;              // if the run failed
  std::string damage;               // unreadable records, or empty
  std::vector<FrameRecord> frames;  // in order; may have gaps
  std::set<int> stored;             // frames whose files existed at the last look
  double seconds = 0;               // of computing so far

  std::filesystem::path frame_file(int frame) const;
  /// The expected file of a frame, for read_frame().
  StoredFrame stored_frame(int frame) const;
  bool has_frame(int frame) const { return stored.contains(frame); }
  /// The last finished frame, or 0.
  int newest_frame() const { return frames.empty() ? 0 : frames.back().frame; }
  const FrameRecord* record(int frame) const;
  std::string name() const { return folder.filename().string(); }
  /// Its number for people: 2 for the folder 002; 0 if the folder name is not a number.
  int number() const;
  Pace pace() const;
};

/// NAME.runs beside NAME.pour.
std::filesystem::path runs_folder(const std::filesystem::path& shot_file);
/// Creates an empty run of these frames, with the next unused number. Throws Fault (Blame::machine) if it
/// cannot be created, and leaves nothing behind.
Run create_run(const std::filesystem::path& shot_file, const Shot&, const FrameRange& frames);
inline Run create_run(const std::filesystem::path& shot_file, const Shot& shot) {
  return create_run(shot_file, shot, {1, shot.film.frames});
}
/// Throws Fault (Blame::shot) if it is not a run folder, or damaged, or changed.
Run load_run(const std::filesystem::path& folder);
/// Saves everything except the records.
void save_run(const Run&);
/// Inserts a frame's record, replacing an older one.
void put_record(Run&, const FrameRecord&);
/// Appends a frame's record on disk.
void store_record(const Run&, const FrameRecord&);
/// Removes an incomplete last line that a killed writer may have left in the records.
void mend_records(const Run&);
/// Updates which frames are stored.
void look_for_frames(Run&);

struct BadRun {
  std::filesystem::path folder;
  int number = 0;
  std::string problem;  // with advice
};
struct RunList {
  std::vector<Run> runs;    // the newest first
  std::vector<BadRun> bad;  // unreadable, the newest first
};
/// All runs of a shot. Throws Fault if NAME.runs exists but cannot be read.
RunList list_runs(const std::filesystem::path& shot_file);
RunList runs_in(const std::filesystem::path& folder);
/// The pace of the newest run that has one, or typical figures.
Pace pace_of(const RunList&);
/// The pace from the runs in the folder of `run`.
Pace pace_beside(const Run&);

/// Frames of a range whose files are missing, damaged or not as recorded. Reads all of them.
std::vector<int> missing_frames(const Run&, const FrameRange&);
/// “3”, “3-7”, “3-7, 9 and 12 more”.
std::string frames_in_words(const std::vector<int>&);
/// Whether frames are missing: never computed, or their records or files are gone.
bool is_unfinished(const Run&);

/// A comma-separated table, one line a frame.
std::string measure_table(const Run&);

/// A record as JSON, in files and in reports of easy-pour-cli.
nlohmann::ordered_json record_as_json(const FrameRecord&);
/// Throws Fault (Blame::shot) naming `where` for missing or impossible values.
FrameRecord record_from_json(const nlohmann::ordered_json&, const std::string& where);
FrameRecord record_from_text(const std::string& json, const std::string& where);

}  // namespace pour
