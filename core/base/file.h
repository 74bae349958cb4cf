// Files that either exist whole or not at all, and what the system says of them in plain words.
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

/// A system error (errno) at a file as a Fault (Blame::machine): “FILE: could not be written: the disk is
/// full. Free some space on it.”
Fault file_fault(const fs::path& file, const std::string& what, int error);

/// Writes `file` whole or not at all: `write` fills a temporary beside it, which is synced and renamed.
/// A link is followed, and the access rights of a file that is replaced are kept. What earlier writers that
/// were killed left in the folder is removed. Throws Fault (Blame::machine) where the disk is full, the
/// folder can't be written or the name belongs to a folder or a device; then `file` is as it was before and
/// the temporary is gone, as it is for any other exception of `write`.
void write_whole(const fs::path& file, const std::function<void(const fs::path& temporary)>& write);
/// The pieces, one after another.
void write_whole(const fs::path& file, const std::vector<std::string_view>& pieces);
inline void write_whole(const fs::path& file, std::string_view bytes) {
  write_whole(file, std::vector{bytes});
}
/// Adds to the end of a file, all of it or nothing. Throws Fault (Blame::machine).
void append_whole(const fs::path& file, std::string_view bytes);
/// Throws Fault (Blame::machine) where write_whole() could not write there now.
void check_writable(const fs::path& file);

/// The whole file. Throws Fault (Blame::shot) where there is none, it can't be read, it is no ordinary file,
/// or it has more than `most` bytes.
std::string read_whole(const fs::path& file, size_t most = SIZE_MAX);

/// Whether something is there that can be seen; never throws.
bool is_there(const fs::path&);
/// The one name of a place, absolute and without links, dots or a slash at its end, also where the last part
/// is not there yet.
fs::path true_path(const fs::path&);

/// Tells torn files from whole ones: FNV-1a over words with mixing; no protection against intent.
uint64_t checksum(std::string_view bytes);
/// As sixteen hexadecimal digits.
std::string in_digits(uint64_t sum);
/// “.obj” of “Jar.OBJ”.
std::string lower_suffix(const fs::path& file);

/// The checksum of a file in words, or nothing where it can't be read. One that has neither another time nor
/// another size than when it was asked for before is not read again.
std::string print_of(const fs::path& file);

/// Where the program's shared files (fonts, demo) are: beside the executable, then the installed place.
fs::path share_folder();

/// Bytes free on the disk that holds `folder` (or its nearest existing parent).
double free_bytes(const fs::path& folder);
/// Bytes of memory this process has used at most so far.
double peak_memory();
/// Bytes of memory the machine could still give.
double available_memory();

}  // namespace pour
