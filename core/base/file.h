// Files that are written whole or not at all, and system errors in plain words.
#pragma once
#include <cstdint>
#include <filesystem>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "base/error.h"

namespace pour {
namespace fs = std::filesystem;

/// A system error (errno) on a file as a Fault (Blame::machine): “FILE: could not be written: the disk is
/// full. Free some space on it.”
Fault file_fault(const fs::path& file, const std::string& what, int error);

/// Writes the whole file or nothing: `write` fills a temporary file beside it, which is synced and renamed.
/// Links are followed, and a replaced file's access rights are kept. Temporary files left by killed writers
/// are removed. Throws Fault (Blame::machine) if the disk is full, the folder cannot be written, or the name
/// belongs to a folder or device. After that, or any exception of `write`, `file` is unchanged and the
/// temporary file is gone.
void write_whole(const fs::path& file, const std::function<void(const fs::path& temporary)>& write);
/// Writes the pieces in order.
void write_whole(const fs::path& file, const std::vector<std::string_view>& pieces);
inline void write_whole(const fs::path& file, std::string_view bytes) {
  write_whole(file, std::vector{bytes});
}
/// Appends to a file, everything or nothing. Throws Fault (Blame::machine).
void append_whole(const fs::path& file, std::string_view bytes);
/// Throws Fault (Blame::machine) if write_whole() could not write there now.
void check_writable(const fs::path& file);

/// Reads a whole file. Throws Fault (Blame::shot) if it is missing, unreadable, not an ordinary file, or
/// larger than `most` bytes.
std::string read_whole(const fs::path& file, size_t most = SIZE_MAX);

/// Whether a file or folder exists and is visible. Never throws.
bool is_there(const fs::path&);
/// The canonical path: absolute, without links, dots or a trailing slash. The last part need not exist.
fs::path true_path(const fs::path&);

/// Checksum that detects damage, not intent: FNV-1a over words with mixing.
uint64_t checksum(std::string_view bytes);
/// As sixteen hexadecimal digits.
std::string in_digits(uint64_t sum);
/// “.obj” of “Jar.OBJ”.
std::string lower_suffix(const fs::path& file);

/// The checksum of a file as text, or nothing if it cannot be read. Cached by time and size.
std::string print_of(const fs::path& file);

/// The folder of shared files (fonts, demo): beside the executable, otherwise the installed one.
fs::path share_folder();

/// Bytes free on the disk that holds `folder` (or its nearest existing parent).
double free_bytes(const fs::path& folder);
/// Peak memory of this process, bytes.
double peak_memory();
/// Memory that the machine has available, bytes.
double available_memory();

}  // namespace pour
