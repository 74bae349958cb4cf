#include "deliver/unfinished.h"

#include "base/error.h"
#include "base/file.h"

namespace pour {

Unfinished::Unfinished(const fs::path& picture, std::string inputs)
    : file_(picture.parent_path() / ("." + picture.filename().string() + ".part")),
      inputs_(std::move(inputs)) {}

void Unfinished::give_back(PathTracer& tracer) const {
  if (!is_there(file_)) return;
  try {
    const std::string all = read_whole(file_);
    const size_t head = inputs_.size() + 17;  // with the checksum of what follows
    if (all.size() < head + 16 || all.compare(0, inputs_.size(), inputs_) != 0) return;
    const std::string paths = all.substr(head);
    if (all.substr(inputs_.size() + 1, 16) == in_digits(checksum(paths))) tracer.set_paths(paths);
  } catch (const Fault&) {  // then it begins anew
  }
}

void Unfinished::keep(const PathTracer& tracer) const noexcept {
  if (tracer.samples() == 0) return;
  try {
    const std::string paths = tracer.paths();
    write_whole(file_, {inputs_, " ", in_digits(checksum(paths)), paths});
  } catch (...) {
  }
}

void Unfinished::remove() const noexcept {
  std::error_code gone;
  fs::remove(file_, gone);
}

}  // namespace pour
