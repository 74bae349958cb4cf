#include "run/run_lock.h"

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <cerrno>
#include <csignal>

#include "base/error.h"
#include "base/file.h"
#include "base/text.h"

namespace pour {
namespace {

std::string this_machine() {
  char name[256] = {};
  return ::gethostname(name, sizeof name - 1) ? "" : name;
}

// “1234 machine” and a line end.
RunWriter read_writer(int fd) {
  char text[300] = {};
  const ssize_t n = ::pread(fd, text, sizeof text - 1, 0);
  const std::string line(text, n > 0 ? size_t(n) : 0);
  const size_t space = line.find(' '), end = line.find('\n');
  RunWriter w;
  if (space == std::string::npos || end == std::string::npos || end < space) return w;
  w.process = int(whole_number(line.substr(0, space), 1, 1 << 30).value_or(0));
  w.machine = line.substr(space + 1, end - space - 1);
  return w;
}

}  // namespace

RunLock::RunLock(const fs::path& folder) {
  const fs::path file = folder / "lock";
  fd_ = ::open(file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0666);
  if (fd_ < 0) throw file_fault(folder, "could not be written", errno);
  // Disks that have no locks at all are used without.
  bool taken = true;
  for (int tries = 0; taken && tries < 20; ++tries) {  // who only looks for a writer lets go at once
    if (tries) ::usleep(10000);
    taken = ::flock(fd_, LOCK_EX | LOCK_NB) && errno == EWOULDBLOCK;
  }
  if (taken) {
    const RunWriter w = read_writer(fd_);
    ::close(fd_);
    throw machine_fault(folder.string(),
                        w.process ? filled("is being computed by another process ({process} on “{machine}”).",
                                           {{"process", std::to_string(w.process)}, {"machine", w.machine}})
                                  : "is being computed by another process.",
                        "Wait until it is done, or stop it.");
  }
  const std::string line = std::to_string(::getpid()) + " " + this_machine() + "\n";
  (void)!::ftruncate(fd_, 0);
  (void)!::pwrite(fd_, line.data(), line.size(), 0);  // for messages only
}

RunLock::~RunLock() { ::close(fd_); }

std::optional<RunWriter> writer_of(const fs::path& folder) {
  const int fd = ::open((folder / "lock").c_str(), O_RDONLY | O_CLOEXEC);
  if (fd < 0) return {};
  std::optional<RunWriter> writer;
  if (::flock(fd, LOCK_SH | LOCK_NB) && errno == EWOULDBLOCK) writer = read_writer(fd);
  ::close(fd);
  return writer;
}

bool ask_to_stop(const RunWriter& w) {
  return w.process && w.machine == this_machine() && ::kill(w.process, SIGTERM) == 0;
}

}  // namespace pour
