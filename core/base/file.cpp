#include "base/file.h"

#include <fcntl.h>
#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fstream>

#include "base/error.h"

namespace pour {
namespace {

void sync(const fs::path& path, int flags) {
  const int fd = ::open(path.c_str(), flags);
  if (fd < 0) return;
  const int failed = ::fsync(fd);
  const int error = errno;
  ::close(fd);
  if (failed && error != EINVAL && error != EROFS)
    throw machine_fault(path.string(), std::string("could not be written: ") + std::strerror(error) + ".",
                        "Free some space or choose another folder.");
}

}  // namespace

void write_whole(const fs::path& file, const std::function<void(const fs::path&)>& write) {
  // The suffix stays last so that writers which go by it still know the format.
  fs::path temporary =
      file.parent_path() / (".writing-" + std::to_string(::getpid()) + "-" + file.filename().string());
  std::error_code ignored;
  try {
    write(temporary);
    if (!fs::exists(temporary, ignored))
      throw machine_fault(file.string(), "could not be written.",
                          "Check that the folder exists and can be written.");
    sync(temporary, O_RDONLY);
    fs::rename(temporary, file);
    sync(file.parent_path().empty() ? fs::path(".") : file.parent_path(), O_RDONLY | O_DIRECTORY);
  } catch (const Fault&) {
    fs::remove(temporary, ignored);
    throw;
  } catch (const std::exception& e) {
    fs::remove(temporary, ignored);
    throw machine_fault(file.string(), std::string("could not be written: ") + e.what() + ".",
                        "Free some space or choose another folder.");
  } catch (...) {  // the caller changed its mind
    fs::remove(temporary, ignored);
    throw;
  }
}

void write_whole(const fs::path& file, const std::vector<std::string_view>& pieces) {
  write_whole(file, [&](const fs::path& temporary) {
    const int fd = ::open(temporary.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0644);
    const auto fail = [&] {
      const int error = errno;
      if (fd >= 0) ::close(fd);
      throw machine_fault(file.string(), std::string("could not be written: ") + std::strerror(error) + ".",
                          error == ENOSPC ? "Free some space on this disk."
                                          : "Check that the folder exists and that you may write to it.");
    };
    if (fd < 0) fail();
    for (std::string_view rest : pieces)
      while (!rest.empty()) {
        const ssize_t n = ::write(fd, rest.data(), rest.size());
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) fail();
        rest.remove_prefix(size_t(n));
      }
    if (::close(fd)) fail();
  });
}

std::string read_whole(const fs::path& file) {
  std::ifstream in(file, std::ios::binary);
  if (!in || fs::is_directory(file))
    throw shot_fault(file.string(), fs::exists(file) ? "can't be read." : "does not exist.",
                     "Check the name and that you may read it.");
  in.seekg(0, std::ios::end);
  std::string out(size_t(std::max<std::streamoff>(in.tellg(), 0)), '\0');
  in.seekg(0);
  in.read(out.data(), std::streamsize(out.size()));
  out.resize(size_t(in.gcount()));
  return out;
}

uint64_t checksum(std::string_view bytes) {
  uint64_t h = 0xcbf29ce484222325u;
  size_t i = 0;
  for (; i + 8 <= bytes.size(); i += 8) {
    uint64_t w;
    std::memcpy(&w, bytes.data() + i, 8);
    h = (h ^ w) * 0x100000001b3u;
    h ^= h >> 29;
  }
  for (; i < bytes.size(); ++i) h = (h ^ static_cast<unsigned char>(bytes[i])) * 0x100000001b3u;
  return h;
}

fs::path share_folder() {
  if (const char* set = std::getenv("EASY_POUR_SHARE")) return set;
  std::error_code error;
  const fs::path program = fs::read_symlink("/proc/self/exe", error);
  for (fs::path folder = program.parent_path(); folder.has_relative_path(); folder = folder.parent_path())
    if (fs::exists(folder / "share" / "easy-pour" / "fonts", error)) return folder / "share" / "easy-pour";
  return "/usr/share/easy-pour";
}

double free_bytes(const fs::path& folder) {
  std::error_code error;
  fs::path f = fs::absolute(folder.empty() ? fs::path(".") : folder);
  while (!fs::exists(f, error) && f.has_relative_path()) f = f.parent_path();
  const fs::space_info s = fs::space(f, error);
  return error ? 0 : double(s.available);
}

double peak_memory() {
  rusage usage{};
  getrusage(RUSAGE_SELF, &usage);
  return double(usage.ru_maxrss) * 1024;
}

double available_memory() {
  std::ifstream in("/proc/meminfo");
  std::string key;
  double kb = 0;
  while (in >> key >> kb) {
    if (key == "MemAvailable:") return kb * 1024;
    in.ignore(256, '\n');
  }
  return 0;
}

}  // namespace pour
