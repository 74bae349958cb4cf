// Files that either exist whole or not at all.
#pragma once
#include <cstdint>
#include <filesystem>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace pour {
namespace fs = std::filesystem;

/// Calls `write` with a temporary name beside `file`, syncs what it wrote and renames it to `file`.
/// Throws Fault (Blame::machine) where the disk is full or the folder can't be written; then `file` is
/// as it was before and the temporary is gone.
void write_whole(const fs::path& file, const std::function<void(const fs::path& temporary)>& write);
/// The pieces, one after another.
void write_whole(const fs::path& file, const std::vector<std::string_view>& pieces);
inline void write_whole(const fs::path& file, std::string_view bytes) {
  write_whole(file, std::vector{bytes});
}

/// The whole file. Throws Fault (Blame::shot) where it can't be read.
std::string read_whole(const fs::path& file);

/// Tells torn files from whole ones: FNV-1a over words with mixing; no protection against intent.
uint64_t checksum(std::string_view bytes);

/// Where the program's shared files (fonts, demo) are: beside the executable, then the installed place.
fs::path share_folder();

/// Bytes free on the disk that holds `folder` (or its nearest existing parent).
double free_bytes(const fs::path& folder);
/// Bytes of memory this process has used at most so far.
double peak_memory();
/// Bytes of memory the machine could still give.
double available_memory();

}  // namespace pour
