// Files that are being written, held so that no second delivery writes to the same names.
#pragma once
#include <filesystem>
#include <map>
#include <vector>

namespace pour {

/// Holds names from its making to its end; the system frees them when the process ends, however it ends.
/// Names in one folder are held in one hidden file there, which goes with the last of them. On disks without
/// locks nothing is held.
class Held {
 public:
  /// Their folders have to be there. Throws Fault (Blame::shot) where somebody else holds one of them, which
  /// it names; then none is held.
  explicit Held(const std::vector<std::filesystem::path>& files);
  ~Held();
  Held(const Held&) = delete;
  Held& operator=(const Held&) = delete;

 private:
  void release();
  std::map<std::filesystem::path, int> folders_;  // what is open in each
};

}  // namespace pour
