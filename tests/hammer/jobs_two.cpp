// Jobs that meet each other, what lies in their way, and too little memory.
#include <sys/stat.h>
#include <unistd.h>

#include <map>

#include "base/json.h"
#include "frames/liquid_frame.h"
#include "hammer.h"
#include "run/run_folder.h"
#include "shot/assign.h"
#include "shot/edit.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"

namespace hammer {

using namespace pour;

namespace {

void copy_run(const fs::path& common, const fs::path& folder) {
  fs::copy_file(common / "a.pour", folder / "a.pour");
  fs::copy(common / "a.runs", folder / "a.runs", fs::copy_options::recursive);
}

/// Two liquids out of one mouth over a bowl, in a second or two.
Shot small_pour() {
  Shot s = find_recipe("tea-into-a-bowl").make();
  s.run.detail = Detail::custom, s.run.cell_size = 0.009, s.film.frames = 8;
  (void)add_new_fluid<Liquid>(s, "Milk");
  s.pours.back().source = s.pours.front().source, s.pours.back().from = SourceKind::piece;
  return s;
}

}  // namespace

Try two_deliveries(const fs::path& common) {
  prepare_run(common, killed_frames);
  return [common](Luck& luck, const fs::path& folder) {
    copy_run(common, folder);
    const auto line = [&](const char* name, const char* samples) {
      return std::vector<std::string>{
          "deliver", "a.runs/001", "--size", "64x36",     "--samples",
          samples,   "--frames",   "2-6",    "--replace", name[0] == 'v' ? "--video" : "--images",
          name};
    };
    const bool film = luck.one_in(2), same = luck.one_in(2);
    const auto first = line(film ? "v.mp4" : "out", "1"),
               later = line(same ? (film ? "v.mp4" : "out") : (film ? "w.mp4" : "other"), "2");
    const auto [a, b] = tell_two(first, later, folder, int(luck.below(400)));
    must_be_polite(a, joined(first)), must_be_polite(b, joined(later));
    must(a.code == 0 || b.code == 0, "both of two deliveries fail: " + a.err + b.err);
    if (!same)
      must(a.code == 0 && b.code == 0, "deliveries of other names block each other: " + a.err + b.err);
    for (const Told* t : {&a, &b})
      if (t->code)
        must(t->err.find("another delivery") != std::string::npos, "blocked by something else: " + t->err);
    // What is there is one of the two, whole.
    const fs::path alone = folder / "alone";
    fs::create_directory(alone);
    const auto whole = [&](const char* samples) {
      fs::remove_all(alone);
      fs::create_directory(alone);
      auto again = line(film ? "v.mp4" : "out", samples);
      again[1] = (folder / "a.runs/001").string();
      must(tell(again, alone).code == 0, "one alone fails");
      return contents(alone, film ? ".mp4" : ".png");
    };
    const auto there = contents(film ? folder : folder / "out", film ? "v.mp4" : ".png");
    const auto only = [&](std::vector<std::pair<std::string, std::string>> all) {
      for (auto& [name, bytes] : all) name = fs::path(name).filename();
      return all;
    };
    const auto is = [&](const char* samples) { return only(there) == only(whole(samples)); };
    must(is("1") || (same && is("2")), "what is there is neither of the two deliveries");
    no_leftovers(folder);
    return a.code || b.code ? Held::refused : Held::accepted;
  };
}

Try other_starts(const fs::path& common) {
  if (!is_there(common / "made")) {
    save_shot(small_pour(), common / "a.pour");
    must(tell({"run", "a.pour", "--frames", "1-5"}, common).code == 0, "the run to go on from can't be made");
    write_whole(common / "made", "");
  }
  return [common](Luck& luck, const fs::path& folder) {
    copy_run(common, folder);
    Shot s = load_shot(folder / "a.pour");
    std::string gone;
    if (luck.one_in(2)) std::swap(s.fluids[0], s.fluids[1]);
    if (luck.one_in(3)) (void)add_new_fluid<Smoke>(s, "Mist"), s.pours.pop_back();
    if (luck.one_in(4)) gone = s.fluids[luck.below(2)].id, remove_item(s, "fluids." + gone);
    for (Pour& p : s.pours) p.windows.list.clear();
    save_shot(s, folder / "a.pour");
    const fs::path checkpoint = folder / "a.runs/001/checkpoint";
    const size_t how = luck.below(4);
    if (how == 1) write_whole(checkpoint, broken_bytes(read_whole(checkpoint), luck));
    if (how == 2) fs::remove(checkpoint);
    if (how == 3) fs::resize_file(checkpoint, luck.below(fs::file_size(checkpoint)));
    const int from = luck.one_in(2) ? 5 : 4;
    const std::vector<std::string> line{"run", "a.pour", "--frames",
                                        "1-7", "--from", "1:" + std::to_string(from)};
    const Told told = tell(line, folder);
    must_be_polite(told, joined(line));
    if (!gone.empty()) {
      must(told.code == 1, "a run goes on without a liquid that it has");
      return Held::refused;
    }
    must(told.code == 0, "a run can't go on: " + told.err);
    const bool same =
        read_whole(checkpoint.parent_path() / "run.json") == read_whole(common / "a.runs/001/run.json");
    must(same, "going on changed the earlier run");
    if (from == 5 && how >= 2)
      must(told.out.find("is taken from its file") != std::string::npos, "a lost checkpoint is not told");
    const pour::Run before = load_run(folder / "a.runs/001"), now = load_run(folder / "a.runs/002");
    const auto counts = [](const pour::Run& run, int frame) {
      std::map<std::string, size_t> out;
      for (const uint8_t n : read_particles(run.stored_frame(frame)).liquid) ++out[run.shot.fluids.at(n).id];
      return out;
    };
    must(counts(before, from) == counts(now, 7), "liquids are swapped");
    return Held::accepted;
  };
}

Try same_records(const fs::path& common) {
  if (!is_there(common / "made")) {
    save_shot(small_pour(), common / "a.pour");
    must(tell({"run", "a.pour"}, common).code == 0, "the run to compare with can't be made");
    write_whole(common / "made", "");
  }
  return [common](Luck& luck, const fs::path& folder) {
    fs::copy_file(common / "a.pour", folder / "a.pour");
    int code = 1;
    for (int k = 0; k < 8 && code; ++k) {
      std::vector<std::string> line{"run", "a.pour", "--threads", luck.one_in(2) ? "1" : "2"};
      if (!list_runs(folder / "a.pour").runs.empty()) line.push_back("--resume");
      Limits limits;
      if (k < 3) limits.kill_after_ms = int(luck.below(1500));
      const Told told = tell(line, folder, limits);
      code = told.code;
      const RunList all = list_runs(folder / "a.pour");
      if (code == 1 && !all.runs.empty() && all.runs[0].state == RunState::done) code = 0;
    }
    must(code == 0, "a killed run never ends");
    const pour::Run run = load_run(folder / "a.runs/001"), good = load_run(common / "a.runs/001");
    must(run.frames.size() == good.frames.size(), "records are lost");
    for (size_t i = 0; i < run.frames.size(); ++i) {
      FrameRecord a = run.frames[i], b = good.frames[i];
      a.wall = b.wall = a.peak_rss = b.peak_rss = 0;
      must(record_as_json(a) == record_as_json(b),
           "the record of frame " + std::to_string(a.frame) + " differs");
    }
    must(contents(folder / "a.runs/001/frames", ".vdb") == contents(common / "a.runs/001/frames", ".vdb"),
         "frames differ");
    return Held::accepted;
  };
}

Try in_the_way(const fs::path& common) {
  prepare_run(common, killed_frames);
  return [common](Luck& luck, const fs::path& folder) {
    copy_run(common, folder);
    const std::vector<std::pair<std::string, std::vector<std::string>>> jobs{
        {"out/a.000003.png", {"picture", "a.runs/001", "--frames", "3", "--size", "64x36", "--out", "out"}},
        {"out/.a.000003.png.part",
         {"render", "a.runs/001", "--frames", "3", "--size", "32x18", "--samples", "1", "--out", "out"}},
        {"v.mp4",
         {"deliver", "a.runs/001", "--frames", "2-4", "--size", "64x36", "--samples", "0", "--video",
          "v.mp4"}},
        {".v.mp4.frames",
         {"deliver", "a.runs/001", "--frames", "2-4", "--size", "64x36", "--samples", "0", "--video",
          "v.mp4"}},
        {"s.png", {"deliver", "a.runs/001", "--size", "64x36", "--samples", "0", "--sheet", "s.png"}},
        {"b.pour", {"new", "rising-smoke", "--out", "b.pour", "--replace"}},
        {"label.png", {"import", "a.pour", "label.png"}},
        {"m.obj", {"import", "a.pour", "m.obj"}},
        {"d.svg", {"inspect", "d.svg"}}};
    auto [place, line] = luck.of(jobs);
    if (luck.one_in(2) && (line[0] == "picture" || line[0] == "deliver" || line[0] == "render"))
      line.push_back("--replace");
    fs::create_directories((folder / place).parent_path());
    switch (luck.below(4)) {
      case 0:
        must(::mkfifo((folder / place).c_str(), 0600) == 0, "no pipe could be made");
        break;
      case 1:
        fs::create_symlink("/dev/full", folder / place);
        break;
      case 2:
        fs::create_directory(folder / place);
        break;
      default:
        fs::create_symlink(fs::path(place).filename(), folder / place);  // to itself
    }
    Limits limits;
    limits.seconds = 25;
    const Told told = tell(line, folder, limits);
    must_be_polite(told, joined(line));
    no_leftovers(folder);
    return told.code ? Held::refused : Held::accepted;
  };
}

Try little_memory(const fs::path& common) {
  prepare_run(common, killed_frames);
  return [common](Luck& luck, const fs::path& folder) {
    copy_run(common, folder);
    const std::vector<std::vector<std::string>> lines{
        {"run", "a.pour", "--frames", "1-3"},
        {"render", "a.runs/001", "--frames", "3", "--size", "640x360", "--samples", "1", "--out", "out"},
        {"picture", "a.runs/001", "--frames", "3", "--size", "640x360", "--out", "out"},
        {"check", "a.pour"}};
    const auto& line = luck.of(lines);
    Limits limits;
    limits.memory = long(luck.between(1e8, 9e8));
    const Told told = tell(line, folder, limits);
    if (told.code == 127 || told.err.find("error while loading shared libraries") != std::string::npos)
      return Held::refused;  // not enough to begin at all, which the system says
    must_be_polite(told, joined(line));
    must(told.code == 0 || told.code == 3, "too little memory is called something else: " + told.err);
    no_leftovers(folder);
    return told.code ? Held::refused : Held::accepted;
  };
}

}  // namespace hammer
