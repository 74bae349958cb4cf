#include "shape/model_file.h"

#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
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

struct Came {
  std::string bytes, words;
};

/// All that comes through two pipes until both are closed, or as much as has come when it is given up. They
/// are read in turn as they fill: a writer that waits at one of them never closes the other.
Came all_of(int bytes, int words, const StopAsked& stop) {
  constexpr int a_while = 100;  // ms
  constexpr size_t longest_words = 1 << 16;
  Came out;
  char b[65536];
  pollfd waits[2] = {{bytes, POLLIN, 0}, {words, POLLIN, 0}};
  while (waits[0].fd >= 0 || waits[1].fd >= 0) {
    if (stop && stop()) break;
    if (::poll(waits, 2, a_while) <= 0) continue;
    for (pollfd& w : waits) {
      if (w.fd < 0 || !w.revents) continue;
      const ssize_t n = ::read(w.fd, b, sizeof b);
      if (n < 0 && errno == EINTR) continue;
      std::string& to = &w == &waits[0] ? out.bytes : out.words;
      if (n > 0 && (&w == &waits[0] || to.size() < longest_words)) to.append(b, size_t(n));
      if (n <= 0 || to.size() > most_bytes) w.fd = -1;
    }
    if (waits[0].fd < 0 && out.bytes.size() > most_bytes) break;
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

/// Takes out faces that are there already: thousands in one place are looked at by each ray that comes by.
/// Returns whether there were any.
bool leave_out_equal_faces(Mesh& mesh) {
  using Corner = std::array<float, 3>;
  std::vector<std::pair<std::array<Corner, 3>, size_t>> faces;
  for (size_t i = 0; i < mesh.triangles.size(); ++i) {
    auto& face = faces.emplace_back(std::array<Corner, 3>{}, i).first;
    for (size_t k = 0; k < 3; ++k) {
      const Vec3f& p = mesh.points[size_t(mesh.triangles[i][k])];
      face[k] = {p.x, p.y, p.z};
    }
    std::sort(face.begin(), face.end());
  }
  std::sort(faces.begin(), faces.end());
  std::vector<uint8_t> again(faces.size(), 0);
  bool any = false;
  for (size_t i = 1; i < faces.size(); ++i)
    if (faces[i].first == faces[i - 1].first) again[faces[i].second] = 1, any = true;
  size_t kept = 0;
  for (size_t i = 0; i < mesh.triangles.size(); ++i)
    if (!again[i]) mesh.triangles[kept++] = mesh.triangles[i];
  mesh.triangles.resize(kept);
  return any;
}

void append(ModelPart& to, const ModelPart& more) {
  const size_t had = to.mesh.points.size(), has = more.mesh.points.size();
  if (!to.colors.empty() || !more.colors.empty()) {
    to.colors.resize(had, {1, 1, 1});
    to.colors.insert(to.colors.end(), more.colors.begin(), more.colors.end());
    to.colors.resize(had + has, {1, 1, 1});
  }
  if (!to.uv.empty() || !more.uv.empty()) {
    to.uv.resize(had);
    to.uv.insert(to.uv.end(), more.uv.begin(), more.uv.end());
    to.uv.resize(had + has);
  }
  to.mesh.append(more.mesh);
}

/// More parts than anybody would choose from become one for each texture; whether they did.
bool join_too_many(std::vector<ModelPart>& parts) {
  constexpr size_t most_parts = 1000;
  if (parts.size() <= most_parts) return false;
  std::vector<ModelPart> joined;
  std::map<const ModelTexture*, size_t> of_texture;
  for (ModelPart& p : parts) {
    const auto [found, is_new] = of_texture.try_emplace(p.texture.get(), joined.size());
    if (is_new)
      joined.push_back(std::move(p)),
          joined.back().name = joined.back().texture ? joined.back().texture->name : "All parts";
    else
      append(joined[found->second], p);
  }
  parts = std::move(joined);
  return true;
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
  const Came came = all_of(out[0], words[0], stop);
  const std::string& bytes = came.bytes;
  const bool given_up = stop && stop();
  if (given_up) ::kill(child, SIGKILL);
  std::string said = came.words.substr(0, 400);
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
                     filled("could not be read: {said}.",
                            {{"said", printable(said.empty() ? "no reason was given" : said)}}),
                     "Save the model as OBJ, PLY, STL or GLB.");
  std::vector<ModelPart> parts = unpack_model(bytes, where);
  bool changed = leave_out_unreadable(parts);
  changed = join_too_many(parts) || changed;
  for (ModelPart& p : parts) changed = leave_out_equal_faces(p.mesh) || changed;
  return changed ? pack_model(parts) : bytes;
}

}  // namespace pour
