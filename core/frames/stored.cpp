#include "frames/stored.h"

#include <sys/mman.h>
#include <unistd.h>

#include <algorithm>
#include <cstdio>

#include "base/file.h"
#include "base/text.h"

namespace pour {
namespace {

// OpenVDB marks each file with a random id. Ours is made from the contents: equal frames are equal to the
// byte, and a torn file is known before it is parsed.
constexpr size_t id_at = 8 + 3 * 4 + 1, id_length = 36;
constexpr const char* id_mark = "-4ea5-8001-";

std::string id_for(std::string_view bytes) {
  const uint64_t parts[2] = {checksum(bytes.substr(0, id_at)), checksum(bytes.substr(id_at + id_length))};
  const uint64_t sum = checksum({reinterpret_cast<const char*>(parts), sizeof parts});
  char id[64];
  std::snprintf(id, sizeof id, "%08x-%04x%s%012x", unsigned(sum >> 32), unsigned(sum >> 16 & 0xffff), id_mark,
                unsigned(sum & 0xffff));
  return id;
}

/// The bytes of an OpenVDB file. It is written to memory first: OpenVDB does not notice a full disk.
class FileInMemory {
 public:
  explicit FileInMemory(const std::function<void(const std::string&)>& write)
      : file_(memfd_create("frame", 0)) {
    if (file_ < 0) throw short_of_memory();
    try {
      write("/proc/self/fd/" + std::to_string(file_));
      size_ = size_t(::lseek(file_, 0, SEEK_END));
      void* all = ::mmap(nullptr, size_, PROT_READ | PROT_WRITE, MAP_SHARED, file_, 0);
      if (all == MAP_FAILED) throw short_of_memory();
      bytes_ = static_cast<char*>(all);
    } catch (...) {
      ::close(file_);
      throw;
    }
    const std::string id = id_for(bytes());
    std::copy(id.begin(), id.end(), bytes_ + id_at);
  }
  ~FileInMemory() { ::munmap(bytes_, size_), ::close(file_); }
  FileInMemory(const FileInMemory&) = delete;
  FileInMemory& operator=(const FileInMemory&) = delete;
  std::string_view bytes() const { return {bytes_, size_}; }

 private:
  static Fault short_of_memory() {
    return machine_fault("Memory", "is short: a frame can't be prepared.",
                         "Close other programs or use larger cells.");
  }
  int file_;
  char* bytes_ = nullptr;
  size_t size_ = 0;
};

/// What is wrong with the bytes of a frame, or nothing. Ids that are not of ours (another program's file) say
/// nothing.
const char* fault_of(std::string_view bytes, const StoredFrame& frame) {
  if (bytes.size() < id_at + id_length) return "it breaks off";
  const std::string_view id = bytes.substr(id_at, id_length);
  if (!frame.id.empty() && id != frame.id) return "it is not the one that the run recorded";
  if (id.find(id_mark) != std::string_view::npos && id != id_for(bytes))
    return "it breaks off or was changed";
  return nullptr;
}

constexpr size_t most_bytes = size_t(64) << 30;  // of a frame

}  // namespace

bool is_whole_frame(const StoredFrame& frame) {
  try {
    return !fault_of(read_whole(frame.file, most_bytes), frame);
  } catch (...) {
    return false;
  }
}

constexpr const char* compute_again = "Compute it again with “resume”, or run the shot anew.";

Fault torn_frame(const fs::path& file, const std::string& why) {
  return shot_fault(file.string(), filled("can't be read as a frame: {why}.", {{"why", why}}), compute_again);
}

void check_frame(const StoredFrame& frame) {
  if (!is_there(frame.file)) throw shot_fault(frame.file.string(), "is missing.", compute_again);
  if (const char* why = fault_of(read_whole(frame.file, most_bytes), frame))
    throw torn_frame(frame.file, why);
}

std::string store_frame(const fs::path& file, const std::function<void(const std::string&)>& write) {
  const FileInMemory out(write);
  write_whole(file, out.bytes());
  return std::string(out.bytes().substr(id_at, id_length));
}

}  // namespace pour
