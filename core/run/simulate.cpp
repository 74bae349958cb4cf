#include "run/simulate.h"

#include <malloc.h>

#include <chrono>
#include <cmath>

#include "base/error.h"
#include "base/file.h"
#include "base/units.h"
#include "run/frame_file.h"
#include "run/scene.h"

namespace pour {
namespace {

double now() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

/// Time left from the pace of the last frames: the cost of a frame grows with the smoke.
double time_left(const Run& run, int frame) {
  const auto& f = run.frames;
  if (f.size() < 2) return 0;
  const size_t n = std::min<size_t>(8, f.size() - 1);
  double wall = 0;
  for (size_t i = f.size() - n; i < f.size(); ++i) wall += f[i].wall;
  return wall / double(n) * (run.last_frame - frame);
}

void simulate_frames(Run& run, const SimulateOptions& options) {
  const Scene scene(run.shot);
  const Shot& shot = run.shot;
  run.cell_size = scene.cell_size();
  const Estimate need = scene.estimate(run.pace());
  if (need.memory > available_memory())
    throw machine_fault("Memory",
                        "this run needs about " + format_bytes(need.memory) + ", and " +
                            format_bytes(available_memory()) + " are free.",
                        "Use larger cells or less detail.");
  GasState state;
  Ledger ledger;
  GasSolver solver;
  int frame = 1;
  bool fresh = true;
  if (options.resume && has_checkpoint(run)) {
    Checkpoint c = read_checkpoint(run);
    state = std::move(c.state), ledger = c.ledger, frame = c.frame, fresh = false;
    solver.restore(state, scene.world(state.time));
    std::erase_if(run.frames, [&](const FrameRecord& r) { return r.frame > frame; });
    run.seconds = 0;
    for (const FrameRecord& r : run.frames) run.seconds += r.wall;
  } else {
    run.frames.clear(), run.seconds = 0;
  }
  run.state = RunState::running, run.message.clear();
  save_run(run);

  double started = now(), last_checkpoint = started, checkpoint_cost = 0;
  const auto keep_checkpoint = [&] {
    const double t = now();
    write_checkpoint(run, state, ledger, frame);
    last_checkpoint = now(), checkpoint_cost = last_checkpoint - t;
  };
  const auto finish_frame = [&](const GasReport& report, int substeps) {
    const GasMeasure m = measure(state, run.cell_size);
    FrameRecord r;
    r.frame = frame, r.time = frame_time(shot, frame), r.cells = m.cells, r.ledger = ledger,
    r.centroid = m.centroid;
    r.max_speed = m.max_speed, r.kinetic_energy = m.kinetic_energy, r.max_divergence = report.max_divergence;
    r.solver_iterations = report.solver_iterations, r.substeps = substeps;
    if (!std::isfinite(r.ledger.in_shot) || !std::isfinite(m.kinetic_energy))
      throw shot_fault("Run", "the flow blew up at frame " + std::to_string(frame) + ".",
                       "Lower the speeds and forces, or “Cells a step”.");
    // Writing a frame takes about as much memory as a step does: each gives back what it had.
    release_field_memory();
    if (frame >= run.first_frame) write_frame(run.frame_file(frame), state, run.cell_size);
    malloc_trim(0);
    r.wall = now() - started, r.peak_rss = peak_memory();
    started = now();
    run.seconds += r.wall;
    run.frames.push_back(r);
    save_run(run);
    if (options.on_frame) options.on_frame({frame, run.last_frame, time_left(run, frame), r});
  };

  if (fresh) finish_frame({}, 0);
  while (frame < run.last_frame) {
    if (options.stop && options.stop()) {
      keep_checkpoint();
      run.state = RunState::stopped;
      save_run(run);
      return;
    }
    const double end = frame_time(shot, frame + 1);
    GasReport report;
    int substeps = 0, iterations = 0;
    while (state.time < end - 1e-9) {
      const GasWorld world = scene.world(state.time);
      const double rest = end - state.time;
      const double longest = longest_step(state, world, shot.run.courant, rest);
      const double steps = std::ceil(rest / longest - 1e-6);
      if (steps > 2000)
        throw shot_fault("Run",
                         "the smoke is too fast for its cells: over 2000 steps in frame " +
                             std::to_string(frame + 1) + ".",
                         "Lower the source speed or the forces, or use larger cells.");
      report = solver.step(state, world, rest / steps, ledger);
      iterations += report.solver_iterations;
      ++substeps;
    }
    state.time = end;
    ++frame;
    report.solver_iterations = iterations;
    finish_frame(report, substeps);
    // As often as it costs little: at most a twentieth of the time goes into checkpoints.
    if (frame == run.last_frame || now() - last_checkpoint > std::max(0.5, 20 * checkpoint_cost))
      keep_checkpoint();
  }
  run.state = RunState::done;
  save_run(run);
}

}  // namespace

void simulate(Run& run, const SimulateOptions& options) {
  try {
    simulate_frames(run, options);
  } catch (const Fault& f) {
    run.state = RunState::failed, run.message = f.what();
    try {
      save_run(run);
    } catch (const Fault&) {  // a full disk may refuse this too; the message still goes up
    }
    throw;
  } catch (const std::bad_alloc&) {
    run.state = RunState::failed, run.message = "Out of memory.";
    save_run(run);
    throw machine_fault(
        "Memory",
        "is used up at frame " + std::to_string(run.frames.empty() ? 1 : run.frames.back().frame) + ".",
        "Use larger cells or less detail; the frames so far are kept.");
  }
}

}  // namespace pour
