// Times of the pressure solve and of whole gas steps.
#include <benchmark/benchmark.h>

#include <Eigen/IterativeLinearSolvers>
#include <Eigen/Sparse>

#include "core/poisson_problem.h"
#include "eight_forces.h"
#include "gas/gas.h"
#include "shape/shape.h"
#include "shot/animate.h"
#include "shot/assign.h"
#include "shot/edit.h"
#include "shot/shot_file.h"

namespace {

using namespace pour;

void pressure_solve(benchmark::State& state) {
  const PoissonProblem problem(int(state.range(0)), true, true);
  SolveReport report;
  for (auto _ : state) {
    PoissonSolver solver;
    Floats x(problem.grid.size());
    solver.set(problem.grid, problem.weights);
    report = solver.solve(problem.b, x, 1e-6);
    benchmark::DoNotOptimize(x.data());
  }
  state.counters["iterations"] = report.iterations;
  state.counters["residual"] = report.relative_residual;
}
BENCHMARK(pressure_solve)->Arg(64)->Arg(128)->Unit(benchmark::kSecond)->UseRealTime();

void eigen_solve(benchmark::State& state) {
  const int n = int(state.range(0));
  const PoissonProblem problem(n, true, true);
  const auto row = [n](int x, int y, int z) { return (z * n + y) * n + x; };
  std::vector<Eigen::Triplet<double>> entries;
  Eigen::VectorXd b(n * n * n);
  for (int z = 0; z < n; ++z)
    for (int y = 0; y < n; ++y)
      for (int x = 0; x < n; ++x) {
        const int k = problem.block(x, y, z), c = PoissonProblem::cell(x, y, z), i = row(x, y, z);
        const double d = problem.diagonal(k, c);
        entries.emplace_back(i, i, d > 0 ? d : 1);
        b[i] = problem.b.block(k)[c];
        const int before[3] = {x ? row(x - 1, y, z) : -1, y ? row(x, y - 1, z) : -1,
                               z ? row(x, y, z - 1) : -1};
        for (int a = 0; a < 3; ++a)
          if (before[a] >= 0 && problem.weight(x, y, z, a) > 0) {
            entries.emplace_back(i, before[a], -problem.weight(x, y, z, a));
            entries.emplace_back(before[a], i, -problem.weight(x, y, z, a));
          }
      }
  Eigen::SparseMatrix<double> a(n * n * n, n * n * n);
  a.setFromTriplets(entries.begin(), entries.end());
  for (auto _ : state) {
    Eigen::ConjugateGradient<Eigen::SparseMatrix<double>, Eigen::Lower | Eigen::Upper,
                             Eigen::IncompleteCholesky<double>>
        solver;
    solver.setTolerance(1e-6);
    solver.compute(a);
    Eigen::VectorXd x = solver.solve(b);
    benchmark::DoNotOptimize(x.data());
    state.counters["iterations"] = double(solver.iterations());
  }
}
BENCHMARK(eigen_solve)->Arg(64)->Arg(128)->Unit(benchmark::kSecond)->UseRealTime()->Iterations(1);

/// A box of about n³ cells, `part` of it full of smoke: all of it, or a ball in its middle. Everything is on.
struct Plume {
  GasWorld world;
  GasState state;
  GasSolver solver;
  Ledger ledger;

  Plume(int n, double part) {
    world.cell_size = 1.0 / n;
    world.low = {0, 0, 0};
    world.cells = {((n + 7) / 8) * 8 - 1, ((n + 7) / 8) * 8 - 1, ((n + 7) / 8) * 8 - 1};
    world.turbulences = {{.speed = 0.3, .size = 0.2, .rate = 1}};
    world.confinements = {{.speed = 0.3, .size = 0.02}};
    world.density_half_life = 5, world.heat_half_life = 2;
    const double radius = part < 1 ? std::cbrt(3 * part / (4 * 3.14159265)) : 1;
    Source s;
    s.shape = SourceShape::ball({0.5, 0.5, 0.5}, radius);
    s.sets = true, s.density = 0.002, s.heat = 30;
    world.sources = {s};
    step();
    world.sources[0].shape = SourceShape::ball({0.5, 0.5, 0.5}, 0.05);
    step();
  }
  GasReport step() { return solver.step(state, world, longest_step(state, world, 2.5, 0.02), ledger); }
  /// Part of the bounds where smoke is to be seen: more than a hundredth of the densest.
  double covered() const {
    float densest = 0;
    double n = 0;
    for (int pass = 0; pass < 2; ++pass)
      for (int b = first_block; b < state.grid.size(); ++b)
        for (int c = 0; c < block_cells; ++c) {
          const float d = state.density.block(b)[c];
          pass ? n += d > 0.01f * densest : densest = std::max(densest, d);
        }
    return n / (double(world.cells.x) * world.cells.y * world.cells.z);
  }
};

/// Four steps, which is what an iteration's time is of.
void gas_steps(benchmark::State& state) {
  release_field_memory();
  Plume plume(int(state.range(0)), double(state.range(1)) / 100);
  const GasState start = plume.state;
  state.counters["covered"] = plume.covered();
  GasReport report;
  constexpr int steps = 4;  // so few that the smoke stays about where it is
  for (auto _ : state) {
    state.PauseTiming();
    plume.state = start;
    field_memory_use().most = field_memory_use().now.load();
    state.ResumeTiming();
    for (int i = 0; i < steps; ++i) report = plume.step();
  }
  const double cells = double(plume.state.grid.blocks()) * block_cells;
  state.counters["cells"] = cells;
  state.counters["us_per_cell"] = benchmark::Counter(
      cells * steps * 1e-6, benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
  state.counters["iterations"] = report.solver_iterations;
  // All that there is but for the copy that each round begins with.
  const double copy = double(start.grid.blocks()) * block_cells * 40;
  state.counters["bytes_per_cell"] = (double(field_memory_use().most) - copy) / cells;
}
BENCHMARK(gas_steps)
    ->Args({104, 100})
    ->Args({104, 10})
    ->Args({200, 100})
    ->Args({200, 10})
    ->Unit(benchmark::kSecond)
    ->UseRealTime();

/// Steps of a million cells of equal length, without and with eight forces.
void gas_forces(benchmark::State& state) {
  Plume plume(104, 1);
  if (state.range(0)) plume.world.fields = eight_forces(bounds_of(plume.world));
  const GasState start = plume.state;
  for (auto _ : state) {
    state.PauseTiming();
    plume.state = start;
    state.ResumeTiming();
    plume.solver.step(plume.state, plume.world, 0.01, plume.ledger);
  }
  state.counters["cells"] = double(plume.state.grid.blocks()) * block_cells;
}
BENCHMARK(gas_forces)->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond)->UseRealTime()->MinTime(5);

/// Steps of a space full of smoke with the draft word in it as a blocker: at rest (0), moved by half a cell a
/// step (1), and, for what holding costs, steps of letters that stand (2) or fly (3).
void moving_steps(benchmark::State& state) {
  const bool moves = state.range(0) % 2, holds = state.range(0) > 1;
  GasWorld w;
  const double h = w.cell_size = 0.005, dt = 0.01;
  w.low = {-64, 0, -24}, w.cells = {127, 79, 47};
  const auto bodies = bodies_of(Lettering());
  Source all;
  all.density = 0.002, all.shape = SourceShape::ball({0, 0.2, 0}, 1);
  std::vector<Source> fills;
  std::vector<LevelSet> sets;
  for (const Body& b : *bodies) {
    Mesh m = b.mesh;
    if (!moves && !holds) m.place({{}, {0, 0.2, 0}});
    sets.emplace_back(m, h);
  }
  const auto set_walls = [&](double at) {
    w.rooms.clear(), w.solids.clear();
    const Pose from{{}, {0, at, 0}}, to{{}, {0, at + h / 2, 0}};
    for (const LevelSet& set : sets) {
      if (holds) {
        Room room{set};
        room.moves = moves;
        if (moves) room.from = from, room.to = to, room.acceleration = {1, 2, 0}, room.spin = {0, 1, 0};
        w.rooms.push_back(room);
      } else {
        w.solids.push_back(moves ? Solid(set, from, to) : Solid(set));
      }
    }
  };
  set_walls(0.2);
  for (int r = 0; r < (holds ? int(sets.size()) : 1); ++r) {
    all.room = holds ? r + 1 : 0;
    fills.push_back(all);
  }
  GasState start;
  GasSolver solver;
  Ledger ledger;
  solver.fill(start, w, fills, ledger);
  for (int i = 0; i < 2; ++i) solver.step(start, w, dt, ledger);
  for (auto _ : state) {
    state.PauseTiming();
    GasState s = start;
    state.ResumeTiming();
    for (int i = 0; i < 4; ++i) {
      set_walls(0.2 + i * h / 2);
      solver.step(s, w, dt, ledger);
    }
  }
  state.counters["cells"] = double(start.grid.blocks()) * block_cells;
}
BENCHMARK(moving_steps)->DenseRange(0, 3)->Unit(benchmark::kMillisecond)->UseRealTime();

Shot fifty_pieces() {
  Shot shot;
  for (int i = 0; i < 50; ++i) {
    const std::string path = add_new_piece(shot, 1, "Ball " + std::to_string(i));
    assign(shot, path + ".position@1=0, 0, 0"), assign(shot, path + ".position@50=0, 1 m, 0");
  }
  return shot;
}

/// Fifty pieces with a track each, at a time.
void shot_evaluated(benchmark::State& state) {
  const Shot shot = fifty_pieces();
  const Clock clock(shot);
  double t = 0;
  for (auto _ : state) benchmark::DoNotOptimize(shot_at(shot, clock, t += 0.001));
}
BENCHMARK(shot_evaluated)->Unit(benchmark::kMicrosecond);

void shot_read(benchmark::State& state) {
  const std::string text = shot_to_json(fifty_pieces());
  for (auto _ : state) benchmark::DoNotOptimize(shot_from_json(text, "a.pour"));
}
BENCHMARK(shot_read)->Unit(benchmark::kMillisecond);

}  // namespace

BENCHMARK_MAIN();
