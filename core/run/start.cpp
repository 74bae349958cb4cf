#include "run/start.h"

#include <cmath>

#include "base/error.h"
#include "base/file.h"
#include "base/text.h"
#include "base/units.h"
#include "run/checkpoint.h"
#include "run/space.h"
#include "shape/vessels.h"
#include "shot/clock.h"

namespace pour {
namespace {

namespace fs = std::filesystem;

Run earlier_run(const Run& run) { return load_run(run.folder.parent_path() / run.start.run); }

std::string place_of(const RunStart& start) {
  return filled("Frame {frame} of run {run}", {{"frame", std::to_string(start.frame)}, {"run", start.run}});
}

/// A link where the disk has them, else a copy.
void take_over_file(const fs::path& from, const fs::path& to) {
  std::error_code error;
  fs::remove(to, error);
  fs::create_hard_link(from, to, error);
  if (error) fs::copy_file(from, to, error);
  if (error) throw file_fault(to, "can't be made from the earlier run's frame", error.value());
}

/// Whether smoke has the same cells in both shots: same bounds and vessels.
bool is_same_space(const Shot& a, const Space& in_a, const Shot& b, const Space& in_b) {
  const auto rooms = [](const Shot& shot, const Space& space) {
    std::vector<std::vector<std::pair<std::string, size_t>>> out;
    for (const Vessel& v : vessels_of(shot, space.bodies)) {
      out.emplace_back();
      for (const Vessel::Part& part : v.parts) out.back().emplace_back(shot.pieces[part.piece].id, part.body);
    }
    return out;
  };
  return length(in_a.bounds.low - in_b.bounds.low) + length(in_a.bounds.high - in_b.bounds.high) < 1e-9 &&
         rooms(a, in_a) == rooms(b, in_b);
}

FluidNumbers numbers_now(const Shot& earlier, const Shot& now) {
  FluidNumbers out;
  for (const Fluid& old : earlier.fluids) {
    const Fluid* same = now.fluid(old.id);
    out.push_back(same && same->what.index() == old.what.index() ? int(same - now.fluids.data()) : -1);
  }
  return out;
}

bool is_poured(const Shot& shot, const Fluid& fluid) {
  return std::any_of(shot.pours.begin(), shot.pours.end(),
                     [&](const Pour& p) { return p.fluid.id == fluid.id; });
}

}  // namespace

RunStart start_from_text(const std::string& text) {
  const size_t colon = text.rfind(':');
  const auto number =
      colon == std::string::npos ? std::nullopt : whole_number(text.substr(0, colon), 1, 999999999);
  const auto frame =
      colon == std::string::npos ? std::nullopt : whole_number(text.substr(colon + 1), 1, 100000);
  if (!number || !frame)
    throw usage_fault("--from", filled("is “{text}”.", {{"text", text}}),
                      "Give a run and a frame of it, for example 2:48.");
  std::string name = std::to_string(*number);
  return {std::string(name.size() < 3 ? 3 - name.size() : 0, '0') + name, int(*frame)};
}

void check_start(const Run& run) {
  const RunStart& start = run.start;
  const Run earlier = earlier_run(run);
  const FrameRecord* record = earlier.record(start.frame);
  if (!record || !earlier.has_frame(start.frame))
    throw shot_fault(place_of(start), "is not there.",
                     filled("Choose a frame that it has; its last one is {last}.",
                            {{"last", std::to_string(earlier.newest_frame())}}));
  if (start.frame >= run.last_frame)
    throw shot_fault(
        place_of(start), "leaves nothing to compute.",
        filled("Choose a frame before {last_frame}.", {{"last_frame", std::to_string(run.last_frame)}}));
  if (std::abs(Clock(run.shot).time(start.frame) - record->time) > 1e-9)
    throw shot_fault(place_of(start), "is at another time than this shot's frame.",
                     "Give the film the frame rate and the slow motion of that run.");
  const Space space(run.shot);
  const double cell = space.cell_size, was = earlier.cell_size;
  if (std::abs(cell - was) > 1e-9 * was)
    throw shot_fault(
        place_of(start),
        filled("has cells of {was}, this shot has {cell}.",
               {{"was", format_quantity(was, Unit::length)}, {"cell", format_quantity(cell, Unit::length)}}),
        filled("Choose “Own cell size” and {was}.", {{"was", format_quantity(was, Unit::length, 9)}}));
  if (earlier.shot.brings(FlowKind::gas) &&
      !is_same_space(earlier.shot, Space(earlier.shot), run.shot, space))
    throw shot_fault(place_of(start), "has smoke in other bounds or letters than this shot.",
                     "Keep its letters, turn “Fit the bounds” off and set those of that run.");
  const FluidNumbers numbers = numbers_now(earlier.shot, run.shot);
  for (size_t i = 0; i < numbers.size(); ++i)
    if (const Fluid& old = earlier.shot.fluids[i]; numbers[i] < 0 && is_poured(earlier.shot, old))
      throw shot_fault(
          place_of(start),
          filled("has “{name}” ({id}), which this shot has not.", {{"name", old.name}, {"id", old.id}}),
          "Keep the fluids of that run, with their ids; their order does not matter.");
}

void take_over_frames(Run& run) {
  const Run earlier = earlier_run(run);
  std::error_code error;
  fs::create_directories(run.folder / "frames", error);
  for (const FrameRecord& r : earlier.frames) {
    if (r.frame > run.start.frame) break;
    if (r.frame >= run.first_frame && earlier.has_frame(r.frame)) {
      take_over_file(earlier.frame_file(r.frame), run.frame_file(r.frame));
      run.stored.insert(r.frame);
    }
    store_record(run, r);
    put_record(run, r);
  }
}

void begin_from_start(const Run& run, const std::vector<std::unique_ptr<Flow>>& flows,
                      const std::function<void(const std::string&)>& notice) {
  const Run earlier = earlier_run(run);
  const FrameRecord* record = earlier.record(run.start.frame);
  if (!record) throw shot_fault(place_of(run.start), "is not there any more.", "Start a new run.");
  const FluidNumbers numbers = numbers_now(earlier.shot, run.shot);
  std::string why = "its checkpoint is missing";
  if (has_checkpoint(earlier)) try {
      const int frame = read_checkpoint(earlier, flows);
      const bool exact = std::all_of(flows.begin(), flows.end(), [&](const auto& flow) {
        return std::abs(flow->time() - record->time) < 1e-9;
      });
      if (frame == run.start.frame && exact) {
        for (const auto& flow : flows) flow->renumber(numbers);
        return;
      }
      why.clear();              // it is of another frame
    } catch (const Fault& f) {  // of other flows or vessels, or torn: the frame is left
      why = filled("its checkpoint {problem}",
                   {{"problem", f.problem.substr(0, f.problem.find_last_not_of('.') + 1)}});
    }
  if (notice && !why.empty() && run.start.frame == earlier.newest_frame())
    notice(
        filled("{start} is taken from its file, for {why}: what follows is close to that run's own way, not "
               "the same.",
               {{"start", place_of(run.start)}, {"why", why}}));
  check_frame(earlier.stored_frame(run.start.frame));
  for (const auto& flow : flows)
    flow->begin_from(earlier.stored_frame(run.start.frame), record->flow(flow->name()), record->time,
                     numbers);
}

}  // namespace pour
