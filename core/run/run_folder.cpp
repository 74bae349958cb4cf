#include "run/run_folder.h"

#include <algorithm>
#include <charconv>
#include <cstdio>
#include <cstring>
#include <fstream>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/file.h"
#include "shot/shot_file.h"

namespace pour {
namespace {

using json = nlohmann::ordered_json;
constexpr int run_version = 1;
constexpr const char* state_names[] = {"running", "done", "stopped", "failed"};
constexpr char checkpoint_magic[] = "easy-pour checkpoint 2\n";

// The one list of what a frame's record holds: the columns of the table and the keys in run.json.
struct Column {
  const char* name;
  double (*get)(const FrameRecord&);
  void (*set)(FrameRecord&, double);
};
#define COLUMN(name, member)                                               \
  {                                                                        \
    name, [](const FrameRecord& r) { return double(r.member); },           \
        [](FrameRecord& r, double v) { r.member = decltype(r.member)(v); } \
  }
constexpr Column columns[] = {
    COLUMN("frame", frame),
    COLUMN("time_s", time),
    COLUMN("cells", cells),
    COLUMN("particles", particles),
    COLUMN("poured", ledger.poured),
    COLUMN("decayed", ledger.decayed),
    COLUMN("drained", ledger.drained),
    COLUMN("left", ledger.left),
    COLUMN("numeric", ledger.numeric),
    COLUMN("in_shot", ledger.in_shot),
    COLUMN("centroid_x", centroid.x),
    COLUMN("centroid_y", centroid.y),
    COLUMN("centroid_z", centroid.z),
    COLUMN("max_speed", max_speed),
    COLUMN("kinetic_energy", kinetic_energy),
    COLUMN("max_divergence", max_divergence),
    COLUMN("solver_iterations", solver_iterations),
    COLUMN("substeps", substeps),
    COLUMN("wall_s", wall),
    COLUMN("peak_rss", peak_rss),
};
#undef COLUMN

auto fields(GasState& s) {
  return std::array<Floats*, 9>{&s.u,   &s.v,     &s.w,    &s.density, &s.heat,
                                &s.red, &s.green, &s.blue, &s.pressure};
}
constexpr size_t block_bytes = block_cells * sizeof(float);

template <class T>
std::string_view bytes_of(const std::vector<T>& v) {
  return {reinterpret_cast<const char*>(v.data()), v.size() * sizeof(T)};
}

}  // namespace

fs::path Run::frame_file(int frame) const {
  char name[32];
  std::snprintf(name, sizeof name, "%06d.vdb", frame);
  return folder / "frames" / name;
}

bool Run::has_frame(int frame) const {
  std::error_code ignored;
  return fs::exists(frame_file(frame), ignored);
}

Pace Run::pace() const {
  double wall = 0, work = 0, speed = 0;
  for (const FrameRecord& r : frames)
    wall += r.wall, work += r.cells * r.substeps, speed += r.max_speed / double(frames.size());
  return work > 1e5 ? Pace{wall / work, speed} : Pace{};
}

fs::path runs_folder(const fs::path& shot_file) {
  fs::path p = shot_file;
  return p.replace_extension(".runs");
}

// At most nine digits and nothing else, so that a folder of somebody's own is not taken for one.
static int number_of(const fs::path& folder) {
  const std::string name = folder.filename().string();
  int n = 0;
  const auto [end, error] = std::from_chars(name.data(), name.data() + name.size(), n);
  return error == std::errc() && end == name.data() + name.size() && name.size() <= 9 && n > 0 ? n : 0;
}

int Run::number() const { return number_of(folder); }

fs::path next_run_folder(const fs::path& runs) {
  int highest = 0;  // a number that was deleted is not given to a newer run
  std::error_code none;
  for (const fs::directory_entry& e : fs::directory_iterator(runs, none))
    highest = std::max(highest, number_of(e.path()));
  char name[16];
  std::snprintf(name, sizeof name, "%03d", highest + 1);
  return runs / name;
}

Run create_run(const fs::path& shot_file, const Shot& shot) {
  const fs::path all = runs_folder(shot_file);
  std::error_code error;
  fs::create_directories(all, error);
  Run run;
  for (int tries = 0; !error && tries < 100; ++tries) {  // another program may be as quick
    const fs::path folder = next_run_folder(all);
    if (fs::create_directory(folder, error)) {
      run.folder = folder;
      fs::create_directory(run.folder / "frames", error);
      break;
    }
  }
  if (error || run.folder.empty())
    throw machine_fault(
        all.string(),
        "a run can't be stored here: " + (error ? error.message() : std::string("no free name")) + ".",
        "Save the shot in a folder that you may write to.");
  run.shot = shot;
  return run;
}

void save_run(const Run& run) {
  json j;
  j["easy_pour_run"] = run_version;
  j["program"] = "0.1.0";
  j["state"] = state_names[int(run.state)];
  if (!run.message.empty()) j["message"] = run.message;
  j["cell_size"] = run.cell_size;
  j["first_frame"] = run.first_frame, j["last_frame"] = run.last_frame;
  j["seconds"] = run.seconds;
  j["shot"] = json::parse(shot_to_json(run.shot));
  j["frames"] = json::array();
  for (const FrameRecord& r : run.frames) {
    json f;
    for (const Column& c : columns) f[c.name] = c.get(r);
    j["frames"].push_back(std::move(f));
  }
  write_whole(run.folder / "run.json", j.dump(1) + "\n");
}

Run load_run(const fs::path& folder) {
  const fs::path file = folder / "run.json";
  if (!fs::exists(file))
    throw shot_fault(folder.string(), "is not a run folder: it has no run.json.",
                     "Name a folder such as NAME.runs/001.");
  Run run;
  run.folder = folder;
  try {
    const json j = json::parse(read_whole(file));
    if (j.value("easy_pour_run", 0) != run_version)
      throw shot_fault(file.string(), "is from another version of Easy Pour.", "Run the shot again.");
    const std::string state = j.value("state", "stopped");
    for (int i = 0; i < 4; ++i)
      if (state == state_names[i]) run.state = RunState(i);
    run.message = j.value("message", "");
    run.cell_size = j.value("cell_size", 0.0);
    run.first_frame = j.value("first_frame", 1), run.last_frame = j.value("last_frame", 1);
    run.seconds = j.value("seconds", 0.0);
    run.shot = shot_from_json(j.at("shot").dump(), file.string());
    for (const json& f : j.at("frames")) {
      FrameRecord r;
      for (const Column& c : columns) c.set(r, f.value(c.name, 0.0));
      run.frames.push_back(r);
    }
  } catch (const json::exception& e) {
    throw shot_fault(file.string(), "is garbled.",
                     "Run the shot again; the frames beside it are still good.");
  }
  return run;
}

std::vector<Run> list_runs(const fs::path& shot_file) {
  std::vector<Run> out;
  std::error_code error;
  for (const auto& entry : fs::directory_iterator(runs_folder(shot_file), error)) {
    if (!fs::exists(entry.path() / "run.json")) continue;
    try {
      out.push_back(load_run(entry.path()));
    } catch (const Fault&) {  // a garbled run does not hide the others
    }
  }
  std::sort(out.begin(), out.end(), [](const Run& a, const Run& b) {
    return std::pair(a.number(), a.name()) > std::pair(b.number(), b.name());
  });
  return out;
}

std::string measure_table(const Run& run) {
  std::string out;
  for (const Column& c : columns) out += (out.empty() ? "" : ",") + std::string(c.name);
  out += '\n';
  for (const FrameRecord& r : run.frames) {
    std::string line;
    for (const Column& c : columns) {
      char b[40];
      std::snprintf(b, sizeof b, "%.9g", c.get(r));
      line += (line.empty() ? "" : ",") + std::string(b);
    }
    out += line + '\n';
  }
  return out;
}

void write_checkpoint(const Run& run, const GasState& state, const Ledger& ledger, int frame) {
  std::string head;
  const auto put = [&](const void* p, size_t n) { head.append(static_cast<const char*>(p), n); };
  auto& s = const_cast<GasState&>(state);
  const int blocks = s.grid.blocks();
  put(&frame, sizeof frame), put(&s.time, sizeof s.time), put(&ledger, sizeof ledger),
      put(&blocks, sizeof blocks);
  for (const BlockKey& k : s.grid.keys()) put(&k, sizeof k);
  std::vector<std::string_view> pieces{checkpoint_magic, {}, head};
  std::vector<uint64_t> sums{checksum(head)};
  if (blocks)
    for (const Floats* f : fields(s)) {
      pieces.push_back({reinterpret_cast<const char*>(f->block(first_block)), size_t(blocks) * block_bytes});
      sums.push_back(checksum(pieces.back()));
    }
  const uint64_t sum = checksum(bytes_of(sums));
  pieces[1] = {reinterpret_cast<const char*>(&sum), sizeof sum};
  write_whole(run.folder / "checkpoint", pieces);
}

bool has_checkpoint(const Run& run) { return fs::exists(run.folder / "checkpoint"); }

Checkpoint read_checkpoint(const Run& run) {
  const fs::path file = run.folder / "checkpoint";
  const auto torn = [&] {
    return shot_fault(file.string(), "is torn.", "Start a new run; the frames that are there stay.");
  };
  std::error_code error;
  size_t rest = fs::file_size(file, error);
  std::ifstream in(file, std::ios::binary);
  if (error || !in) throw torn();
  const auto get = [&](void* p, size_t n) {
    if (n > rest || !in.read(static_cast<char*>(p), std::streamsize(n))) throw torn();
    rest -= n;
  };
  std::string magic(sizeof checkpoint_magic - 1, ' ');
  uint64_t sum = 0;
  get(magic.data(), magic.size()), get(&sum, sizeof sum);
  if (magic != checkpoint_magic) throw torn();
  Checkpoint c;
  int blocks = 0;
  std::string head(sizeof c.frame + sizeof c.state.time + sizeof c.ledger + sizeof blocks, ' ');
  get(head.data(), head.size());
  const char* at = head.data();
  const auto take = [&](void* p, size_t n) { std::memcpy(p, at, n), at += n; };
  take(&c.frame, sizeof c.frame), take(&c.state.time, sizeof c.state.time), take(&c.ledger, sizeof c.ledger),
      take(&blocks, sizeof blocks);
  const auto of_fields = fields(c.state);
  if (blocks < 0 || rest != size_t(blocks) * (sizeof(BlockKey) + of_fields.size() * block_bytes))
    throw torn();
  std::vector<BlockKey> keys(static_cast<size_t>(blocks));
  get(keys.data(), keys.size() * sizeof(BlockKey));
  head.append(bytes_of(keys));
  std::vector<uint64_t> sums{checksum(head)};
  // What lies outside the grid is settled when the region is next updated with the world at hand.
  c.state.grid = BlockGrid(std::move(keys), [](const BlockKey&) { return int(outside_open); });
  for (Floats* f : of_fields) {
    f->resize(c.state.grid.size(), unset);
    if (!blocks) continue;
    get(f->block(first_block), size_t(blocks) * block_bytes);
    sums.push_back(
        checksum({reinterpret_cast<const char*>(f->block(first_block)), size_t(blocks) * block_bytes}));
  }
  if (sum != checksum(bytes_of(sums))) throw torn();
  return c;
}

}  // namespace pour
