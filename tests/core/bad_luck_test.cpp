// What a week of bad luck brings: full disks, torn files, impatient hands. Nothing lies, nothing is lost.
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/stat.h>

#include <fstream>
#include <nlohmann/json.hpp>
#include <thread>

#include "base/file.h"
#include "core/cli_fixture.h"
#include "liquid/liquid.h"
#include "run/checkpoint.h"
#include "run/run_folder.h"
#include "run/run_lock.h"
#include "run/staging.h"
#include "shot/shot_file.h"

using namespace pour;
using testing::AllOf;
using testing::HasSubstr;
using testing::Not;

namespace {

class BadLuck : public Cli {
 protected:
  void make_and_run(const std::string& frames = "1-6") {
    make();
    ASSERT_EQ(cli("run a.pour --frames " + frames).code, 0);
  }
  /// With files of at most so many blocks of 512 bytes (POSIX ulimit) in place of a small disk.
  Result on_small_disk(int blocks, const std::string& arguments) {
    return shell("cd " + folder.string() + " && ulimit -f " + std::to_string(blocks) +
                 " && " EASY_POUR_CLI " " + arguments);
  }
  std::vector<std::string> leftovers() {
    std::vector<std::string> out;
    for (const auto& e : fs::recursive_directory_iterator(folder))
      if (e.path().filename().string().starts_with(".writing")) out.push_back(e.path().string());
    return out;
  }
  std::string text(const fs::path& file) { return read_whole(folder / file); }
  void change(const fs::path& file, const std::string& from, const std::string& to) {
    std::string t = text(file);
    ASSERT_NE(t.find(from), std::string::npos) << from;
    t.replace(t.find(from), from.size(), to);
    write_whole(folder / file, t);
  }
  /// As somebody who may not do everything: no permission stops root.
  Result as_somebody(const std::string& arguments) {
    const std::string as = geteuid() == 0 ? "setpriv --reuid 65534 --regid 65534 --clear-groups " : "";
    return shell("cd " + folder.string() + " && HOME=/tmp " + as + EASY_POUR_CLI " " + arguments);
  }
  pid_t start(std::vector<const char*> arguments, const std::string& out = "/dev/null") {
    const pid_t child = fork();
    if (child == 0) {
      if (chdir(folder.c_str()) || !freopen(out.c_str(), "w", stdout)) _exit(9);
      arguments.insert(arguments.begin(), EASY_POUR_CLI);
      arguments.push_back(nullptr);
      execv(EASY_POUR_CLI, const_cast<char**>(arguments.data()));
      _exit(9);
    }
    return child;
  }
  template <class F>
  static bool comes_true(const F& f) {
    for (int i = 0; i < 3000 && !f(); ++i) std::this_thread::sleep_for(std::chrono::milliseconds(10));
    return f();
  }
};

}  // namespace

TEST_F(BadLuck, PicturesOnAFullDiskAreWholeOrAbsent) {
  make_and_run();
  ASSERT_EQ(cli("set a.pour look.exposure=1").code, 0);
  for (const std::string command :
       {"picture a.runs/001 --out pics", "deliver a.runs/001 --images pics",
        "compare a.runs/001 a.runs/001 --out pics", "deliver a.runs/001 --video pics/v.mp4",
        "deliver a.runs/001 --sheet pics/a.000006.png", "picture a.runs/001 --format exr --out pics"}) {
    const std::string file = command.ends_with("mp4")                   ? "pics/v.mp4"
                             : command.find("exr") != std::string::npos ? "pics/a.000006.exr"
                                                                        : "pics/a.000006.png";
    fs::remove_all(folder / "pics");
    fs::create_directory(folder / "pics");
    write_whole(folder / file, "a good picture");
    const Result r = on_small_disk(4, command + " --replace --frames 6 --size 320x180");
    EXPECT_EQ(r.code, 3) << command << r.out;
    EXPECT_THAT(r.out, HasSubstr("could not be written")) << command;
    EXPECT_EQ(text(file), "a good picture") << command;
    EXPECT_EQ(std::distance(fs::directory_iterator(folder / "pics"), fs::directory_iterator{}), 1) << command;
  }
}

TEST_F(BadLuck, ARunThatCannotBeReadIsNamedAndNotPassedOver) {
  make_and_run();
  ASSERT_EQ(cli("run a.pour --frames 1-3").code, 0);
  const std::string whole = text("a.runs/002/run.json");
  write_whole(folder / "a.runs/002/run.json", whole.substr(0, whole.size() / 2));
  for (const char* command : {"picture a.pour --size 64x36 --out p", "measure a.pour",
                              "deliver a.pour --video v.mp4 --size 64x36"}) {
    const Result r = cli(command);
    EXPECT_EQ(r.code, 1) << command;
    EXPECT_THAT(r.out, AllOf(HasSubstr("a.runs/002/run.json"), HasSubstr("a.runs/001"))) << command;
  }
  EXPECT_FALSE(fs::exists(folder / "v.mp4"));
  EXPECT_EQ(cli("measure a.runs/001").code, 0) << "the other one is hidden by nothing";

  write_whole(folder / "a.runs/002/run.json", whole);
  fs::permissions(folder / "a.runs/002", fs::perms::none);
  const Result r = as_somebody("measure a.pour");
  EXPECT_EQ(r.code, 1);
  EXPECT_THAT(r.out, HasSubstr("a.runs/002"));
  fs::permissions(folder / "a.runs/002", fs::perms::owner_all);
  fs::permissions(folder / "a.runs", fs::perms::none);
  for (const char* command : {"measure a.pour", "run a.pour", "run a.pour --resume"}) {
    const Result closed = as_somebody(command);
    EXPECT_EQ(closed.code, 3) << command << closed.out;
    EXPECT_THAT(closed.out, HasSubstr("access is not allowed"));
  }
  fs::permissions(folder / "a.runs", fs::perms::owner_all);
}

TEST_F(BadLuck, LostFramesAreComputedAgainToTheBit) {
  make_and_run();
  std::vector<std::string> before(7);
  for (int f = 1; f <= 6; ++f) before[size_t(f)] = bytes("a.runs/001", f);
  const std::string frames = "a.runs/001/frames/";
  fs::remove(folder / (frames + "000002.vdb"));
  fs::resize_file(folder / (frames + "000004.vdb"), 100);
  write_whole(folder / (frames + "000005.vdb"), before[6]);  // whole, but another frame
  EXPECT_THAT(cli("picture a.runs/001 --frames 5 --size 64x36 --out p").out, HasSubstr("missing or torn: 5"));
  const Result r = cli("run a.runs/001 --resume");
  ASSERT_EQ(r.code, 0) << r.out;
  EXPECT_THAT(r.out, HasSubstr("computed again: 2, 4-5."));
  for (int f = 1; f <= 6; ++f) EXPECT_EQ(bytes("a.runs/001", f), before[size_t(f)]) << f;
  EXPECT_EQ(cli("run a.pour --resume").code, 1) << "now nothing is left to do";

  // An unfinished run too, and with records that break off in the middle.
  change("a.runs/001/frames.jsonl", "{\"frame\":3,", "{\"frame\":3");
  EXPECT_THAT(load_run(folder / "a.runs/001").damage, HasSubstr("line 3"));
  ASSERT_EQ(cli("run a.pour --resume --frames 1-8").code, 0);
  const pour::Run run = load_run(folder / "a.runs/001");
  EXPECT_EQ(run.damage, "");
  EXPECT_EQ(run.frames.size(), 8u);
  EXPECT_EQ(run.state, RunState::done);
  for (int f = 1; f <= 6; ++f) EXPECT_EQ(bytes("a.runs/001", f), before[size_t(f)]) << f;
}

TEST_F(BadLuck, PathsLeadToTheSameWhereverOneStands) {
  make_and_run();
  ASSERT_EQ(cli("set a.pour look.exposure=2").code, 0);
  ASSERT_EQ(cli("picture a.runs/001 --frames 6 --size 64x36 --out plain").code, 0);
  ASSERT_EQ(cli("picture a.runs/001/ --frames 6 --size 64x36 --out slash").code, 0);
  ASSERT_EQ(shell("cd " + (folder / "a.runs/001").string() +
                  " && " EASY_POUR_CLI " picture . --frames 6 --size 64x36 --out ../../inside")
                .code,
            0);
  fs::create_directory_symlink(folder / "a.runs/001", folder / "link");
  ASSERT_EQ(cli("picture link --frames 6 --size 64x36 --out linked").code, 0);
  for (const char* other : {"slash", "inside", "linked"})
    EXPECT_EQ(text(fs::path(other) / "a.000006.png"), text("plain/a.000006.png")) << other;
  EXPECT_EQ(cli("run a.runs/001").code, 2) << "a run is no shot";
  for (const char* name : {"NOEXT", "UPPER.POUR"}) {  // what runs is looked at under the same name
    fs::copy_file(folder / "a.pour", folder / name);
    ASSERT_EQ(cli(std::string("run ") + name + " --frames 1-2").code, 0);
    EXPECT_EQ(cli(std::string("picture ") + name + " --frames 2 --size 64x36 --out " + name + "-p").code, 0);
  }
}

TEST_F(BadLuck, AForeignCheckpointIsNotUsed) {
  make_and_run("1-4");
  make("b.pour", "pours.mint.warmth=90°C");
  ASSERT_EQ(cli("run b.pour --frames 1-4").code, 0);
  ASSERT_EQ(cli("run b.pour --frames 1-8").code, 0);
  // The same shot, and its own frame 4: it is as good as the one that was there.
  const std::string expected = bytes("b.runs/002", 8);
  fs::copy_file(folder / "a.runs/001/checkpoint", folder / "b.runs/001/checkpoint",
                fs::copy_options::overwrite_existing);
  Result r = cli("run b.runs/001 --resume --frames 1-8");
  ASSERT_EQ(r.code, 0) << r.out;
  EXPECT_THAT(r.out, HasSubstr("belongs to another run"));
  EXPECT_EQ(bytes("b.runs/001", 8), expected) << "computed from the first frame instead";
}

TEST_F(BadLuck, TheRunThatIsNamedIsResumedAndOneAtATime) {
  make("a.pour", "film.frames=400");
  const pid_t first = start({"run", "a.pour"});
  const fs::path one = folder / "a.runs/001";
  ASSERT_TRUE(comes_true([&] { return fs::exists(one / "frames/000003.vdb"); }));
  const auto writer = writer_of(one);
  ASSERT_TRUE(writer);
  EXPECT_EQ(writer->process, first);
  for (const char* which : {"a.pour", "a.runs/001"}) {
    const Result r = cli(std::string("run ") + which + " --resume");
    EXPECT_EQ(r.code, 3) << which << r.out;
    EXPECT_THAT(r.out, HasSubstr(std::to_string(first))) << "it says who";
  }
  kill(first, SIGHUP), kill(first, SIGHUP), kill(first, SIGTERM);  // as often as one likes
  int status = 0;
  waitpid(first, &status, 0);
  EXPECT_EQ(WEXITSTATUS(status), 0) << "the terminal that closes is a polite stop";
  EXPECT_EQ(load_run(one).state, RunState::stopped);
  EXPECT_TRUE(has_checkpoint(load_run(one)));
  EXPECT_FALSE(writer_of(one));

  const int had = load_run(one).newest_frame();
  ASSERT_EQ(cli("set a.pour film.frames=4").code, 0);
  ASSERT_EQ(cli("run a.pour --frames 1-2").code, 0);
  EXPECT_EQ(cli("run a.runs/002 --resume --frames 1-3").code, 0) << "a finished one may be made longer";
  EXPECT_EQ(load_run(one).newest_frame(), had) << "the other one is left alone";
  EXPECT_EQ(load_run(folder / "a.runs/002").newest_frame(), 3);
  EXPECT_EQ(cli("run a.pour --resume --detail final").code, 2) << "cells are the run's own";
}

TEST_F(BadLuck, StopIsHeardWithinAFrame) {
  // Frames of many steps.
  make("a.pour", "pours.mint.speed=4 film.frames=3 run.courant=0.2");
  const pid_t child = start({"run", "a.pour"});
  ASSERT_TRUE(comes_true([&] { return fs::exists(folder / "a.runs/001/frames/000001.vdb"); }));
  std::this_thread::sleep_for(std::chrono::milliseconds(300));
  kill(child, SIGTERM);
  int status = 0;
  waitpid(child, &status, 0);
  const pour::Run stopped = load_run(folder / "a.runs/001");
  ASSERT_EQ(stopped.state, RunState::stopped);
  const Staging staging(stopped.shot);
  const auto flows = flows_of(staging);
  read_checkpoint(stopped, flows);
  EXPECT_GT(flows[0]->measure().substeps, 0) << "in the middle of a frame";
  // To the bit as if it had never been stopped.
  ASSERT_EQ(cli("run a.pour --resume").code, 0);
  ASSERT_EQ(cli("run a.pour").code, 0);
  for (int f = 1; f <= 3; ++f) EXPECT_EQ(bytes("a.runs/001", f), bytes("a.runs/002", f)) << f;
  EXPECT_EQ(load_run(folder / "a.runs/001").frames[2].smoke().substeps,
            load_run(folder / "a.runs/002").frames[2].smoke().substeps);
}

TEST_F(BadLuck, NumbersAreReadWithTheirRange) {
  make();
  for (const char* frames :
       {"99999999999-", "4294967298", "1-4294967298", "0-3", "3-1", "1--3", "1-3x", " 1", "17", "10-17"}) {
    const Result r = cli(std::string("run a.pour --frames '") + frames + "'");
    EXPECT_EQ(r.code, 2) << frames << r.out;
  }
  EXPECT_FALSE(fs::exists(folder / "a.runs"));
  for (const char* size : {"4294967616x4294967476", "1e3x1e3", "64x36x1", "x", "64x"})
    EXPECT_EQ(cli(std::string("picture a.pour --out p --size ") + size).code, 1) << "no run yet";
  ASSERT_EQ(cli("run a.pour --frames 1-2").code, 0);
  for (const char* size : {"4294967616x4294967476", "1e3x1e3", "64x36x1", "x", "64x"})
    EXPECT_EQ(cli(std::string("picture a.pour --out p --size ") + size).code, 2) << size;
  const std::string key = "\"easy_pour\": ";
  change("a.pour", key + std::to_string(shot_file_version), key + "4294967297");
  EXPECT_EQ(cli("show a.pour").code, 1) << "this is not version 1";
}

TEST_F(BadLuck, ARecordThatWasChangedIsNotBelieved) {
  make_and_run("1-2");
  for (const char* other : {"-1", "1e308", "0.0041"}) {
    const std::string whole = text("a.runs/001/run.json");
    change("a.runs/001/run.json", "\"cell_size\": 0.004", std::string("\"cell_size\": ") + other);
    const Result r = cli("picture a.runs/001 --frames 2 --size 64x36 --out p");
    EXPECT_EQ(r.code, 1) << other;
    EXPECT_THAT(r.out, HasSubstr("run.json")) << other;
    write_whole(folder / "a.runs/001/run.json", whole);
  }
  EXPECT_EQ(cli("picture a.runs/001 --frames 2 --size 64x36 --out p").code, 0);
}

TEST_F(BadLuck, NamesAndPlacesThatCannotBeAreTold) {
  make_and_run("1-2");
  const std::string longest(300, 'n');
  for (const std::string& command :
       {"show " + longest, "run " + longest, "picture " + longest + " --out p",
        "new fill-a-word --out " + longest, "picture a.pour --size 64x36 --out " + longest,
        "deliver a.pour --size 64x36 --video " + longest}) {
    const Result r = cli(command);
    EXPECT_THAT(r.code, testing::AnyOf(1, 3)) << command << r.out;
    EXPECT_THAT(r.out, AllOf(HasSubstr("nnn"), Not(HasSubstr("filesystem")))) << command;
  }
  fs::create_directory(folder / "closed");
  fs::copy_file(folder / "a.pour", folder / "closed/a.pour");
  fs::permissions(folder / "closed", fs::perms::none);
  for (const char* command : {"show closed/a.pour", "run closed/a.pour", "check closed/a.pour",
                              "picture closed/a.runs/001 --out p", "set closed/a.pour film.frame_rate=25"}) {
    const Result r = as_somebody(command);
    EXPECT_THAT(r.code, testing::AnyOf(1, 3)) << command << r.out;
    EXPECT_THAT(r.out, HasSubstr("closed/a")) << command;
  }
  fs::permissions(folder / "closed", fs::perms::owner_all);
}

TEST_F(BadLuck, WhatIsTooMuchIsSaidBeforeAnythingIsMade) {
  make("a.pour", "pieces.word.letter_height=2m pieces.word.depth=90cm run.cell_size=0.5mm");
  // In little memory: the sanitizers take more than that for themselves.
  const bool sanitized = std::string(EASY_POUR_CLI).find("asan") != std::string::npos;
  const Result check = shell("cd " + folder.string() + (sanitized ? "" : " && ulimit -v 1500000") +
                             " && " EASY_POUR_CLI " check a.pour");
  EXPECT_EQ(check.code, 1) << check.out;
  EXPECT_THAT(check.out, HasSubstr("Not enough memory"));
  EXPECT_EQ(cli("run a.pour").code, 3);
  EXPECT_FALSE(fs::exists(folder / "a.runs")) << "a run that was refused leaves nothing";

  make("fast.pour",
       "pours.mint.speed=100 run.cell_size=0.05mm film.frame_rate=1 pieces.word.letter_height=2mm "
       "pieces.word.depth=1mm pieces.word.bevel=0");
  const Result fast = cli("check fast.pour");
  EXPECT_EQ(fast.code, 1) << fast.out;
  EXPECT_THAT(fast.out, HasSubstr("over 2000 steps"));
  EXPECT_EQ(cli("run fast.pour").code, 1);
  EXPECT_FALSE(fs::exists(folder / "fast.runs"));
}

TEST_F(BadLuck, SavingKeepsLinksAndRights) {
  make();
  fs::create_directory(folder / "real");
  fs::rename(folder / "a.pour", folder / "real/shot.pour");
  fs::create_symlink("real/shot.pour", folder / "a.pour");
  ::chmod((folder / "real/shot.pour").c_str(), 0600);
  ASSERT_EQ(cli("set a.pour film.frame_rate=30").code, 0);
  EXPECT_TRUE(fs::is_symlink(folder / "a.pour"));
  EXPECT_THAT(text("real/shot.pour"), HasSubstr("\"frame_rate\": 30"));
  struct stat s {};
  ASSERT_EQ(::stat((folder / "real/shot.pour").c_str(), &s), 0);
  EXPECT_EQ(s.st_mode & 0777, 0600u);

  const std::string before = text("a.pour");
  const Result again = cli("new rising-smoke --out a.pour");
  EXPECT_EQ(again.code, 2);
  EXPECT_THAT(again.out, HasSubstr("--replace"));
  EXPECT_EQ(text("a.pour"), before);
  EXPECT_EQ(cli("new rising-smoke --out a.pour --replace").code, 0);
  EXPECT_NE(text("a.pour"), before);
}

TEST_F(BadLuck, AVideoIsAlwaysAFile) {
  make_and_run("1-2");
  const std::string deliver = "deliver a.runs/001 --size 64x36 --video ";
  ASSERT_EQ(cli(deliver + "a:b.mp4").code, 0) << "a colon is a letter of a name";
  EXPECT_GT(fs::file_size(folder / "a:b.mp4"), 500u);
  const Result web = cli(deliver + "http://127.0.0.1:9/v.mp4");
  EXPECT_EQ(web.code, 3);
  EXPECT_THAT(web.out, HasSubstr("there is no such file or folder"));
  ASSERT_EQ(::mknod((folder / "pipe.mp4").c_str(), S_IFIFO | 0600, 0), 0);
  const Result device = cli(deliver + "pipe.mp4");
  EXPECT_EQ(device.code, 3);
  EXPECT_THAT(device.out, HasSubstr("not an ordinary file"));
  EXPECT_TRUE(fs::is_fifo(folder / "pipe.mp4"));
  // What can't be is said before the first picture.
  for (const std::string& wrong :
       {deliver + "no/such/v.mp4", std::string("deliver a.runs/001 --size 65x36 --video v.mp4"),
        std::string("picture a.runs/001 --size 64x36 --out /proc/none")}) {
    const Result r = cli(wrong);
    EXPECT_NE(r.code, 0) << wrong;
    EXPECT_THAT(r.out, Not(HasSubstr(" of 2"))) << wrong;
  }
}

TEST_F(BadLuck, WhatKilledWritersLeftIsSwept) {
  make();
  std::ofstream(folder / ".writing-4194999-3") << "half a shot";
  std::ofstream(folder / ".writing-own-notes") << "somebody's";
  ASSERT_EQ(cli("set a.pour film.frame_rate=30").code, 0);
  EXPECT_FALSE(fs::exists(folder / ".writing-4194999-3"));
  EXPECT_TRUE(fs::exists(folder / ".writing-own-notes")) << "only what is ours";
}

TEST_F(BadLuck, TheCommandLineSaysWhatIsWrong) {
  make_and_run("1-2");
  const Result typo = cli("picure a.pour --out p");
  EXPECT_EQ(typo.code, 2);
  EXPECT_THAT(typo.out, AllOf(HasSubstr("“picure”"), HasSubstr("Did you mean “picture”")));
  const Result empty = cli("picture a.pour --out ''");
  EXPECT_EQ(empty.code, 2);
  EXPECT_THAT(empty.out, HasSubstr("--out"));
  EXPECT_EQ(cli("show a.pour > /dev/full").code, 3) << "what was not said is no success";
  EXPECT_EQ(cli("run a.pour --frames 1-1 > /dev/full").code, 3);
  EXPECT_EQ(load_run(folder / "a.runs/002").state, RunState::done) << "frames matter more";
  shell("cd " + folder.string() + " && { " EASY_POUR_CLI " run a.pour; echo $? > code; } | true");
  EXPECT_EQ(text("code"), "0\n") << "a reader that goes away ends no run";
  EXPECT_EQ(load_run(folder / "a.runs/003").newest_frame(), 16);

  ASSERT_EQ(cli("set a.pour film.title=\"$(printf 'red \\033[31m')\"").code, 0);
  const Result shown = cli("show a.pour film.title");
  EXPECT_EQ(shown.out, "film.title = red \\x1b[31m\n") << "no name can colour a terminal";
  EXPECT_THAT(cli("show \"$(printf 'no\\033such')\"").out, HasSubstr("no\\x1bsuch"));
  EXPECT_EQ(cli("set a.pour film.title=\"$(printf 'bad \\377')\"").code, 1) << "this is no UTF-8";

  // A message begins a line of its own.
  fs::resize_file(folder / "a.runs/003/frames/000002.vdb", 3000);
  write_whole(folder / "p2", "in the way");
  const Result glued = on_small_disk(1, "picture a.runs/001 --size 320x180 --out p3");
  EXPECT_THAT(glued.out, testing::MatchesRegex("(.|\n)*(^|\n)[^\n]*could not be written[^\n]*\n"));
}
