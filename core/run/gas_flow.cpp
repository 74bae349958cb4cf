// Smoke as a flow.
#include <array>
#include <cmath>
#include <utility>

#include "base/error.h"
#include "base/text.h"
#include "gas/carried.h"
#include "run/checkpoint.h"
#include "run/gas_start.h"
#include "run/march.h"
#include "run/staging.h"

namespace pour {
namespace {

class GasFlow : public Flow {
 public:
  GasFlow(const Staging& staging, std::function<void(const std::string&)> notice)
      : staging_(staging), notice_(std::move(notice)) {}

  const char* name() const override { return "smoke"; }
  double time() const override { return state_.time; }

  void begin() override {
    state_ = {}, ledger_ = {}, report_ = {}, substeps_ = iterations_ = 0;
    solver_.fill(state_, staging_.gas_world(0), staging_.fills(FlowKind::gas, -1, 0), ledger_);
  }

  void begin_from(const StoredFrame& frame, const FlowRecord& record, double time,
                  const FluidNumbers&) override {
    report_ = {}, substeps_ = iterations_ = 0;
    state_ = gas_from_frame(frame, staging_.gas_world(time), staging_.room_motions(time), solver_);
    state_.time = time;
    ledger_ = record.ledger;
    const double before = ledger_.in_shot;  // what is too thin for a frame, or for its half floats, is lost
    ledger_.in_shot = smoke_mass(state_, staging_.cell_size());
    ledger_.numeric += ledger_.in_shot - before;
  }

  bool advance(int frame, double end, const StopAsked& stop) override {
    const std::string where = filled("in frame {frame}", {{"frame", std::to_string(frame)}});
    const Stepper gas{.longest =
                          [&](double from, double until) {
                            return longest_step(state_, staging_.gas_world_until(from, until),
                                                staging_.courant(), until - from);
                          },
                      .step = [&](double from, double to) { step(from, to, where); }};
    return march(state_.time, end, gas, staging_, where, stop);
  }

  FlowRecord measure() override {
    const GasMeasure m = pour::measure(state_, staging_.cell_size());
    FlowRecord r;
    r.name = name(), r.cells = m.cells, r.ledger = ledger_, r.centroid = m.centroid;
    r.max_speed = m.max_speed, r.kinetic_energy = m.kinetic_energy;
    r.max_divergence = std::exchange(report_, {}).max_divergence;
    r.solver_iterations = std::exchange(iterations_, 0), r.substeps = std::exchange(substeps_, 0);
    return r;
  }

  FramePart frame_part() const override {
    return [state = state_, h = staging_.cell_size(), motions = staging_.room_motions(state_.time)](
               FrameGrids& grids) { add_smoke(grids, state, h, motions); };
  }

  void save(CheckpointWriter& out) const override {
    const int blocks = state_.grid.blocks();
    out.put(state_.time), out.put(staging_.room_marks(state_.time)), out.put(ledger_), out.put(substeps_);
    out.put(iterations_), out.put(report_.max_divergence), out.put(blocks);
    for (const BlockKey& k : state_.grid.keys()) out.put(k);
    if (!blocks) return;
    for (const Floats* f : fields_of(const_cast<GasState&>(state_)))
      out.put_all(f->block(first_block), size_t(blocks) * block_bytes);
  }

  void restore(CheckpointReader& in) override {
    int blocks = 0;
    state_ = {}, report_ = {};
    uint64_t rooms = 0;
    in.take(state_.time), in.take(rooms), in.take(ledger_), in.take(substeps_), in.take(iterations_);
    in.take(report_.max_divergence), in.take(blocks);
    if (!std::isfinite(state_.time)) throw in.unfit("is torn.");
    if (rooms != staging_.room_marks(state_.time))
      throw in.unfit("has smoke in other vessels, or elsewhere.");
    in.expect(double(blocks) * (sizeof(BlockKey) + fields_of(state_).size() * block_bytes));
    std::vector<BlockKey> keys(static_cast<size_t>(blocks));
    for (BlockKey& k : keys) in.take(k);
    // Values outside the grid are set in revive().
    state_.grid = BlockGrid(std::move(keys), [](const BlockKey&) { return int(outside_open); });
    for (Floats* f : fields_of(state_)) {
      f->resize(state_.grid.size(), unset);
      if (blocks) in.take_all(f->block(first_block), size_t(blocks) * block_bytes);
    }
  }
  void revive() override { solver_.restore(state_, staging_.gas_world(state_.time)); }

 private:
  static constexpr size_t block_bytes = block_cells * sizeof(float);

  void step(double from, double to, const std::string& where) {
    report_ = solver_.step(state_, staging_.gas_world(from, to), to - from, ledger_);
    if (staging_.opens_cells(from, to)) solver_.restore(state_, staging_.gas_world(to));
    if (auto fills = staging_.fills(FlowKind::gas, from, to); !fills.empty())
      solver_.fill(state_, staging_.gas_world(to), std::move(fills), ledger_);
    iterations_ += report_.solver_iterations;
    tell_of_pressure(where, to - from);
    ++substeps_;
  }

  /// Gas is incompressible: a closed volume is removed evenly, which the user should know.
  void tell_of_pressure(std::string where, double dt) {
    if (told_of_pressure_ || report_.squeezed * dt < 10 * std::pow(staging_.cell_size(), 3)) return;
    told_of_pressure_ = true;
    where.front() = 'I';
    if (notice_)
      notice_(
          filled("{where} a piece that moves closes a space from which the gas has no way out: it is thinned "
                 "or pressed together evenly. Open a side of the bounds, or let the piece leave a gap.",
                 {{"where", where}}));
  }

  const Staging& staging_;
  const std::function<void(const std::string&)> notice_;
  GasSolver solver_;
  GasState state_;
  Ledger ledger_;
  GasReport report_;
  int substeps_ = 0, iterations_ = 0;  // since the last measure
  bool told_of_pressure_ = false;
};

}  // namespace

std::unique_ptr<Flow> gas_flow(const Staging& staging, std::function<void(const std::string&)> notice) {
  return std::make_unique<GasFlow>(staging, std::move(notice));
}

}  // namespace pour
