// A traced picture that was stopped, kept beside the place where it will be, so that it goes on from there.
#pragma once
#include <filesystem>
#include <string>

#include "trace/path_tracer.h"

namespace pour {

class Unfinished {
 public:
  /// Of the picture that will be at `picture`, made from `inputs`.
  Unfinished(const std::filesystem::path& picture, std::string inputs);
  /// Gives a tracer the paths that were kept; leaves it as it is where there are none, or of another picture.
  void give_back(PathTracer&) const;
  /// Keeps its paths, if it has any. What can't be written is not kept: a stop is no time for faults.
  void keep(const PathTracer&) const noexcept;
  void remove() const noexcept;

 private:
  std::filesystem::path file_;
  std::string inputs_;
};

}  // namespace pour
