// Times of liquid: what goes between particles and faces, and whole steps.
#include <benchmark/benchmark.h>

#include "eight_forces.h"
#include "liquid/liquid.h"
#include "shape/mesh.h"

namespace {

using namespace pour;

/// A dam of about so many particles in a tank of twice its width, after a few steps.
struct Dam {
  LiquidWorld w;
  LiquidState s;
  LiquidSolver solver;
  Ledger ledger;
  explicit Dam(double particles) {
    const int n = std::max(8, int(std::cbrt(particles / 8)));
    w.cell_size = 0.5 / n;
    w.cells = {(2 * n + 7) / 8 * 8 - 1, (2 * n + 7) / 8 * 8 - 1, (n + 7) / 8 * 8 - 1};
    for (bool& open : w.open) open = false;
    Mesh m = box_mesh({1, 1, 2});
    Source source;
    source.shape = SourceShape::surface(LevelSet(m, w.cell_size), m.bounds(), 1);
    solver.fill(s, w, {source}, ledger);
    for (int i = 0; i < 3; ++i) solver.step(s, w, longest_step(s, w, 1, 0.01), ledger);
  }
};

/// Sorting, to the faces and back, with solids and sides.
void transfer(benchmark::State& state) {
  Dam dam{double(state.range(0))};
  for (auto _ : state) {
    dam.solver.update_region(dam.s, dam.w, 0);
    dam.solver.gather(dam.s);
    dam.solver.advect(dam.s, dam.w, 1e-5, dam.ledger);
  }
  state.counters["particles"] = double(dam.s.particles.size());
  state.counters["particles_per_second"] =
      benchmark::Counter(double(dam.s.particles.size()), benchmark::Counter::kIsIterationInvariantRate);
}
BENCHMARK(transfer)->Arg(100000)->Arg(1000000)->Arg(4000000)->Unit(benchmark::kMillisecond)->UseRealTime();

void liquid_steps(benchmark::State& state) {
  Dam dam{double(state.range(0))};
  LiquidReport report;
  for (auto _ : state)
    report = dam.solver.step(dam.s, dam.w, longest_step(dam.s, dam.w, 1, 0.01), dam.ledger);
  state.counters["particles"] = double(dam.s.particles.size());
  state.counters["iterations"] = report.solver_iterations;
}
BENCHMARK(liquid_steps)
    ->Arg(100000)
    ->Arg(1000000)
    ->Arg(4000000)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime()
    ->Iterations(3);

/// Steps of a million particles of equal length, without and with eight forces.
void liquid_forces(benchmark::State& state) {
  Dam dam{1e6};
  if (state.range(0)) dam.w.fields = eight_forces(bounds_of(dam.w));
  const LiquidState start = dam.s;
  for (auto _ : state) {
    state.PauseTiming();
    dam.s = start;
    state.ResumeTiming();
    dam.solver.step(dam.s, dam.w, 0.001, dam.ledger);
  }
  state.counters["particles"] = double(dam.s.particles.size());
}
BENCHMARK(liquid_forces)->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond)->UseRealTime()->MinTime(5);

}  // namespace

BENCHMARK_MAIN();
