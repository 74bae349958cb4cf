// Files of a frame: whole or absent, identified by a hash of their contents.
#pragma once
#include <filesystem>
#include <functional>
#include <string>

#include "base/error.h"

namespace pour {

/// The record of a written frame.
struct StoredFrame {
  std::filesystem::path file;
  std::string id;        // empty if it was not recorded
  double cell_size = 0;  // m; 0 if unknown
};

/// Whether the file exists with every byte as written. Reads the whole file; never throws.
bool is_whole_frame(const StoredFrame&);

/// Throws Fault (Blame::shot) if the file is missing, damaged or not the recorded one.
void check_frame(const StoredFrame&);

/// Writes a whole OpenVDB file or nothing. `write` gets the name of a file in memory, because OpenVDB does
/// not notice a full disk. Equal contents give equal bytes. Returns the id in its header.
std::string store_frame(const std::filesystem::path&, const std::function<void(const std::string&)>& write);

/// Fault (Blame::shot) about a frame's file, with advice.
Fault torn_frame(const std::filesystem::path&, const std::string& why);

}  // namespace pour
