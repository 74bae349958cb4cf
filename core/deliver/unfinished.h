// An unfinished traced picture, kept beside its destination so that it can be continued.
#pragma once
#include <filesystem>
#include <string>

#include "trace/path_tracer.h"

namespace pour {

class Unfinished {
 public:
  /// For the picture at `picture`, made from `inputs`.
  Unfinished(const std::filesystem::path& picture, std::string inputs);
  /// Restores kept paths into a tracer, if there are any with the same inputs.
  void give_back(PathTracer&) const;
  /// Keeps its paths, if any. Write errors are ignored while stopping.
  void keep(const PathTracer&) const noexcept;
  void remove() const noexcept;

 private:
  std::filesystem::path file_;
  std::string inputs_;
};

}  // namespace pour
