// The lock of a run folder: one writing process at a time.
#pragma once
#include <filesystem>
#include <optional>
#include <string>

namespace pour {

struct RunWriter {
  int process = 0;      // 0: unknown
  std::string machine;  // host name
};

/// Locks a run folder for its lifetime; the system releases it when the process ends. Throws Fault
/// (Blame::machine) that names the process holding it.
class RunLock {
 public:
  explicit RunLock(const std::filesystem::path& folder);
  ~RunLock();
  RunLock(const RunLock&) = delete;
  RunLock& operator=(const RunLock&) = delete;

 private:
  int fd_ = -1;
};

/// The process that is writing to a run, if any.
std::optional<RunWriter> writer_of(const std::filesystem::path& folder);
/// Asks it to stop with a checkpoint; false if that is not possible from here.
bool ask_to_stop(const RunWriter&);

}  // namespace pour
