// A run on disk, readable by anybody:
//
//   NAME.runs/001/run.json          the shot it was made from, versions, timings, a record for each frame
//   NAME.runs/001/frames/000001.vdb
//   NAME.runs/001/checkpoint        the last state in full precision
#pragma once
#include <filesystem>
#include <string>
#include <vector>

#include "gas/gas.h"
#include "shot/shot.h"

namespace pour {

struct FrameRecord {
  int frame = 0;
  double time = 0, cells = 0, particles = 0;
  Ledger ledger;
  Vec3d centroid;
  double max_speed = 0, kinetic_energy = 0, max_divergence = 0;
  int solver_iterations = 0, substeps = 0;
  double wall = 0, peak_rss = 0;  // s; bytes
};

enum class RunState { running, done, stopped, failed };

/// What a run showed of this machine and of its smoke; zero where nothing was measured.
struct Pace {
  double seconds_per_cell = 0;  // of one step
  double speed = 0;             // of the fastest smoke, on average, m/s
};

struct Run {
  std::filesystem::path folder;
  Shot shot;
  double cell_size = 0;
  int first_frame = 1, last_frame = 1;  // that are kept
  RunState state = RunState::running;
  std::string message;  // of a run that failed
  std::vector<FrameRecord> frames;
  double seconds = 0;  // of computing so far

  std::filesystem::path frame_file(int frame) const;
  bool has_frame(int frame) const;
  /// The last one that is finished, or 0.
  int newest_frame() const { return frames.empty() ? 0 : frames.back().frame; }
  std::string name() const { return folder.filename().string(); }
  /// What a person calls it: 2 for the folder 002; 0 for a folder that is no number.
  int number() const;
  Pace pace() const;
};

/// NAME.runs beside NAME.pour.
std::filesystem::path runs_folder(const std::filesystem::path& shot_file);
/// The folder after all numbered ones in NAME.runs; it is not made.
std::filesystem::path next_run_folder(const std::filesystem::path& runs);
/// A new, empty run, numbered after all that are there. Throws Fault (Blame::machine) where the folder can't
/// be made.
Run create_run(const std::filesystem::path& shot_file, const Shot&);
/// Throws Fault (Blame::shot) for what is not a run folder.
Run load_run(const std::filesystem::path& folder);
void save_run(const Run&);
/// All readable runs of a shot, the newest first.
std::vector<Run> list_runs(const std::filesystem::path& shot_file);

/// A comma-separated table, a line for each frame.
std::string measure_table(const Run&);

/// A state in full precision; a run that goes on from it continues to the bit.
void write_checkpoint(const Run&, const GasState&, const Ledger&, int frame);
struct Checkpoint {
  GasState state;  // without geometry, which follows from the shot
  Ledger ledger;
  int frame = 0;
};
bool has_checkpoint(const Run&);
/// Throws Fault (Blame::shot) for a file that is torn or from another version.
Checkpoint read_checkpoint(const Run&);

}  // namespace pour
