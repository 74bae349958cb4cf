#include "run/checkpoint.h"

#include "base/error.h"
#include "base/file.h"
#include "shot/clock.h"
#include "shot/compare.h"
#include "shot/shot_file.h"

namespace pour {
namespace {

constexpr char checkpoint_magic[] = "easy-pour checkpoint 7\n";

/// Tells one computation from another.
uint64_t mark_of(const Run& run) {
  const std::string text = shot_to_json(seen_as(run.shot, Shot())) + run.program + "\n" +
                           std::string(reinterpret_cast<const char*>(&run.cell_size), sizeof run.cell_size);
  return checksum(text);
}

uint64_t sum_of(const std::vector<uint64_t>& sums) {
  return checksum({reinterpret_cast<const char*>(sums.data()), sums.size() * sizeof(uint64_t)});
}

}  // namespace

void CheckpointWriter::put_all(const void* data, size_t bytes) {
  pieces_.push_back({small_.size(), {static_cast<const char*>(data), bytes}});
}

void write_checkpoint(const Run& run, int frame, const std::vector<std::unique_ptr<Flow>>& flows) {
  CheckpointWriter out;
  out.put(mark_of(run)), out.put(frame), out.put(int(flows.size()));
  for (const auto& flow : flows) flow->save(out);
  std::vector<std::string_view> parts{checkpoint_magic, {}};
  std::vector<uint64_t> sums;
  size_t from = 0;
  for (const auto& piece : out.pieces_) {
    parts.push_back(std::string_view(out.small_).substr(from, piece.small_end - from));
    parts.push_back(piece.large), sums.push_back(checksum(piece.large));
    from = piece.small_end;
  }
  parts.push_back(std::string_view(out.small_).substr(from));
  sums.push_back(checksum(out.small_));
  const uint64_t sum = sum_of(sums);
  parts[1] = {reinterpret_cast<const char*>(&sum), sizeof sum};
  write_whole(run.folder / "checkpoint", parts);
}

bool has_checkpoint(const Run& run) { return is_there(run.folder / "checkpoint"); }

CheckpointReader::CheckpointReader(const fs::path& file) : file_(file), in_(file, std::ios::binary) {
  std::error_code error;
  rest_ = fs::file_size(file, error);
  if (error || !in_) throw unfit("is torn.");
}

Fault CheckpointReader::unfit(const std::string& why) const {
  return shot_fault(file_.string(), why, "The run is computed from its first frame.");
}

void CheckpointReader::get(void* p, size_t n) {
  expect(double(n));
  if (!in_.read(static_cast<char*>(p), std::streamsize(n))) throw unfit("is torn.");
  rest_ -= n;
}

void CheckpointReader::take_all(void* data, size_t bytes) {
  get(data, bytes);
  sums_.push_back(checksum({static_cast<const char*>(data), bytes}));
}

void CheckpointReader::expect(double bytes) const {
  if (!(bytes >= 0) || bytes > double(rest_)) throw unfit("is torn.");
}

uint64_t CheckpointReader::sum() {
  sums_.push_back(checksum(small_));
  return sum_of(sums_);
}

int read_checkpoint(const Run& run, const std::vector<std::unique_ptr<Flow>>& flows) {
  CheckpointReader in(run.folder / "checkpoint");
  std::string magic(sizeof checkpoint_magic - 1, ' ');
  uint64_t sum = 0, mark = 0;
  in.get(magic.data(), magic.size()), in.get(&sum, sizeof sum);
  if (magic != checkpoint_magic) throw in.unfit("is torn, or from another version of Easy Pour.");
  int frame = 0, count = 0;
  in.take(mark), in.take(frame), in.take(count);
  if (mark != mark_of(run)) throw in.unfit("is torn, or belongs to another run.");
  if (count != int(flows.size())) throw in.unfit("is torn.");
  for (const auto& flow : flows) flow->restore(in);
  if (in.rest_ || in.sum() != sum) throw in.unfit("is torn.");
  for (const auto& flow : flows) {
    // Half a step is more than rounding makes of the time, and less than a step.
    const double at = Clock(run.shot).film_frame(flow->time());
    if (frame < 1 || frame > run.last_frame || at < frame - 1e-6 || at > frame + 1 + 1e-6)
      throw in.unfit("is of another frame than it says.");
  }
  for (const auto& flow : flows) flow->revive();
  return frame;
}

}  // namespace pour
