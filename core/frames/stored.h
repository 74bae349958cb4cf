// Files of a frame: whole or absent, and known again by an id that is made from their contents.
#pragma once
#include <filesystem>
#include <functional>
#include <string>

#include "base/error.h"

namespace pour {

/// What is known of a frame that was written.
struct StoredFrame {
  std::filesystem::path file;
  std::string id;        // empty where it was not recorded
  double cell_size = 0;  // m; 0 where it is not known
};

/// Whether it is there, every byte as it was written. Reads all of it; never throws.
bool is_whole_frame(const StoredFrame&);

/// Throws Fault (Blame::shot) for a file that is missing, torn or not the one that was recorded.
void check_frame(const StoredFrame&);

/// Writes an OpenVDB file whole or not at all. `write` is given the name of a file in memory, for OpenVDB
/// does not notice a full disk. The same contents always give the same bytes. Returns the id that its header
/// bears.
std::string store_frame(const std::filesystem::path&, const std::function<void(const std::string&)>& write);

/// Fault (Blame::shot) of a frame's file, with what to do about it.
Fault torn_frame(const std::filesystem::path&, const std::string& why);

}  // namespace pour
