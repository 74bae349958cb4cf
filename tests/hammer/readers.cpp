// What is read from disk: shots and run folders.
#include <unistd.h>

#include <cmath>

#include "base/error.h"
#include "base/json.h"
#include "base/text.h"
#include "check/checks.h"
#include "deliver/deliver.h"
#include "hammer.h"
#include "run/checkpoint.h"
#include "run/simulate.h"
#include "run/staging.h"
#include "shape/pose.h"
#include "shot/animate.h"
#include "shot/compare.h"
#include "shot/describe.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"

namespace hammer {

using namespace pour;

void must_explain(const Fault& f) {
  must(!f.where.empty() && !f.problem.empty() && !f.mend.empty(),
       std::string("a fault without words: ") + f.what());
  must(std::string(f.what()).size() < 20000, "an endless message: " + f.where.substr(0, 300) + " | " +
                                                 f.problem.substr(0, 300) + " | " + f.mend.substr(0, 300));
  must(std::string(f.what()).find("not foreseen") == std::string::npos,
       std::string("a library's own words: ") + f.what());
}

namespace {

void must_read_back(const Shot& shot) {
  must(shot_from_json(shot_to_json(shot), "again") == shot, "a shot that is not read back as it was written");
  for (const Group& g : describe(shot))
    for (const Setting& s : g.settings) {
      const std::string text = s.text();
      try {
        (void)from_text(s, s.value, text, g.path(s));
      } catch (const Fault& f) {
        throw Broken{"a setting that does not take its own text: " + text + ": " + f.what()};
      }
    }
}

double value_of(const Setting& s, Luck& luck) {
  switch (luck.below(4)) {
    case 0:
      return luck.one_in(2) ? s.low : s.high;
    case 1:  // of any size
      return std::clamp((luck.one_in(3) && s.low < 0 ? -1 : 1) * std::pow(10, luck.between(-6, 5)), s.low,
                        s.high);
    default:
      return luck.between(s.slider_low, s.slider_high);
  }
}

/// Some keys from a value to others, with anything before, after and on top of them.
Track track_of(const Setting& s, const Value& v, Luck& luck) {
  Track t;
  for (size_t k = 1 + luck.below(4); k > 0; --k) {
    Value value = v;
    for (int p = 0; p < parts_of(v); ++p) set_part(value, p, value_of(s, luck));
    t.set_key(std::floor(luck.between(-20, 60)) / 24, value);
  }
  for (Key& k : t.keys) k.ease = Ease(luck.below(4));
  t.before = Beyond(luck.below(4)), t.after = Beyond(luck.below(4));
  if (can_mix(v) && luck.one_in(3)) t.wobble.amount = {luck.between(0, s.slider_high), 0, 0};
  return t;
}

/// Sets some settings to what they may be, likely or not.
void vary(Shot& shot, Luck& luck) {
  for (size_t times = 1 + luck.below(4); times > 0; --times) {
    const std::vector<Group> groups = describe(shot);
    const Group& group = luck.of(groups);
    const Setting& s = luck.of(group.settings);
    Value v = s.value;
    if (std::holds_alternative<double>(v)) v = value_of(s, luck);
    if (std::holds_alternative<int>(v)) v = int(value_of(s, luck));
    if (auto* b = std::get_if<bool>(&v)) *b = !*b;
    if (std::holds_alternative<Vec3d>(v)) v = Vec3d{value_of(s, luck), value_of(s, luck), value_of(s, luck)};
    if (std::holds_alternative<Choice>(v)) v = Choice{int(luck.below(s.options.size()))};
    if (std::holds_alternative<Choices>(v))
      v = Choices{1 + unsigned(luck.below((1u << s.options.size()) - 1))};
    if (std::holds_alternative<Windows>(v))
      v = Windows{{{0.1 * double(luck.below(50)), 5 + 0.1 * double(luck.below(50))}}};
    if (std::holds_alternative<Moment>(v)) v = Moment{0.1 * double(luck.below(100))};
    if (std::holds_alternative<PieceId>(v) && std::string(s.key) == "source")
      v = PieceId{luck.of(shot.pieces).id};
    if (std::holds_alternative<PieceId>(v) && std::string(s.key) == "attached_to") {
      Shot linked = shot;
      set_value(linked, group.path(s), PieceId{luck.of(shot.pieces).id});
      try {
        refuse_circles(linked);
        v = find_setting(linked, group.path(s)).value;
      } catch (const Fault&) {  // it stays as it is
      }
    }
    if (s.can_animate() && luck.one_in(3)) {
      set_track(shot, group.path(s), track_of(s, v, luck));
      continue;
    }
    set_value(shot, group.path(s), v);
  }
}

/// A few steps of a shot that may be run and is small.
void try_to_run(const Shot& shot, const fs::path& folder) {
  const Estimate need = Staging(shot, Space(shot), Staging::For::looking).estimate();
  must(std::isfinite(need.cells) && std::isfinite(need.seconds) && std::isfinite(need.memory),
       "an estimate that is no number");
  if (need.cells > 60000 || need.memory > 4e8) return;
  int steps = 0;
  SimulateOptions options;
  options.stop = [&steps] { return ++steps > 8; };
  pour::Run run = create_run(folder / "a.pour", shot, {1, std::min(shot.film.frames, 2)});
  try {
    simulate(run, options);
    must(run.state == RunState::done || run.state == RunState::stopped, "a run that ends as neither");
  } catch (const Fault& f) {
    must_explain(f);
  }
}

}  // namespace

Shot small_shot(int frames) {
  Shot s = find_recipe("fill-a-word").make();
  std::get<Lettering>(s.pieces[0].shape).text = "I", s.film.frames = frames;
  s.run.detail = Detail::custom, s.run.cell_size = 0.006;
  s.film.width = 96, s.film.height = 54;
  return s;
}

Try shots(const fs::path&) {
  return [](Luck& luck, const fs::path& folder) {
    Shot base = luck.of(recipes()).make();
    if (luck.one_in(2)) base.run.detail = Detail::custom, base.run.cell_size = 0.006;
    const Shot usual = base;
    const bool varied = luck.one_in(2);
    if (varied) vary(base, luck);
    const std::string text = shot_to_json(base);
    write_whole(folder / "a.pour", varied && luck.one_in(2) ? text : broken_json(text, luck));
    Shot shot;
    try {
      shot = load_shot(folder / "a.pour");
    } catch (const Fault& f) {
      must(f.blame == Blame::shot, std::string("somebody else's fault: ") + f.what());
      must_explain(f);
      return Held::refused;
    }
    must_read_back(shot);
    must(same_simulation(usual, shot) == simulation_changes(usual, shot).empty(),
         "changed and not changed at once");
    const bool sound = [&] {
      for (const Check& c : check_shot(shot, folder))
        if (c.level == CheckLevel::fault) {
          must(!c.title.empty() && !c.text.empty(), "a check without words");
          return false;
        }
      return true;
    }();
    // What check lets pass can be run.
    if (sound) try_to_run(shot, folder);
    return sound ? Held::accepted : Held::refused;
  };
}

namespace {

constexpr int run_frames = 5;

/// The run that all are copies of, what it looks like, and another one to take things from.
struct Good {
  fs::path folder, other;
  std::vector<std::pair<std::string, std::string>> frames, other_frames, pictures;
  std::string table, other_table;
};

DeliverOptions tiny(const FrameRange& frames) {
  DeliverOptions o;
  o.frames = frames, o.width = 48, o.height = 28, o.replace = true;
  return o;
}

Good make_good(const fs::path& common) {
  Good g;
  const fs::path done = common / "made";
  if (!is_there(done)) {
    const Shot shot = small_shot(run_frames);
    save_shot(shot, common / "a.pour");
    pour::Run run = create_run(common / "a.pour", shot);
    simulate(run, {});
    deliver_images(run, shot, common / "pictures", tiny({1, run_frames}));
    write_whole(common / "table", measure_table(run));
    Shot hot = shot;
    hot.pours[0].heat = 80;
    pour::Run other = create_run(common / "a.pour", hot);
    simulate(other, {});
    write_whole(common / "other-table", measure_table(other));
    write_whole(done, "");
  }
  g.folder = common / "a.runs/001", g.other = common / "a.runs/002";
  g.other_frames = contents(g.other / "frames", ".vdb");
  g.frames = contents(g.folder / "frames", ".vdb"), g.pictures = contents(common / "pictures", ".png");
  g.table = read_whole(common / "table"), g.other_table = read_whole(common / "other-table");
  return g;
}

fs::path any_file(const fs::path& run, Luck& luck) {
  std::vector<fs::path> all;
  for (const auto& e : fs::recursive_directory_iterator(run)) all.push_back(e.path());
  std::sort(all.begin(), all.end());
  return luck.of(all);
}

/// Breaks one thing of a run folder. Returns whether a record was changed and sealed again, as no accident
/// does: then what it says holds, and only crashes count.
bool break_one(const fs::path& run, const Good& good, Luck& luck) {
  const fs::path some = any_file(run, luck);
  const fs::path same = fs::relative(some, run);
  std::error_code ignored;
  switch (luck.below(9)) {
    case 0:
      fs::remove_all(some);
      return false;
    case 1:  // of another run, or another frame
      if (fs::is_regular_file(some)) {
        const bool frame = same.extension() == ".vdb" && luck.one_in(2);
        const fs::path from = frame ? any_file(run / "frames", luck) : good.other / same;
        if (fs::is_regular_file(from))
          fs::copy_file(from, some, fs::copy_options::overwrite_existing, ignored);
      }
      return false;
    case 2:
      if (fs::is_regular_file(some)) fs::resize_file(some, luck.below(fs::file_size(some) + 100));
      return false;
    case 3:
      fs::remove_all(some);
      if (luck.one_in(2))
        fs::create_directory(some);
      else
        fs::create_symlink(some.filename(), some);  // in a circle
      return false;
    case 4: {
      Json j = Json::parse(read_whole(run / "run.json"));
      j.erase("sum");
      const std::string text = broken_json(j.dump(), luck);
      const Json changed = Json::parse(text, nullptr, false);
      write_whole(run / "run.json", changed.is_object() ? sealed(changed).dump() : text);
      return true;
    }
    case 5: {
      std::string lines = read_whole(run / "frames.jsonl");
      const size_t at = lines.find('\n', luck.below(lines.size()));
      if (at != std::string::npos) lines.erase(at, lines.find('\n', at + 1) - at);
      write_whole(run / "frames.jsonl", lines);
      return false;
    }
    default:
      if (fs::is_regular_file(some)) write_whole(some, broken_bytes(read_whole(some), luck));
      return false;
  }
}

void must_be_true(const pour::Run& run, const Good& good, const fs::path& folder) {
  // A run.json of the other run, with its records, is that run; then its frames are not there.
  const std::string& table = run.shot == small_shot(run_frames) ? good.table : good.other_table;
  for (const FrameRecord& r : run.frames) {
    pour::Run one;
    one.frames = {r};
    std::string line = measure_table(one);
    line = line.substr(line.find('\n'));
    must(table.find(line) != std::string::npos, "a record that never was" + line);
  }
  const FrameRange so_far = frames_so_far(run);
  if (so_far.last < so_far.first) return;
  try {
    deliver_images(run, run.shot, folder / "pictures", tiny(so_far));
  } catch (const Fault& f) {
    must_explain(f);
    return;
  }
  for (const auto& picture : contents(folder / "pictures", ".png"))
    must(std::find(good.pictures.begin(), good.pictures.end(), picture) != good.pictures.end(),
         "a picture that is not as it should be: " + picture.first);
}

}  // namespace

Try run_folders(const fs::path& common) {
  return [good = make_good(common)](Luck& luck, const fs::path& folder) {
    const fs::path place = folder / "a.runs/001";
    fs::create_directories(folder / "a.runs");
    fs::copy(good.folder, place, fs::copy_options::recursive);
    bool sealed_again = false;
    for (size_t times = 1 + luck.below(3); times > 0; --times) {
      try {
        sealed_again |= break_one(place, good, luck);
      } catch (const std::exception&) {  // it was too broken before
        break;
      }
    }
    const RunList all = list_runs(folder / "a.pour");
    must(all.runs.size() + all.bad.size() == 1, "a run that is passed over");
    if (all.runs.empty()) {
      must(!all.bad[0].problem.empty(), "a bad run without words");
      return Held::refused;
    }
    pour::Run run = all.runs[0];
    if (sealed_again && (run.last_frame > 40 || run.shot != small_shot(run_frames))) return Held::accepted;
    if (!sealed_again) must_be_true(run, good, folder);
    try {
      simulate(run, {.resume = true});
    } catch (const Fault& f) {
      must_explain(f);
      return Held::refused;
    }
    must(run.state == RunState::done, "a resumed run that is not done");
    if (!sealed_again) {
      const bool other = run.shot != small_shot(run_frames);  // run.json is another run's: then all of it is
      must(contents(place / "frames", ".vdb") == (other ? good.other_frames : good.frames),
           "frames that are not what they were");
      const pour::Run again = load_run(place);
      must(again.frames.size() == run_frames && again.damage.empty(), "records that are not whole");
    }
    no_leftovers(folder);
    return Held::accepted;
  };
}

}  // namespace hammer
