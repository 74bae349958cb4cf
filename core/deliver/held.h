// Locks on files being written, so that no second delivery writes to the same names.
#pragma once
#include <filesystem>
#include <map>
#include <vector>

namespace pour {

/// Locks names for its lifetime; the system releases them when the process ends. Names in one folder are
/// locked through one hidden file there, removed with the last lock. On disks without locks nothing is
/// locked.
class Held {
 public:
  /// Their folders must exist. Throws Fault (Blame::shot) that names a file locked by another process; then
  /// none is locked.
  explicit Held(const std::vector<std::filesystem::path>& files);
  ~Held();
  Held(const Held&) = delete;
  Held& operator=(const Held&) = delete;

 private:
  void release();
  std::map<std::filesystem::path, int> folders_;  // locks in each
};

}  // namespace pour
