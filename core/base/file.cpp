#include "base/file.h"
#include "base/text.h"

#include <fcntl.h>
#include <sys/file.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstring>
#include <fstream>
#include <map>
#include <mutex>
#include <set>
#include <utility>

namespace pour {
namespace {

constexpr const char* temporary_mark = ".writing-";

void sync_folder(const fs::path& folder) {
  const int fd = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
  if (fd < 0) return;
  ::fsync(fd);  // some disks can't; the file itself was synced
  ::close(fd);
}

bool same_file(int fd, const fs::path& path) {
  struct stat a {
  }, b{};
  return ::fstat(fd, &a) == 0 && ::stat(path.c_str(), &b) == 0 && a.st_dev == b.st_dev &&
         a.st_ino == b.st_ino;
}

/// Removes temporary files of killed writers. Live writers hold a lock.
void sweep(const fs::path& folder) {
  static std::mutex mutex;
  static std::set<fs::path> swept;
  {
    const std::lock_guard guard(mutex);
    if (!swept.insert(folder).second) return;
  }
  std::error_code ignored;
  for (fs::directory_iterator i(folder, ignored), end; !ignored && i != end; i.increment(ignored)) {
    const std::string name = i->path().filename().string();
    constexpr std::string_view mark = temporary_mark;
    if (!name.starts_with(mark) || name.size() == mark.size() || !std::isdigit(uint8_t(name[mark.size()])))
      continue;
    const int fd = ::open(i->path().c_str(), O_RDWR | O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC);
    if (fd < 0) continue;
    if (::flock(fd, LOCK_EX | LOCK_NB) == 0 && same_file(fd, i->path())) ::unlink(i->path().c_str());
    ::close(fd);
  }
}

/// Where a name leads over links, also one that points to nothing yet.
fs::path followed(fs::path p) {
  std::error_code error;
  for (int i = 0; i < 40; ++i) {
    if (!fs::is_symlink(fs::symlink_status(p, error))) return p;
    const fs::path to = fs::read_symlink(p, error);
    p = to.is_absolute() ? to : p.parent_path() / to;
  }
  throw file_fault(p, "could not be written", ELOOP);
}

/// A file in the making: locked, with the access rights that it will have, gone unless it is finished.
class Temporary {
 public:
  explicit Temporary(const fs::path& named) : named_(named), file_(followed(named)) {
    const fs::path folder = file_.parent_path().empty() ? "." : file_.parent_path();
    struct stat old {};
    const bool replaces = ::stat(file_.c_str(), &old) == 0;
    if (replaces && S_ISDIR(old.st_mode)) throw file_fault(named, "could not be written", EISDIR);
    if (replaces && !S_ISREG(old.st_mode))
      throw machine_fault(named.string(), "could not be written: this is a device, not an ordinary file.",
                          "Choose another name.");
    sweep(folder);
    static std::atomic<int> count{0};
    for (int tries = 0; fd_ < 0; ++tries) {
      path_ = folder / (temporary_mark + std::to_string(::getpid()) + "-" + std::to_string(++count));
      fd_ = ::open(path_.c_str(), O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0666);
      if (fd_ < 0 && errno == EEXIST && tries < 1000) continue;
      if (fd_ < 0) fail();
      // A sweeper may have been quicker than the lock.
      if (::flock(fd_, LOCK_EX | LOCK_NB) || !same_file(fd_, path_)) ::close(fd_), fd_ = -1;
      if (fd_ < 0 && tries >= 1000) fail();
    }
    if (!replaces) return;
    (void)!::fchown(fd_, old.st_uid, old.st_gid);
    (void)!::fchmod(fd_, old.st_mode & 07777);
  }
  ~Temporary() {
    if (fd_ < 0) return;
    ::unlink(path_.c_str());
    ::close(fd_);
  }
  Temporary(const Temporary&) = delete;
  Temporary& operator=(const Temporary&) = delete;

  const fs::path& path() const { return path_; }
  int descriptor() const { return fd_; }
  [[noreturn]] void fail() const { throw file_fault(named_, "could not be written", errno); }

  void finish() {
    if (::fsync(fd_) && errno != EINVAL && errno != EROFS) fail();
    if (::rename(path_.c_str(), file_.c_str())) fail();
    const int fd = std::exchange(fd_, -1);
    if (::close(fd)) fail();
    sync_folder(file_.parent_path().empty() ? "." : file_.parent_path());
  }

 private:
  fs::path named_, file_, path_;
  int fd_ = -1;
};

/// Returns false, with errno set, if not everything could be written.
bool write_all(int fd, std::string_view bytes) {
  while (!bytes.empty()) {
    const ssize_t n = ::write(fd, bytes.data(), bytes.size());
    if (n < 0 && errno == EINTR) continue;
    if (n == 0) errno = EIO;
    if (n <= 0) return false;
    bytes.remove_prefix(size_t(n));
  }
  return true;
}

struct Reason {
  int error;
  const char *why, *mend;
};
constexpr Reason reasons[] = {
    {ENOSPC, "the disk is full", "Free some space on it."},
    {EDQUOT, "your share of the disk is used up", "Free some space on it."},
    {EFBIG, "it would become larger than files may be here", "Choose another disk."},
    {EACCES, "access is not allowed", "Choose another place, or ask for the right to use this one."},
    {EPERM, "access is not allowed", "Choose another place, or ask for the right to use this one."},
    {EROFS, "the disk can only be read", "Choose another disk."},
    {ENOENT, "there is no such file or folder", "Check the name."},
    {ENOTDIR, "a part of its path is no folder", "Check the name."},
    {EISDIR, "a folder has that name", "Choose another name."},
    {ENAMETOOLONG, "the name is too long", "Choose a shorter one."},
    {ELOOP, "its links lead in a circle", "Remove one of them."},
    {EIO, "the disk reports an error", "Choose another disk, and look after this one."},
    {EMFILE, "too many files are open", "Close other programs."},
    {ENFILE, "too many files are open", "Close other programs."},
    {ENOMEM, "memory is used up", "Close other programs."},
};

}  // namespace

Fault file_fault(const fs::path& file, const std::string& what, int error) {
  for (const Reason& r : reasons)
    if (r.error == error) return machine_fault(file.string(), what + ": " + r.why + ".", r.mend);
  return machine_fault(
      file.string(),
      filled("{what} (system error {error}).", {{"what", what}, {"error", std::to_string(error)}}),
      "Choose another place.");
}

void write_whole(const fs::path& file, const std::function<void(const fs::path&)>& write) {
  Temporary temporary(file);
  write(temporary.path());
  temporary.finish();
}

void write_whole(const fs::path& file, const std::vector<std::string_view>& pieces) {
  Temporary temporary(file);
  for (const std::string_view piece : pieces)
    if (!write_all(temporary.descriptor(), piece)) temporary.fail();
  temporary.finish();
}

void append_whole(const fs::path& file, std::string_view bytes) {
  const auto fail = [&] { throw file_fault(file, "could not be written", errno); };
  const int fd = ::open(file.c_str(), O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC, 0666);
  if (fd < 0) fail();
  const off_t before = ::lseek(fd, 0, SEEK_END);
  if (before < 0 || !write_all(fd, bytes)) {
    const int error = errno;
    if (before >= 0) (void)!::ftruncate(fd, before);
    ::close(fd);
    errno = error;
    fail();
  }
  if (::close(fd)) fail();
}

void check_writable(const fs::path& file) { const Temporary tried(file); }

std::string read_whole(const fs::path& file, size_t most) {
  const auto fail = [&](int error) {
    const Fault f = file_fault(file, "can't be read", error);
    if (error == ENOENT || error == ENOTDIR)
      return shot_fault(file.string(), "does not exist.", "Check the name.");
    return shot_fault(f.where, f.problem, f.mend);
  };
  const int fd = ::open(file.c_str(), O_RDONLY | O_NONBLOCK | O_CLOEXEC);
  if (fd < 0) throw fail(errno);
  struct stat s {};
  std::string out;
  int error = ::fstat(fd, &s) ? errno : S_ISDIR(s.st_mode) ? EISDIR : 0;
  const bool ordinary = S_ISREG(s.st_mode), large = ordinary && size_t(s.st_size) > most;
  if (!error && ordinary && !large) {
    out.resize(size_t(s.st_size));
    size_t have = 0;
    while (have < out.size()) {
      const ssize_t n = ::read(fd, out.data() + have, out.size() - have);
      if (n < 0 && errno == EINTR) continue;
      if (n < 0) error = errno;
      if (n <= 0) break;
      have += size_t(n);
    }
    out.resize(have);
  }
  ::close(fd);
  if (error) throw fail(error);
  if (!ordinary) throw shot_fault(file.string(), "is no ordinary file.", "Name a file on a disk.");
  if (large)
    throw shot_fault(file.string(), "is far too large for what it should be.", "Restore it from a copy.");
  return out;
}

bool is_there(const fs::path& path) {
  std::error_code ignored;
  return fs::exists(path, ignored);
}

fs::path true_path(const fs::path& path) {
  std::error_code error;
  fs::path out = fs::weakly_canonical(fs::absolute(path, error), error);
  if (error) out = fs::absolute(path, error).lexically_normal();
  return out.has_filename() ? out : out.parent_path();
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

std::string in_digits(uint64_t sum) {
  char digits[17];
  std::snprintf(digits, sizeof digits, "%016llx", static_cast<unsigned long long>(sum));
  return digits;
}

std::string lower_suffix(const fs::path& file) {
  std::string suffix = file.extension().string();
  for (char& c : suffix) c = char(std::tolower(static_cast<unsigned char>(c)));
  return suffix;
}

std::string print_of(const fs::path& file) {
  struct Known {
    fs::file_time_type time;
    uintmax_t size = 0;
    std::string print;
  };
  static std::map<fs::path, Known> known;
  static std::mutex mutex;
  const std::lock_guard lock(mutex);
  std::error_code error;
  const auto time = fs::last_write_time(file, error);
  const uintmax_t size = error ? 0 : fs::file_size(file, error);
  if (error) return {};
  Known& k = known[file];
  if (!k.print.empty() && k.time == time && k.size == size) return k.print;
  try {
    k = {time, size, in_digits(checksum(read_whole(file)))};
  } catch (const Fault&) {
    k = {};
  }
  return k.print;
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
  fs::path f = fs::absolute(folder.empty() ? fs::path(".") : folder, error);
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
