// Runs on disk: records, frames, checkpoints, and going on where one stopped.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <unistd.h>
#include <atomic>

#include <cstring>
#include <fstream>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/file.h"
#include "base/json.h"
#include "core/gas_world.h"
#include "deliver/deliver.h"
#include "frames/smoke_frame.h"
#include "picture/quantity.h"
#include "run/checkpoint.h"
#include "run/run_folder.h"
#include "run/run_lock.h"
#include "run/simulate.h"
#include "run/staging.h"
#include "shape/mesh.h"
#include "shot/clock.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"

using namespace pour;
using testing::HasSubstr;

namespace {

class Runs : public testing::Test {
 protected:
  fs::path folder = fs::path(testing::TempDir()) / ("runs" + std::to_string(getpid()));
  fs::path file = folder / "word.pour";
  void SetUp() override {
    fs::remove_all(folder);
    fs::create_directories(folder);
    save_shot(small(), file);
  }
  void TearDown() override { fs::remove_all(folder); }
  static Shot small() {
    Shot s = find_recipe("fill-a-word").make();
    std::get<Lettering>(s.pieces[0].shape).text = "I";
    s.film.frames = 6;
    s.run.detail = Detail::custom, s.run.cell_size = 0.006;
    return s;
  }
  pour::Run make(int first = 1, int last = 6) { return create_run(file, small(), {first, last}); }
  template <class F>
  static std::string fault_of(const F& f) {
    try {
      f();
    } catch (const Fault& e) {
      return e.what();
    }
    return "";
  }
};

/// A state with a bit of everything in it.
GasWorld smoky() {
  GasWorld w;
  w.cell_size = 0.01, w.cells = {31, 31, 31};
  Source s = ball_source({0.15, 0.15, 0.15}, 0.04, 0.05);
  s.heat = 40, s.palette.colors[0] = {0.9, 0.4, 0.1};
  w.sources = {s};
  return w;
}

}  // namespace

TEST_F(Runs, AreNumberedAndListedNewestFirst) {
  EXPECT_TRUE(list_runs(file).runs.empty());
  for (const char* name : {"001", "002", "003"}) {
    const pour::Run run = make();
    EXPECT_EQ(run.name(), name);
    save_run(run);
  }
  const auto all = list_runs(file).runs;
  ASSERT_EQ(all.size(), 3u);
  EXPECT_EQ(all.front().name(), "003");
  EXPECT_EQ(all.front().folder.parent_path(), runs_folder(file));
  EXPECT_EQ(all.front().shot, small());
  fs::create_directories(runs_folder(file) / "notes");  // somebody's own folder is left alone
  EXPECT_EQ(list_runs(file).runs.size(), 3u);
  fs::remove_all(runs_folder(file) / "001");
  EXPECT_EQ(make().name(), "004") << "not 001 again, which would look like the oldest";
  fs::remove_all(runs_folder(file) / "004");
  EXPECT_EQ(make().name(), "005") << "a number never comes back, not even the newest one's";
  fs::rename(runs_folder(file) / "005", runs_folder(file) / "1000");
  EXPECT_EQ(list_runs(file).runs.front().number(), 1000) << "by number, not by letters";
  for (const char* own : {"2000 copy", "20261125093000", "-7"})
    fs::create_directories(runs_folder(file) / own);
  EXPECT_EQ(make().name(), "1001") << "folders of somebody's own don't count";
}

TEST_F(Runs, EverythingInARecordIsReadBack) {
  pour::Run run = make(2, 5);
  run.cell_size = 0.0042, run.state = RunState::stopped, run.message = "a “note”", run.seconds = 1.5;
  FrameRecord r;
  r.frame = 2, r.time = 0.1, r.wall = 0.25, r.peak_rss = 1e9;
  r.flows = {{"smoke", 1e7, 0, 0, {1e-3, 2e-4, 3e-5, 4e-6, -5e-7, 6e-8}, {1, -2, 3}, 0.7, 1e-12, 1e-3, 12, 3},
             {"liquid", 2e5, 1e6, 2e-7, {1e-4, 0, 0, 0, 1e-9, 9e-5}, {0, 0.5, 0}, 2.5, 1e-3, 1e-2, 40, 5}};
  run.frames = {r};
  save_run(run), store_record(run, r);
  const pour::Run back = load_run(run.folder);
  EXPECT_EQ(back.cell_size, 0.0042);
  EXPECT_EQ(back.first_frame, 2);
  EXPECT_EQ(back.last_frame, 5);
  EXPECT_EQ(back.state, RunState::stopped);
  EXPECT_EQ(back.message, run.message);
  EXPECT_EQ(back.shot, run.shot);
  ASSERT_EQ(back.frames.size(), 1u);
  const FrameRecord& b = back.frames[0];
  EXPECT_EQ(b.frame, 2);
  EXPECT_EQ(b.time, 0.1);
  EXPECT_EQ(b.peak_rss, 1e9);
  ASSERT_EQ(b.flows.size(), 2u);
  for (size_t i = 0; i < 2; ++i) {
    EXPECT_EQ(b.flows[i].name, r.flows[i].name);
    EXPECT_EQ(b.flows[i].particles, r.flows[i].particles);
    EXPECT_EQ(b.flows[i].drops, r.flows[i].drops);
    EXPECT_EQ(b.flows[i].ledger.numeric, r.flows[i].ledger.numeric);
    EXPECT_EQ(b.flows[i].ledger.in_shot, r.flows[i].ledger.in_shot);
    EXPECT_EQ(b.flows[i].centroid, r.flows[i].centroid);
    EXPECT_EQ(b.flows[i].kinetic_energy, r.flows[i].kinetic_energy);
    EXPECT_EQ(b.flows[i].solver_iterations, r.flows[i].solver_iterations);
  }
  EXPECT_THAT(measure_table(back), HasSubstr(",smoke_poured,"));
  EXPECT_THAT(measure_table(back), HasSubstr(",liquid_poured,"));
  EXPECT_DOUBLE_EQ(back.pace().seconds_per_cell, 0.25 / (3e7 + 1e6));
  EXPECT_DOUBLE_EQ(back.pace().speed, back.frames[0].smoke().max_speed);
}

TEST_F(Runs, RunJsonIsForAnybodyToRead) {
  pour::Run run = make();
  simulate(run, {});
  const auto j = nlohmann::json::parse(read_whole(run.folder / "run.json"));
  EXPECT_EQ(j["easy_pour_run"], 2);
  EXPECT_EQ(j["state"], "done");
  EXPECT_EQ(j["shot"]["pieces"][0]["text"], "I");
  std::istringstream lines(read_whole(run.folder / "frames.jsonl"));
  int frame = 0;
  for (std::string line; std::getline(lines, line);) EXPECT_EQ(nlohmann::json::parse(line)["frame"], ++frame);
  EXPECT_EQ(frame, 6);
}

TEST_F(Runs, FoldersThatAreNoRunsSaySo) {
  EXPECT_THAT(fault_of([&] { load_run(folder); }), HasSubstr("run.json"));
  pour::Run run = make();
  write_whole(run.folder / "run.json", "{ \"easy_pour_run\": 1, ");
  EXPECT_NE(fault_of([&] { load_run(run.folder); }), "");
  write_whole(run.folder / "run.json", "{ \"easy_pour_run\": 99 }");
  EXPECT_THAT(fault_of([&] { load_run(run.folder); }), HasSubstr("another version"));
  const RunList all = list_runs(file);
  ASSERT_EQ(all.bad.size(), 1u) << "a broken run is named";
  EXPECT_EQ(all.bad[0].number, run.number());
  EXPECT_THAT(all.bad[0].problem, HasSubstr("another version"));
}

// A run as version 1 of the format had it, kept from that time: its records stood in run.json.
TEST_F(Runs, RunsOfVersion1AreRead) {
  const fs::path data = fs::path(EASY_POUR_SOURCE) / "tests/data";
  fs::copy(data / "version-1.runs", folder / "version-1.runs", fs::copy_options::recursive);
  EXPECT_EQ(std::get<Lettering>(load_shot(data / "version-1.pour").pieces[0].shape).text, "I");
  pour::Run run = load_run(folder / "version-1.runs/001");
  EXPECT_EQ(run.state, RunState::done);
  EXPECT_EQ(run.frames.size(), 3u);
  EXPECT_EQ(run.cell_size, 0.012);
  EXPECT_GT(run.frames[2].smoke().ledger.poured, 0);
  EXPECT_EQ(missing_frames(run, {1, 3}), (std::vector<int>{2, 3})) << "only the first one was kept";
  EXPECT_NO_THROW(read_frame(run.stored_frame(1)));
  EXPECT_THAT(fault_of([&] { simulate(run, {.resume = true}); }), HasSubstr("0.1.0"))
      << "another version's frames would not fit";
}

TEST_F(Runs, NoRecordOfARunIsTooStrangeToBeExplained) {
  const pour::Run run = make();
  const std::string whole = read_whole(run.folder / "run.json");
  const auto told = [&](const std::string& text) {
    write_whole(run.folder / "run.json", text);
    return fault_of([&] { load_run(run.folder); });
  };
  const size_t deep = 100000;
  EXPECT_THAT(told(std::string(deep, '[') + std::string(deep, ']')), HasSubstr("brackets"));
  EXPECT_THAT(told("{\"easy_pour_run\": 1e999}"), HasSubstr("too large"));
  EXPECT_THAT(told("[]"), HasSubstr("no record of a run"));
  for (const auto& [from, to] : {std::pair{"\"cell_size\": 0.0", "\"cell_size\": -1"},
                                 {"\"first_frame\": 1", "\"first_frame\": 7"},
                                 {"\"last_frame\": 6", "\"last_frame\": 4294967302"},
                                 {"\"state\": \"running\"", "\"state\": \"walking\""}}) {
    std::string text = whole;
    ASSERT_NE(text.find(from), std::string::npos) << from;
    text.replace(text.find(from), std::string(from).size(), to);
    EXPECT_THAT(told(text), HasSubstr("was changed")) << to;
    // Sealed again, as no accident does, it still is not what can be.
    auto j = nlohmann::ordered_json::parse(text);
    j.erase("sum");
    EXPECT_THAT(told(sealed(j).dump()), HasSubstr("run.json")) << to;
  }
}

TEST_F(Runs, StoppedAndResumedIsTheSameToTheBit) {
  pour::Run whole = make();
  simulate(whole, {});
  EXPECT_EQ(whole.state, RunState::done);
  pour::Run parts = make();
  int seen = 0;
  simulate(parts,
           {.on_frame = [&](const Progress& p) { seen = p.frame; }, .stop = [&] { return seen >= 3; }});
  EXPECT_EQ(parts.state, RunState::stopped);
  EXPECT_TRUE(has_checkpoint(parts));
  EXPECT_FALSE(parts.has_frame(5));
  pour::Run again = load_run(parts.folder);
  simulate(again, {.resume = true});
  EXPECT_EQ(again.state, RunState::done);
  for (int f = 1; f <= 6; ++f)
    EXPECT_EQ(read_whole(whole.frame_file(f)), read_whole(again.frame_file(f))) << f;
  ASSERT_EQ(again.frames.size(), 6u);
  for (size_t i = 0; i < 6; ++i)
    EXPECT_EQ(again.frames[i].smoke().ledger.in_shot, whole.frames[i].smoke().ledger.in_shot);
}

// What a record says of a frame does not depend on where its run was stopped on the way to it.
TEST_F(Runs, StoppedWithinFramesTheirRecordsAreTheSame) {
  Shot s =
      find_recipe("tea-fills-a-word").make("OK");  // two letters, which come to a frame one after the other
  s.run.detail = Detail::custom, s.run.cell_size = 0.009, s.film.frames = 4;
  s.pours[0].rate = 2e-4;
  save_shot(s, folder / "shot.pour");
  pour::Run whole = create_run(folder / "shot.pour", s);
  simulate(whole, {});
  for (int after = 1; after < 12; after += 2) {
    pour::Run parts = create_run(folder / "shot.pour", s);
    std::atomic<int> asked = 0;
    simulate(parts, {.stop = [&] { return asked++ >= after; }});
    pour::Run again = load_run(parts.folder);
    simulate(again, {.resume = true});
    ASSERT_EQ(again.frames.size(), whole.frames.size()) << after;
    for (size_t i = 0; i < whole.frames.size(); ++i) {
      FrameRecord a = again.frames[i], b = whole.frames[i];
      a.wall = b.wall = a.peak_rss = b.peak_rss = 0;
      EXPECT_EQ(record_as_json(a), record_as_json(b)) << after;
    }
  }
}

// What the shot is for: nothing of a letter stays empty, its feet and corners included.
TEST_F(Runs, TheWordFillsToItsWalls) {
  Shot shot = find_recipe("fill-a-word").make();
  std::get<Lettering>(shot.pieces[0].shape).text = "ARK", shot.run.detail = Detail::custom,
  shot.run.cell_size = 0.004;
  save_shot(shot, file);
  pour::Run run = create_run(file, shot);
  run.first_frame = run.last_frame = int(last_frame_of(Clock(shot), shot.pours[0].windows.list[0]));
  simulate(run, {});
  const SmokeVolume v = read_frame(run.frame_file(run.last_frame)).front();
  const GasWorld world = Staging(shot).gas_world(0);
  ASSERT_EQ(world.rooms.size(), 3u);
  for (const Room& room : world.rooms) {
    std::vector<double> inside;
    for (int k = 0; k < v.count.z; ++k)
      for (int j = 0; j < v.count.y; ++j)
        for (int i = 0; i < v.count.x; ++i) {
          const Vec3d p = Vec3d{v.low.x + i + 0.5, v.low.y + j + 0.5, v.low.z + k + 0.5} * v.cell_size;
          if (room.inside.distance(p) < -v.cell_size)
            inside.push_back(
                v.density[size_t(i) + size_t(v.count.x) * (size_t(j) + size_t(v.count.y) * size_t(k))]);
        }
    ASSERT_GT(inside.size(), 500u);
    double mean = 0;
    for (const double d : inside) mean += d / double(inside.size());
    const auto thin = std::count_if(inside.begin(), inside.end(), [&](double d) { return d < 0.1 * mean; });
    EXPECT_LT(double(thin), 0.01 * double(inside.size()));
  }
}

TEST_F(Runs, ReportEachFrameAndKeepOnlyThoseAskedFor) {
  pour::Run run = make(3, 5);
  std::vector<int> frames;
  simulate(run, {.on_frame = [&](const Progress& p) {
             frames.push_back(p.frame);
             EXPECT_EQ(p.last_frame, 5);
             EXPECT_GE(p.seconds_left, 0);
             EXPECT_EQ(p.record.frame, p.frame);
           }});
  EXPECT_EQ(frames, (std::vector<int>{1, 2, 3, 4, 5})) << "what comes before is computed, but not kept";
  EXPECT_FALSE(run.has_frame(2));
  EXPECT_TRUE(run.has_frame(3));
  EXPECT_TRUE(run.has_frame(5));
  EXPECT_FALSE(run.has_frame(6));
}

TEST_F(Runs, AShotThatCannotRunLeavesARunThatSaysWhy) {
  pour::Run run = make();
  run.shot.pours.clear();
  EXPECT_THAT(fault_of([&] { simulate(run, {}); }), HasSubstr("Fluid"));
  EXPECT_EQ(load_run(run.folder).state, RunState::failed);
  EXPECT_THAT(load_run(run.folder).message, HasSubstr("Fluid"));
}

TEST_F(Runs, TheTableHasALineForEachFrame) {
  pour::Run run = make();
  simulate(run, {});
  const std::string table = measure_table(run);
  std::istringstream lines(table);
  std::string line;
  std::getline(lines, line);
  const auto columns = std::count(line.begin(), line.end(), ',');
  EXPECT_EQ(columns, 20);
  int frame = 0;
  while (std::getline(lines, line)) {
    EXPECT_EQ(std::count(line.begin(), line.end(), ','), columns);
    EXPECT_EQ(std::stoi(line), ++frame);
  }
  EXPECT_EQ(frame, 6);
}

TEST_F(Runs, TornCheckpointsAreNotTrusted) {
  pour::Run run = make();
  int seen = 0;
  simulate(run, {.on_frame = [&](const Progress& p) { seen = p.frame; }, .stop = [&] { return seen >= 3; }});
  const fs::path checkpoint = run.folder / "checkpoint";
  const std::string whole = read_whole(checkpoint);
  const Staging staging(run.shot);
  const auto flows = flows_of(staging);
  const int frame = read_checkpoint(run, flows);
  EXPECT_EQ(frame, run.newest_frame());
  EXPECT_GE(frame, 3);
  const double time = flows[0]->time();
  EXPECT_GT(flows[0]->measure().ledger.poured, 0);
  for (const size_t keep : {size_t(0), size_t(10), whole.size() / 2, whole.size() - 1}) {
    write_whole(checkpoint, whole.substr(0, keep));
    EXPECT_NE(fault_of([&] { read_checkpoint(run, flows); }), "") << keep;
  }
  std::string flipped = whole;
  flipped[whole.size() / 2] = char(flipped[whole.size() / 2] ^ 4);
  write_whole(checkpoint, flipped);
  EXPECT_NE(fault_of([&] { read_checkpoint(run, flows); }), "") << "one bit is enough";
  write_whole(checkpoint, whole);
  EXPECT_EQ(read_checkpoint(run, flows), frame);
  EXPECT_EQ(flows[0]->time(), time);
}

TEST_F(Runs, FramesKeepDensityAndColour) {
  Lab lab(smoky());
  for (int i = 0; i < 4; ++i) lab.solver.step(lab.s, lab.w, 0.02, lab.ledger);
  write_frame(folder / "a.vdb", {[&](FrameGrids& g) { add_smoke(g, lab.s, 0.01); }});
  write_frame(folder / "b.vdb", {[&](FrameGrids& g) { add_smoke(g, lab.s, 0.01); }});
  EXPECT_EQ(read_whole(folder / "a.vdb"), read_whole(folder / "b.vdb")) << "the same bytes every time";
  const SmokeVolume v = read_frame(folder / "a.vdb").front();
  EXPECT_NEAR(v.cell_size, 0.01, 1e-12);
  ASSERT_EQ(v.density.size(), size_t(v.count.x) * size_t(v.count.y) * size_t(v.count.z));
  double mass = 0, worst_color = 0;
  for (size_t i = 0; i < v.density.size(); ++i) {
    mass += v.density[i] * 1e-6;
    if (v.density[i] < 1e-6f) continue;
    worst_color = std::max({worst_color, std::abs(v.color[3 * i] - 0.9), std::abs(v.color[3 * i + 2] - 0.1)});
  }
  EXPECT_NEAR(mass, lab.ledger.in_shot, 0.002 * lab.ledger.in_shot);
  EXPECT_LT(worst_color, 0.01);
}

TEST_F(Runs, FramesShowSpeedAndWarmthInColours) {
  Lab lab(smoky());
  for (int i = 0; i < 4; ++i) lab.solver.step(lab.s, lab.w, 0.02, lab.ledger);
  write_frame(folder / "a.vdb", {[&](FrameGrids& g) { add_smoke(g, lab.s, 0.01); }});
  const SmokeVolume v = read_frame(folder / "a.vdb", true).front();
  ASSERT_EQ(v.speed.size(), v.density.size());
  // The state's own values at the middle of the source, from the faces on both sides.
  const Vec3i at{15, 16, 15}, in = at - v.low;
  const size_t i = (size_t(in.z) * size_t(v.count.y) + size_t(in.y)) * size_t(v.count.x) + size_t(in.x);
  const auto mean = [&](const Floats& f, const Vec3i& next) {
    return 0.5 * (double(value_at(lab.s, f, at)) + double(value_at(lab.s, f, at + next)));
  };
  const double speed =
      length(Vec3d{mean(lab.s.u, {1, 0, 0}), mean(lab.s.v, {0, 1, 0}), mean(lab.s.w, {0, 0, 1})});
  ASSERT_GT(speed, 0.01);
  EXPECT_NEAR(v.speed[i], speed, 2e-3 * speed) << "half floats";
  EXPECT_NEAR(v.warmth[i], value_at(lab.s, lab.s.heat, at), 0.2);

  double most = 0;
  const LitSmoke lit = coloured_frame({v}, Quantity::warmth, Look(), SmokeWalls(), 0, most).front();
  EXPECT_NEAR(most, *std::max_element(v.warmth.begin(), v.warmth.end()), 1e-6);
  const Color c = ramp(v.warmth[i] / most);
  for (size_t k = 0; k < 3; ++k) EXPECT_NEAR(lit.rgba[4 * i + k], (std::array{c.r, c.g, c.b}[k]), 1e-5);
  EXPECT_NEAR(lit.rgba[4 * i + 3], Look().thickness * v.density[i], 1e-3);

  // Each colour is lighter than the one before it (luminance of ITU-R BT.709).
  double before = -1;
  for (int n = 0; n <= 32; ++n) {
    const Color shade = ramp(n / 32.0);
    const double luminance = 0.2126 * shade.r + 0.7152 * shade.g + 0.0722 * shade.b;
    EXPECT_GT(luminance, before);
    before = luminance;
  }
}

TEST_F(Runs, AFrameWithoutSmokeIsAFrameToo) {
  const GasState nothing;
  write_frame(folder / "a.vdb", {[&](FrameGrids& g) { add_smoke(g, nothing, 0.01); }});
  const SmokeVolume v = read_frame(folder / "a.vdb").front();
  EXPECT_TRUE(v.density.empty());
}

TEST_F(Runs, BrokenFramesAreNamed) {
  Lab lab(smoky());
  lab.solver.step(lab.s, lab.w, 0.02, lab.ledger);
  const fs::path file = folder / "000007.vdb";
  EXPECT_THAT(fault_of([&] { read_frame(file); }), HasSubstr("000007.vdb"));
  write_frame(file, {[&](FrameGrids& g) { add_smoke(g, lab.s, 0.01); }});
  const std::string whole = read_whole(file);
  for (size_t keep = 0; keep < whole.size(); keep += whole.size() / 9 + 1) {
    write_whole(file, whole.substr(0, keep));
    EXPECT_THAT(fault_of([&] { read_frame(file); }), HasSubstr("000007.vdb")) << keep;
  }
  write_whole(file, "this is no volume");
  EXPECT_THAT(fault_of([&] { read_frame(file); }), HasSubstr("000007.vdb"));
}

TEST_F(Runs, AreDeliveredAsFarAsTheyGoAndStopWhenAsked) {
  pour::Run run = make();
  simulate(run, {});
  EXPECT_EQ(frames_so_far(run), (FrameRange{1, 6}));
  std::vector<int> done;
  const auto options = [](FrameRange frames, DeliverProgress progress) {
    DeliverOptions o;
    o.frames = frames, o.width = 64, o.height = 36, o.progress = std::move(progress);
    return o;
  };
  EXPECT_TRUE(deliver_images(run, run.shot, folder / "all", options({2, 4}, [&](int n, int of) {
                               EXPECT_EQ(of, 3);
                               done.push_back(n);
                               return true;
                             })));
  EXPECT_EQ(done, (std::vector<int>{1, 2, 3}));
  EXPECT_EQ(std::distance(fs::directory_iterator(folder / "all"), fs::directory_iterator{}), 3);
  const auto two = [](int n, int) { return n < 2; };
  EXPECT_FALSE(deliver_images(run, run.shot, folder / "some", options({1, 6}, two)));
  EXPECT_EQ(std::distance(fs::directory_iterator(folder / "some"), fs::directory_iterator{}), 2)
      << "what was made stays";
  EXPECT_FALSE(deliver_video(run, run.shot, folder / "v.mp4", options({1, 6}, two)));
  EXPECT_FALSE(fs::exists(folder / "v.mp4")) << "half a video is none";
  run.state = RunState::stopped, run.frames.resize(4);
  EXPECT_EQ(frames_so_far(run), (FrameRange{1, 4})) << "of a run that was stopped";
}

TEST_F(Runs, PicturesAreTheSameWhoeverTakesThem) {
  pour::Run run = make();
  simulate(run, {});
  const Photographer photographer(run, run.shot);
  const Image direct = photographer.picture(6, 64, 36);
  EXPECT_EQ(direct.rgb, Photographer(run, run.shot).picture(6, 64, 36).rgb);
  EXPECT_NE(direct.rgb, photographer.picture(2, 64, 36).rgb) << "there is more smoke later";
  Shot other = run.shot;
  other.camera.azimuth = 0.8;
  EXPECT_NE(direct.rgb, Photographer(run, other).picture(6, 64, 36).rgb) << "seen with the shot's new camera";
  fs::remove(run.frame_file(5));
  EXPECT_THAT(fault_of([&] { (void)photographer.picture(5, 64, 36); }), HasSubstr("000005.vdb"));
}
