// A run on disk, readable by anybody:
//
//   NAME.runs/001/run.json          the shot it was made from, versions and state, with a checksum
//   NAME.runs/001/frames.jsonl      a record for each frame, a line each; the last one of a frame counts
//   NAME.runs/001/frames/000001.vdb
//   NAME.runs/001/checkpoint        the last state in full precision (run/checkpoint.h)
//   NAME.runs/001/lock              held by the process that writes here (run/run_lock.h)
//   NAME.runs/.last                 the highest number that was ever given
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
  std::vector<FlowRecord> flows;  // what each of them showed
  double wall = 0, peak_rss = 0;  // s; bytes
  std::string id;                 // of the frame's file; empty where none was kept

  /// Of the flow of this name; zeros where there is none.
  const FlowRecord& flow(std::string_view name) const;
  const FlowRecord& smoke() const { return flow("smoke"); }
};

enum class RunState { running, done, stopped, failed };

/// What a run showed of this machine and of what flows; zero where nothing was measured.
struct Pace {
  double seconds_per_cell = 0;      // of one step
  double speed = 0;                 // of the fastest smoke, on average, m/s
  double seconds_per_particle = 0;  // of one step, of a run of liquid alone
  double liquid_speed = 0;          // of the fastest liquid, on average, m/s
};

/// A frame of an earlier run of the same shot that another one goes on from.
struct RunStart {
  std::string run;  // its folder's name; empty: from nothing
  int frame = 0;
};

struct Run {
  std::filesystem::path folder;
  Shot shot;
  std::string shot_file;                // its name, beside NAME.runs; empty where it is not known
  std::string program;                  // version of Easy Pour that computes it
  std::string made;                     // when, UTC; no two runs have the same
  double cell_size = 0;                 // m; 0 before the first frame
  int first_frame = 1, last_frame = 1;  // that are kept
  RunStart start;
  RunState state = RunState::running;
  std::string message;              // of a run that failed
  std::string damage;               // what of its records can't be read, or empty
  std::vector<FrameRecord> frames;  // in order; one may be missing
  std::set<int> stored;             // frames whose files were there when last looked
  double seconds = 0;               // of computing so far

  std::filesystem::path frame_file(int frame) const;
  /// What there should be of a frame, to be read with read_frame().
  StoredFrame stored_frame(int frame) const;
  bool has_frame(int frame) const { return stored.contains(frame); }
  /// The last one that is finished, or 0.
  int newest_frame() const { return frames.empty() ? 0 : frames.back().frame; }
  const FrameRecord* record(int frame) const;
  std::string name() const { return folder.filename().string(); }
  /// What a person calls it: 2 for the folder 002; 0 for a folder that is no number.
  int number() const;
  Pace pace() const;
};

/// NAME.runs beside NAME.pour.
std::filesystem::path runs_folder(const std::filesystem::path& shot_file);
/// A new, empty run of these frames, numbered after all that there ever were. Throws Fault (Blame::machine)
/// where it can't be made; then nothing is.
Run create_run(const std::filesystem::path& shot_file, const Shot&, const FrameRange& frames);
inline Run create_run(const std::filesystem::path& shot_file, const Shot& shot) {
  return create_run(shot_file, shot, {1, shot.film.frames});
}
/// Throws Fault (Blame::shot) for what is not a run folder, or one that is torn or was changed.
Run load_run(const std::filesystem::path& folder);
/// All but the records.
void save_run(const Run&);
/// Sorts a frame's record in, in the place of an older one.
void put_record(Run&, const FrameRecord&);
/// The same on disk.
void store_record(const Run&, const FrameRecord&);
/// Removes the half line at the end of the records that a writer which was killed may have left.
void mend_records(const Run&);
/// Looks which frames are there now.
void look_for_frames(Run&);

struct BadRun {
  std::filesystem::path folder;
  int number = 0;
  std::string problem;  // with what to do about it
};
struct RunList {
  std::vector<Run> runs;    // the newest first
  std::vector<BadRun> bad;  // that can't be read, the newest first
};
/// All runs of a shot. Throws Fault where NAME.runs is there but can't be looked into.
RunList list_runs(const std::filesystem::path& shot_file);
RunList runs_in(const std::filesystem::path& folder);
/// Of the newest run that has one; usual figures where none has.
Pace pace_of(const RunList&);
/// The same of the runs in the same folder.
Pace pace_beside(const Run&);

/// Those of a range whose files are missing, torn or not what the run recorded. Reads all of them.
std::vector<int> missing_frames(const Run&, const FrameRange&);
/// “3”, “3-7”, “3-7, 9 and 12 more”.
std::string frames_in_words(const std::vector<int>&);
/// Whether something of it is to be computed yet: frames that never were, or whose records or files are gone.
bool is_unfinished(const Run&);

/// A comma-separated table, a line for each frame.
std::string measure_table(const Run&);

/// A record as JSON, the same in files and in what easy-pour-cli reports.
nlohmann::ordered_json record_as_json(const FrameRecord&);
/// Throws Fault (Blame::shot) of `where` for one that lacks something or holds what can't be.
FrameRecord record_from_json(const nlohmann::ordered_json&, const std::string& where);
FrameRecord record_from_text(const std::string& json, const std::string& where);

}  // namespace pour
