// Liquid as a flow.
#include <cmath>
#include <utility>

#include "base/error.h"
#include "frames/liquid_frame.h"
#include "run/checkpoint.h"
#include "run/staging.h"

namespace pour {
namespace {

class LiquidFlow : public Flow {
 public:
  explicit LiquidFlow(const Staging& staging) : staging_(staging) {}

  const char* name() const override { return "liquid"; }
  double time() const override { return state_.time; }

  void begin() override {
    state_ = {}, ledger_ = {}, substeps_ = iterations_ = 0, divergence_ = 0;
    solver_.fill(state_, staging_.liquid_world(0), staging_.fills(FluidKind::liquid, -1, 0), ledger_);
  }

  void begin_from(const StoredFrame& frame, const FlowRecord& record, double time) override {
    state_ = {}, substeps_ = iterations_ = 0, divergence_ = 0;
    state_.time = time, ledger_ = record.ledger;
    state_.particles = read_particles(frame);
    for (const uint32_t id : state_.particles.id) state_.poured = std::max(state_.poured, id + 1);
    solver_.find_slopes(state_, staging_.liquid_world(time));
  }

  bool advance(int frame, double end, const StopAsked& stop) override {
    const std::string where = "in frame " + std::to_string(frame);
    while (state_.time < end - 1e-9) {
      if (stop && stop()) return false;
      const double from = state_.time, rest = end - from;
      const double longest = longest_step(state_, staging_.liquid_world(from),
                                          std::min(staging_.courant(), most_crossed_by_liquid), rest);
      if (!(rest / longest <= most_steps)) throw too_fast(where);
      const double steps = std::ceil(rest / staging_.longest_step(from, longest) - 1e-6);
      if (!(steps <= most_steps)) throw piece_too_fast(where);
      const double to = steps <= 1 ? end : from + rest / steps;
      const LiquidReport report = solver_.step(state_, staging_.liquid_world(from, to), to - from, ledger_);
      if (const auto fills = staging_.fills(FluidKind::liquid, from, to); !fills.empty())
        solver_.fill(state_, staging_.liquid_world(to), fills, ledger_);
      iterations_ += report.solver_iterations, divergence_ = report.max_divergence;
      ++substeps_;
    }
    state_.time = end;
    return true;
  }

  FlowRecord measure() override {
    const LiquidMeasure m = pour::measure(state_, staging_.cell_size());
    FlowRecord r;
    r.name = name(), r.cells = m.cells, r.particles = double(state_.particles.size()), r.ledger = ledger_;
    r.drops = m.drops, r.centroid = m.centroid, r.max_speed = m.max_speed,
    r.kinetic_energy = m.kinetic_energy;
    r.max_divergence = std::exchange(divergence_, 0);
    r.solver_iterations = std::exchange(iterations_, 0), r.substeps = std::exchange(substeps_, 0);
    return r;
  }

  FramePart frame_part() const override {
    return [particles = state_.particles, h = staging_.cell_size(), colors = staging_.liquid_colors()](
               FrameGrids& grids) { add_liquid(grids, particles, h, colors); };
  }

  void save(CheckpointWriter& out) const override {
    const int blocks = state_.grid.blocks();
    out.put(state_.time), out.put(ledger_), out.put(substeps_), out.put(iterations_), out.put(divergence_);
    out.put(state_.poured), out.put(uint32_t(state_.owed.size()));
    for (const double v : state_.owed) out.put(v);
    out.put(uint64_t(state_.particles.size()));
    const_cast<Particles&>(state_.particles).each([&](auto& v) {
      if (!v.empty()) out.put_all(v.data(), v.size() * sizeof v[0]);
    });
    out.put(blocks);
    for (const BlockKey& k : state_.grid.keys()) out.put(k);
    const bool solved = blocks && state_.pressure.size() == state_.grid.size();
    out.put(solved);
    if (solved) out.put_all(state_.pressure.block(first_block), size_t(blocks) * block_bytes);
  }

  void restore(CheckpointReader& in) override {
    state_ = {};
    in.take(state_.time), in.take(ledger_), in.take(substeps_), in.take(iterations_), in.take(divergence_);
    uint32_t sources = 0;
    in.take(state_.poured), in.take(sources);
    in.expect(8.0 * sources);
    state_.owed.resize(sources);
    for (double& v : state_.owed) in.take(v);
    uint64_t particles = 0;
    in.take(particles);
    double each = 0;
    state_.particles.each([&](auto& v) { each += sizeof v[0]; });
    in.expect(double(particles) * each);
    state_.particles.resize(size_t(particles));
    state_.particles.each([&](auto& v) {
      if (!v.empty()) in.take_all(v.data(), v.size() * sizeof v[0]);
    });
    int blocks = 0;
    in.take(blocks);
    in.expect(double(blocks) * sizeof(BlockKey));
    std::vector<BlockKey> keys(static_cast<size_t>(blocks));
    for (BlockKey& k : keys) in.take(k);
    // What lies outside the grid is settled when it is revived.
    state_.grid = BlockGrid(std::move(keys), [](const BlockKey&) { return int(outside_open); });
    bool solved = false;
    in.take(solved);
    if (!solved) return;
    in.expect(double(blocks) * block_bytes);
    state_.pressure.resize(state_.grid.size());
    if (blocks) in.take_all(state_.pressure.block(first_block), size_t(blocks) * block_bytes);
  }
  void revive() override { solver_.restore(state_, staging_.liquid_world(state_.time)); }

 private:
  static constexpr size_t block_bytes = block_cells * sizeof(float);
  // More than this, and drops fly through each other before they feel each other.
  static constexpr double most_crossed_by_liquid = 2;

  const Staging& staging_;
  LiquidSolver solver_;
  LiquidState state_;
  Ledger ledger_;
  double divergence_ = 0;
  int substeps_ = 0, iterations_ = 0;  // since the last measure
};

}  // namespace

std::unique_ptr<Flow> liquid_flow(const Staging& staging) { return std::make_unique<LiquidFlow>(staging); }

}  // namespace pour
