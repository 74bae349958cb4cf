// What is computed and written while the machine, the disk or a person is against it.
#include <fcntl.h>
#include <poll.h>
#include <sys/mount.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <csignal>
#include <optional>

#include "base/error.h"
#include "base/text.h"
#include "hammer.h"
#include "run/run_folder.h"
#include "shot/shot_file.h"

namespace hammer {

using namespace pour;

namespace {

struct Process {
  pid_t id = -1;
  int out = -1, err = -1;
};

Process start(const std::vector<std::string>& arguments, const fs::path& in, const Limits& limits) {
  int out[2], err[2];
  if (::pipe2(out, O_CLOEXEC) || ::pipe2(err, O_CLOEXEC)) throw Broken{"no pipe could be made"};
  std::vector<const char*> argv{EASY_POUR_CLI};
  for (const std::string& a : arguments) argv.push_back(a.c_str());
  argv.push_back(nullptr);
  const pid_t child = ::fork();
  if (child == 0) {
    ::setpgid(0, 0);
    ::dup2(out[1], 1), ::dup2(err[1], 2);
    rlimit memory{};
    ::getrlimit(RLIMIT_AS, &memory);
    memory.rlim_cur = limits.memory >= 0 ? rlim_t(limits.memory) : memory.rlim_max;
    ::setrlimit(RLIMIT_AS, &memory);
    if (limits.file_bytes >= 0) {
      const rlimit most{rlim_t(limits.file_bytes), rlim_t(limits.file_bytes)};
      ::setrlimit(RLIMIT_FSIZE, &most);
    }
    ::alarm(0);
    if (::chdir(in.c_str())) ::_exit(99);
    ::execv(EASY_POUR_CLI, const_cast<char**>(argv.data()));
    ::_exit(99);
  }
  ::close(out[1]), ::close(err[1]);
  return {child, out[0], err[0]};
}

int milliseconds() {
  using namespace std::chrono;
  static const auto start = steady_clock::now();
  return int(duration_cast<std::chrono::milliseconds>(steady_clock::now() - start).count());
}

Told wait_for(const Process& p, const Limits& limits) {
  Told told;
  const int begun = milliseconds();
  bool killed = false;
  for (int open = 2; open > 0;) {
    pollfd both[2] = {{p.out, POLLIN, 0}, {p.err, POLLIN, 0}};
    ::poll(both, 2, 5);
    const int spent = milliseconds() - begun;
    if (!killed &&
        ((limits.kill_after_ms >= 0 && spent >= limits.kill_after_ms) || spent > limits.seconds * 1000))
      ::kill(p.id, SIGKILL), killed = true;
    open = 0;
    for (int i = 0; i < 2; ++i) {
      if (!(both[i].revents & (POLLIN | POLLHUP))) {
        ++open;
        continue;
      }
      char bytes[4096];
      const ssize_t n = ::read(both[i].fd, bytes, sizeof bytes);
      if (n > 0) (i ? told.err : told.out).append(bytes, size_t(n)), ++open;
    }
    if (killed) break;
  }
  ::close(p.out), ::close(p.err);
  int status = 0;
  ::waitpid(p.id, &status, 0);
  told.code = WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
  return told;
}

/// A disk of so many bytes at a place, where that is allowed.
class SmallDisk {
 public:
  SmallDisk(const fs::path& place, size_t bytes) : place_(place) {
    static const bool own_view =
        ::unshare(CLONE_NEWNS) == 0 && ::mount("", "/", "", MS_REC | MS_PRIVATE, "") == 0;
    const std::string size = "size=" + std::to_string(bytes);
    real = own_view && ::mount("tmpfs", place.c_str(), "tmpfs", 0, size.c_str()) == 0;
  }
  ~SmallDisk() {
    if (real) ::umount2(place_.c_str(), MNT_DETACH);
  }
  SmallDisk(const SmallDisk&) = delete;
  SmallDisk& operator=(const SmallDisk&) = delete;
  bool real = false;

 private:
  fs::path place_;
};

}  // namespace

std::string joined(const std::vector<std::string>& words) {
  std::string out = "easy-pour-cli";
  for (const std::string& w : words) out += " '" + printable(w.substr(0, 200)) + "'";
  return out;
}

void prepare_run(const fs::path& common, int frames) {
  if (is_there(common / "made")) return;
  save_shot(small_shot(frames), common / "a.pour");
  must(tell({"run", "a.pour"}, common).code == 0, "the run to compare with can't be made");
  must(tell({"deliver", "a.runs/001", "--images", "p", "--video", "v.mp4"}, common).code == 0,
       "the pictures to compare with can't be made");
  write_whole(common / "made", "");
}

void must_be_polite(const Told& told, const std::string& line) {
  must(told.code >= 0, "ended by signal " + std::to_string(-told.code) + ": " + line + "\n" + told.err);
  must(told.code <= 3, "exit code " + std::to_string(told.code) + ": " + line);
  must(told.code == 0 || !told.err.empty() || !told.out.empty(), "fails without a word: " + line);
  for (const char* raw : {"std::", "not foreseen", "terminate", "filesystem error", "json.exception"})
    must((told.out + told.err).find(raw) == std::string::npos,
         "a library's own words: " + line + "\n" + told.err);
  for (const std::string* text : {&told.out, &told.err})
    for (const char c : *text)
      must(uint8_t(c) >= 0x20 || c == '\n' || c == '\r', "a control code reaches the terminal: " + line);
}

std::pair<Told, Told> tell_two(const std::vector<std::string>& first, const std::vector<std::string>& later,
                               const fs::path& in, int later_ms) {
  const Limits limits;
  const Process a = start(first, in, limits);
  ::usleep(useconds_t(later_ms) * 1000);
  const Process b = start(later, in, limits);
  Told told = wait_for(a, limits);
  return {std::move(told), wait_for(b, limits)};
}

Told tell(const std::vector<std::string>& arguments, const fs::path& in, const Limits& limits) {
  return wait_for(start(arguments, in, limits), limits);
}

Try kills(const fs::path& common) {
  prepare_run(common, killed_frames);
  return [common](Luck& luck, const fs::path& folder) {
    save_shot(small_shot(killed_frames), folder / "a.pour");
    // Killed again and again, at least once, until it comes to its end.
    bool begun = false;
    int killed = 0, longest = 900;  // ms
    const int wanted = 1 + int(luck.below(3));
    for (;;) {
      std::vector<std::string> line{"run", "a.pour", "--threads", luck.one_in(2) ? "1" : "2"};
      if (begun) line.push_back("--resume");
      Limits limits;
      if (killed < wanted) limits.kill_after_ms = int(luck.below(size_t(longest)));
      const Told told = tell(line, folder, limits);
      const RunList all = list_runs(folder / "a.pour");
      must(all.bad.empty(),
           "a run that can't be read after a kill: " + (all.bad.empty() ? "" : all.bad[0].problem));
      begun = !all.runs.empty();
      if (told.code == -SIGKILL && limits.kill_after_ms >= 0 && ++killed) continue;
      if (told.code == 0 && !killed && longest > 100) {  // it was quicker: again
        fs::remove_all(folder / "a.runs");
        begun = false, longest /= 2;
        continue;
      }
      if (told.code == 1 && begun && all.runs[0].state == RunState::done)
        break;  // killed after its last word
      must(told.code == 0, "a killed run can't go on: " + told.err);
      break;
    }
    must(contents(folder / "a.runs/001/frames", ".vdb") == contents(common / "a.runs/001/frames", ".vdb"),
         "frames differ after a kill");
    const pour::Run run = load_run(folder / "a.runs/001");
    must(run.state == RunState::done && run.frames.size() == size_t(killed_frames), "records are lost");
    no_leftovers(folder / "a.runs");
    return Held::accepted;
  };
}

Try small_disks(const fs::path& common) {
  prepare_run(common, killed_frames);
  return [common](Luck& luck, const fs::path& folder) {
    const fs::path place = folder / "disk";
    fs::create_directory(place);
    std::optional<SmallDisk> disk;
    if (luck.one_in(3)) disk.emplace(place, (20 + luck.below(900)) * 4096);
    const bool real = disk && disk->real;
    std::error_code full;
    fs::copy_file(common / "a.pour", place / "a.pour", full);
    fs::copy(common / "a.runs", place / "a.runs", fs::copy_options::recursive, full);
    if (full) return Held::refused;  // not even what was there finds room
    const bool had = luck.one_in(2);
    if (had) {
      fs::copy_file(common / "v.mp4", place / "v.mp4", full);
      fs::copy(common / "p", place / "p", full);
      if (full) return Held::refused;
    }
    const std::string shot_before = read_whole(place / "a.pour");
    const std::vector<std::vector<std::string>> lines{
        {"run", "a.pour"},
        {"run", "a.pour", "--frames", "1-3"},
        {"picture", "a.runs/001", "--out", "p"},
        {"deliver", "a.runs/001", "--images", "p"},
        {"deliver", "a.runs/001", "--video", "v.mp4"},
        {"compare", "a.runs/001", "a.runs/001", "--out", "both"},
        {"set", "a.pour", "film.title=" + std::string(luck.below(4000), 'x')},
        {"use", "a.pour", "a.runs/001"},
        {"new", "rising-smoke", "--out", "b.pour"}};
    const auto& line = luck.of(lines);
    Limits limits;
    if (!real) limits.file_bytes = long(luck.below(luck.one_in(2) ? 4000 : 300000));
    const Told told = tell(line, place, limits);
    must_be_polite(told, joined(line));
    no_leftovers(place);
    must(told.code == 0 || told.code == 3,
         "a full disk is called something else: " + joined(line) + "\n" + told.err);
    // Whatever is there is whole; what was there before is there still.
    const auto good = contents(common / "p", ".png"), now = contents(place / "p", ".png");
    for (const auto& picture : now)
      must(std::find(good.begin(), good.end(), picture) != good.end(), "a broken picture: " + picture.first);
    if (had || (told.code == 0 && line[0] == "picture")) must(now == good, "pictures are lost");
    if (is_there(place / "v.mp4"))
      must(read_whole(place / "v.mp4") == read_whole(common / "v.mp4"), "a broken video");
    else
      must(!had && !(told.code == 0 && line[0] == "deliver" && line[2] == "--video"), "a video is lost");
    (void)load_shot(place / "a.pour");
    must(told.code == 0 || read_whole(place / "a.pour") == shot_before, "a refused change changed the shot");
    if (is_there(place / "b.pour")) (void)load_shot(place / "b.pour");
    for (const pour::Run& run : list_runs(place / "a.pour").runs) {
      const FrameRange so_far{run.first_frame, run.newest_frame()};
      if (so_far.last >= so_far.first)
        must(missing_frames(run, so_far).empty(), "a recorded frame is not whole");
    }
    must(list_runs(place / "a.pour").bad.empty(), "a run can't be read");
    return told.code ? Held::refused : Held::accepted;
  };
}

Try two_writers(const fs::path& common) {
  prepare_run(common, killed_frames);
  return [common](Luck& luck, const fs::path& folder) {
    save_shot(small_shot(killed_frames), folder / "a.pour");
    const Limits limits;
    if (luck.one_in(2)) {  // two settings at once: one of them holds, and the file is whole all the time
      const Process a = start({"set", "a.pour", "film.frame_rate=25"}, folder, limits),
                    b = start({"set", "a.pour", "film.frame_rate=30"}, folder, limits);
      for (int i = 0; i < 40; ++i) (void)load_shot(folder / "a.pour");
      must(wait_for(a, limits).code == 0 && wait_for(b, limits).code == 0, "one of two writers fails");
      const int fps = load_shot(folder / "a.pour").film.frame_rate;
      must(fps == 25 || fps == 30, "neither of two settings holds");
      no_leftovers(folder);
      return Held::accepted;
    }
    // Two runs at once get numbers of their own; two that go on with one run take turns.
    const Process a = start({"run", "a.pour"}, folder, limits), b = start({"run", "a.pour"}, folder, limits);
    ::usleep(useconds_t(luck.below(400000)));
    ::kill(a.id, luck.one_in(2) ? SIGKILL : SIGTERM);
    (void)wait_for(a, limits);
    must(wait_for(b, limits).code == 0, "a run suffers from another");
    const RunList all = list_runs(folder / "a.pour");
    must(all.bad.empty() && !all.runs.empty() && all.runs.size() <= 2, "runs are mixed up");
    for (const pour::Run& run : all.runs) {
      const std::string name = run.folder.string();
      const Process c = start({"run", name, "--resume"}, folder, limits),
                    d = start({"run", name, "--resume"}, folder, limits);
      const Told first = wait_for(c, limits), second = wait_for(d, limits);
      must(first.code == 0 || second.code == 0, "neither of two can go on:\n" + first.err + second.err);
      for (const Told* t : {&first, &second})
        must(t->code == 0 || t->code == 3, "the second of two is refused wrongly:\n" + t->err);
      must(contents(run.folder / "frames", ".vdb") == contents(common / "a.runs/001/frames", ".vdb"),
           "frames of two writers are mixed up");
      must(load_run(run.folder).frames.size() == size_t(killed_frames),
           "records of two writers are mixed up");
    }
    no_leftovers(folder);
    return Held::accepted;
  };
}

Try command_lines(const fs::path& common) {
  prepare_run(common, killed_frames);
  return [common](Luck& luck, const fs::path& folder) {
    fs::copy_file(common / "a.pour", folder / "a.pour");
    fs::copy(common / "a.runs", folder / "a.runs", fs::copy_options::recursive);
    static const std::vector<std::string> commands{"run",     "picture", "deliver", "compare",   "show",
                                                   "set",     "new",     "check",   "use",       "measure",
                                                   "recipes", "fonts",   "fly",     "",          "settings",
                                                   "frame",   "remove",  "rename",  "duplicate", "settle"};
    static const std::vector<std::string> options{
        "--frames", "--size",    "--out",          "--detail",   "--cell",    "--show",
        "--video",  "--images",  "--resume",       "--progress", "--text",    "--font",
        "--set",    "--threads", "--hold-missing", "--help",     "--replace", "--background"};
    static const std::vector<std::string> values{"a.pour",
                                                 "a.runs/001",
                                                 "a.runs/001/",
                                                 "a.runs",
                                                 ".",
                                                 "..",
                                                 "/",
                                                 "",
                                                 " ",
                                                 "-",
                                                 "--",
                                                 "1",
                                                 "WORD",
                                                 "pieces.word",
                                                 "1-3",
                                                 "3-1",
                                                 "0",
                                                 "-1",
                                                 "99999999999999999999",
                                                 "1e9",
                                                 "64x36",
                                                 "16384x16384x",
                                                 "0x0",
                                                 "draft",
                                                 "5mm",
                                                 "0mm",
                                                 "-5mm",
                                                 "nan",
                                                 "inf",
                                                 "1e999",
                                                 "speed",
                                                 "json",
                                                 "x.mp4",
                                                 "p",
                                                 "/dev/null",
                                                 "/dev/full",
                                                 "/proc/self/mem",
                                                 "http://a/b",
                                                 "a:b",
                                                 "forces.gravity.strength=0",
                                                 "forces.gravity.strength=1e999",
                                                 "=",
                                                 "==",
                                                 "pieces.word.text=",
                                                 "pieces.word.text=W",
                                                 "pieces.word.font=Inter",
                                                 "film.frames=2",
                                                 "fill-a-word",
                                                 "rising-smoke",
                                                 "\x1b[31m",
                                                 "\xff\xfe",
                                                 "水",
                                                 std::string(5000, 'y')};
    std::vector<std::string> line{luck.of(commands)};
    for (size_t n = luck.below(6); n > 0; --n)
      line.push_back(luck.one_in(3) ? luck.of(options) : luck.of(values));
    std::erase_if(line, [](const std::string& w) { return w.find('\0') != std::string::npos; });
    Limits limits;
    limits.seconds = 40;
    const Told told = tell(line, folder, limits);
    must_be_polite(told, joined(line));
    no_leftovers(folder);
    (void)load_shot(folder / "a.pour");
    must(list_runs(folder / "a.pour").bad.empty(), "a run can't be read any more: " + joined(line));
    return told.code ? Held::refused : Held::accepted;
  };
}

}  // namespace hammer
