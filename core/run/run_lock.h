// Who writes to a run: one process at a time.
#pragma once
#include <filesystem>
#include <optional>
#include <string>

namespace pour {

struct RunWriter {
  int process = 0;      // 0 where it is not known
  std::string machine;  // that it runs on
};

/// Holds a run folder for this process as long as it lives; the system frees it when the process ends,
/// however it ends. Throws Fault (Blame::machine) naming the process that holds it already.
class RunLock {
 public:
  explicit RunLock(const std::filesystem::path& folder);
  ~RunLock();
  RunLock(const RunLock&) = delete;
  RunLock& operator=(const RunLock&) = delete;

 private:
  int fd_ = -1;
};

/// The process that writes to a run just now, if any.
std::optional<RunWriter> writer_of(const std::filesystem::path& folder);
/// Asks it to stop with a checkpoint; false where that can't be done from here.
bool ask_to_stop(const RunWriter&);

}  // namespace pour
