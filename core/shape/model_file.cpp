#include "shape/model_file.h"

#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <array>
#include <map>

#include "base/error.h"
#include "base/file.h"
#include "base/pixels.h"
#include "base/text.h"

extern char** environ;

namespace pour {
namespace {

constexpr size_t most_bytes = 1u << 30;  // of what comes back

fs::path reader() {
  std::error_code error;
  return fs::read_symlink("/proc/self/exe", error).parent_path() / "easy-pour-reader";
}

/// All that comes until the other end is closed, or as much as has come when it is given up.
std::string all_of(int fd, const StopAsked& stop) {
  constexpr int a_while = 100;  // ms
  std::string out;
  char b[65536];
  for (ssize_t n = 1; n != 0;) {
    pollfd waits{fd, POLLIN, 0};
    if (stop && stop()) break;
    if (::poll(&waits, 1, a_while) == 0) continue;
    n = ::read(fd, b, sizeof b);
    if (n < 0 && errno == EINTR) continue;
    if (n < 0 || out.size() > most_bytes) break;
    out.append(b, size_t(n));
  }
  return out;
}

}  // namespace

namespace {

/// Textures that are no pictures become missing ones; whether there are any.
bool leave_out_unreadable(std::vector<ModelPart>& parts) {
  std::map<std::shared_ptr<const ModelTexture>, std::shared_ptr<const ModelTexture>> without;
  for (ModelPart& p : parts) {
    if (!p.texture || p.texture->bytes.empty()) continue;
    if (const auto known = without.find(p.texture); known != without.end()) {
      p.texture = known->second;
      continue;
    }
    try {
      (void)unpack_picture({p.texture, &p.texture->bytes}, p.texture->name);
    } catch (const Fault&) {
      const auto none = std::make_shared<const ModelTexture>(ModelTexture{p.texture->name, {}});
      without.emplace(p.texture, none);
      p.texture = none;
    }
  }
  return !without.empty();
}

}  // namespace

std::string read_model(const fs::path& file, const StopAsked& stop) {
  const std::string where = file.filename().string();
  (void)read_whole(file, 0x7fffffff).size();  // whether it can be read, in the usual words
  int out[2], words[2];
  if (::pipe2(out, O_CLOEXEC) != 0)
    throw machine_fault(where, "could not be read: too many files are open.", "Close some.");
  if (::pipe2(words, O_CLOEXEC) != 0) {
    ::close(out[0]), ::close(out[1]);
    throw machine_fault(where, "could not be read: too many files are open.", "Close some.");
  }
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_adddup2(&actions, out[1], 1);
  posix_spawn_file_actions_adddup2(&actions, words[1], 2);
  const std::string program = reader().string(), path = fs::absolute(file).string();
  char* arguments[] = {const_cast<char*>(program.c_str()), const_cast<char*>(path.c_str()), nullptr};
  pid_t child = 0;
  const int error = ::posix_spawn(&child, program.c_str(), &actions, nullptr, arguments, environ);
  posix_spawn_file_actions_destroy(&actions);
  ::close(out[1]), ::close(words[1]);
  if (error != 0) {
    ::close(out[0]), ::close(words[0]);
    throw machine_fault("easy-pour-reader", "could not be started.", "It should stand beside this program.");
  }
  std::string bytes = all_of(out[0], stop);
  const bool given_up = stop && stop();
  if (given_up) ::kill(child, SIGKILL);
  std::string said = all_of(words[0], {}).substr(0, 400);  // it is short, and waits in the pipe
  while (said.ends_with('.') || said.ends_with('\n')) said.pop_back();
  ::close(out[0]), ::close(words[0]);
  int status = 0;
  while (::waitpid(child, &status, 0) < 0 && errno == EINTR) {
  }
  if (given_up) throw GivenUp{};
  if (WIFSIGNALED(status))
    throw shot_fault(where, "could not be read: it takes too much memory or time, or is broken.",
                     "Save the model again, with fewer triangles, as OBJ, PLY, STL or GLB.");
  if (!WIFEXITED(status) || WEXITSTATUS(status) != 0)
    throw shot_fault(where,
                     "could not be read: " + printable(said.empty() ? "no reason was given" : said) + ".",
                     "Save the model as OBJ, PLY, STL or GLB.");
  std::vector<ModelPart> parts = unpack_model(bytes, where);
  return leave_out_unreadable(parts) ? pack_model(parts) : bytes;
}

}  // namespace pour
