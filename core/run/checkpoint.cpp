#include "run/checkpoint.h"

#include <array>
#include <cstring>
#include <fstream>

#include "base/error.h"
#include "base/file.h"
#include "shot/clock.h"
#include "shot/compare.h"
#include "shot/shot_file.h"

namespace pour {
namespace {

constexpr char checkpoint_magic[] = "easy-pour checkpoint 3\n";

auto fields(GasState& s) {
  return std::array<Floats*, 9>{&s.u,   &s.v,     &s.w,    &s.density, &s.heat,
                                &s.red, &s.green, &s.blue, &s.pressure};
}
constexpr size_t block_bytes = block_cells * sizeof(float);

template <class T>
std::string_view bytes_of(const std::vector<T>& v) {
  return {reinterpret_cast<const char*>(v.data()), v.size() * sizeof(T)};
}

/// Tells one computation from another.
uint64_t mark_of(const Run& run) {
  const std::string text = shot_to_json(seen_as(run.shot, Shot())) + run.program + "\n" +
                           std::string(reinterpret_cast<const char*>(&run.cell_size), sizeof run.cell_size);
  return checksum(text);
}

}  // namespace

void write_checkpoint(const Run& run, const Checkpoint& c) {
  std::string head;
  const auto put = [&](const auto& value) {
    head.append(reinterpret_cast<const char*>(&value), sizeof value);
  };
  auto& s = const_cast<GasState&>(c.state);
  const int blocks = s.grid.blocks();
  put(mark_of(run)), put(c.frame), put(c.substeps), put(c.iterations), put(blocks), put(s.time),
      put(c.ledger);
  for (const BlockKey& k : s.grid.keys()) put(k);
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

bool has_checkpoint(const Run& run) { return is_there(run.folder / "checkpoint"); }

Checkpoint read_checkpoint(const Run& run) {
  const fs::path file = run.folder / "checkpoint";
  const auto unfit = [&](const std::string& why) {
    return shot_fault(file.string(), why, "The run is computed from its first frame.");
  };
  const auto torn = [&] { return unfit("is torn."); };
  std::error_code error;
  size_t rest = fs::file_size(file, error);
  std::ifstream in(file, std::ios::binary);
  if (error || !in) throw torn();
  const auto get = [&](void* p, size_t n) {
    if (n > rest || !in.read(static_cast<char*>(p), std::streamsize(n))) throw torn();
    rest -= n;
  };
  std::string magic(sizeof checkpoint_magic - 1, ' ');
  uint64_t sum = 0, mark = 0;
  get(magic.data(), magic.size()), get(&sum, sizeof sum);
  if (magic != checkpoint_magic) throw unfit("is torn, or from another version of Easy Pour.");
  Checkpoint c;
  int blocks = 0;
  std::string head;
  const auto take = [&](auto& value) {
    get(&value, sizeof value);
    head.append(reinterpret_cast<const char*>(&value), sizeof value);
  };
  take(mark), take(c.frame), take(c.substeps), take(c.iterations), take(blocks), take(c.state.time),
      take(c.ledger);
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
  if (mark != mark_of(run)) throw unfit("belongs to another run.");
  // Half a step is more than rounding makes of the time, and less than a step.
  const double frame = Clock(run.shot).film_frame(c.state.time);
  if (c.frame < 1 || c.frame > run.last_frame || frame < c.frame - 1e-6 || frame > c.frame + 1 - 1e-9)
    throw unfit("is of another frame than it says.");
  return c;
}

}  // namespace pour
