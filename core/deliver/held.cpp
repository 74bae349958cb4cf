#include "deliver/held.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <chrono>
#include <thread>

#include "base/error.h"
#include "base/file.h"

namespace pour {
namespace {

constexpr const char* hidden_name = ".being-delivered";

/// Locks bytes of an open file; returns 0 or errno.
int lock(int fd, off_t from, off_t count) {
  struct flock l {};
  l.l_type = F_WRLCK, l.l_whence = SEEK_SET, l.l_start = from, l.l_len = count;
  return ::fcntl(fd, F_OFD_SETLK, &l) == 0 ? 0 : errno;
}

/// The same for one byte. Who holds the last name holds all of them for the moment in which it removes the
/// file.
int lock_soon(int fd, off_t byte) {
  constexpr int tries = 5;
  int error = lock(fd, byte, 1);
  for (int k = 1; k < tries && (error == EAGAIN || error == EACCES); ++k) {
    std::this_thread::sleep_for(std::chrono::milliseconds(20));
    error = lock(fd, byte, 1);
  }
  return error;
}

/// A byte for each name, by its checksum.
off_t byte_of(const fs::path& file) { return off_t(checksum(file.filename().string()) >> 2); }

bool is_still(int fd, const fs::path& path) {
  struct stat a {
  }, b{};
  return ::fstat(fd, &a) == 0 && ::stat(path.c_str(), &b) == 0 && a.st_ino == b.st_ino &&
         a.st_dev == b.st_dev;
}

}  // namespace

Held::Held(const std::vector<fs::path>& files) {
  for (const fs::path& file : files) {
    const fs::path folder = file.parent_path().empty() ? fs::path(".") : file.parent_path();
    const fs::path hidden = folder / hidden_name;
    for (;;) {
      const auto open = folders_.find(folder);
      const int fd = open != folders_.end()
                         ? open->second
                         : ::open(hidden.c_str(), O_RDWR | O_CREAT | O_CLOEXEC | O_NOFOLLOW, 0666);
      if (fd < 0) break;  // what can't be written there says so itself
      folders_[folder] = fd;
      const int error = lock_soon(fd, byte_of(file));
      if (error == EAGAIN || error == EACCES) {
        release();
        throw shot_fault(file.string(), "is being written by another delivery.",
                         "Wait until that is through, or choose another name.");
      }
      if (is_still(fd, hidden)) break;
      ::close(fd), folders_.erase(folder);  // who held the last name has just removed it
    }
  }
}

void Held::release() {
  for (const auto& [folder, fd] : folders_) {
    struct flock l {};
    l.l_type = F_UNLCK, l.l_whence = SEEK_SET;
    ::fcntl(fd, F_OFD_SETLK, &l);
    std::error_code error;
    if (lock(fd, 0, 0) == 0) fs::remove(folder / hidden_name, error);  // nobody else holds anything
    ::close(fd);
  }
  folders_.clear();
}

Held::~Held() { release(); }

}  // namespace pour
