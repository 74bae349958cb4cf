// Liquid as a flow.
#include <cmath>
#include <deque>
#include <utility>

#include "base/error.h"
#include "base/parallel.h"
#include "base/text.h"
#include "frames/liquid_frame.h"
#include "run/checkpoint.h"
#include "liquid/liquid.h"
#include "run/march.h"
#include "run/staging.h"

namespace pour {
namespace {

/// The liquid of the space around the rooms, or of one of them, in its own space.
struct Part {
  int room = 0;
  LiquidSolver solver;
  LiquidState state;
  Ledger ledger;
  double divergence = 0;
  int substeps = 0, iterations = 0;  // since the last measure

  void clear(size_t index, size_t parts) {
    state = {}, ledger = {}, divergence = 0, substeps = iterations = 0;
    state.first_id = uint32_t(index), state.id_step = uint32_t(parts);
  }
};

/// Where a room stands; nowhere in particular is the world.
RoomMotion motion_of(const std::vector<RoomMotion>& motions, int room) {
  for (const RoomMotion& m : motions)
    if (m.room == room) return m;
  return {room, {}, {}, {}};
}

void change_space(Particles& p, double h, const RoomMotion& m, bool to_world) {
  for (size_t n = 0; n < p.size(); ++n) {
    Vec3d at, v;
    for (size_t a = 0; a < 3; ++a)
      at[int(a)] = double(p.place[a][n]) * h, v[int(a)] = double(p.velocity[a][n]);
    if (to_world) {
      at = m.pose * at;
      v = m.pose.turn * v + m.velocity + cross(m.spin, at - m.pose.position);
    } else {
      v = m.pose.turn.inverse(v - m.velocity - cross(m.spin, at - m.pose.position));
      at = m.pose.inverse() * at;
    }
    for (size_t a = 0; a < 3; ++a) p.place[a][n] = float(at[int(a)] / h), p.velocity[a][n] = float(v[int(a)]);
  }
}

void append(Particles& to, Particles& from) {
  std::vector<void*> next;
  from.each([&](auto& v) { next.push_back(&v); });
  size_t i = 0;
  to.each([&](auto& v) {
    const auto& more = *static_cast<std::remove_reference_t<decltype(v)>*>(next[i++]);
    v.insert(v.end(), more.begin(), more.end());
  });
}

class LiquidFlow : public Flow {
 public:
  explicit LiquidFlow(const Staging& staging) : staging_(staging) {
    for (const int room : staging.liquid_rooms()) parts_.emplace_back().room = room;
  }

  const char* name() const override { return "liquid"; }
  double time() const override { return parts_.front().state.time; }

  void begin() override {
    clear();
    for (Part& part : parts_) fill(part, -1, 0);
  }

  void begin_from(const StoredFrame& frame, const FlowRecord& record, double time,
                  const FluidNumbers& numbers) override {
    clear();
    Particles all = read_particles(frame);
    renumber(all, numbers);
    // The liquid of each room, then the rest.
    for (size_t i = parts_.size(); i-- > 0;) {
      Part& part = parts_[i];
      part.state.particles = i ? taken_by(all, part.room, time) : std::move(all);
      part.state.time = time;
      for (const uint32_t id : part.state.particles.id)
        part.state.poured = std::max(part.state.poured, id / uint32_t(parts_.size()) + 1);
      part.solver.find_slopes(part.state, world(part, time, time));
    }
    parts_.front().ledger = record.ledger;
    share_books();
  }

  void renumber(const FluidNumbers& numbers) override {
    for (Part& part : parts_) renumber(part.state.particles, numbers);
  }

  bool advance(int frame, double end, const StopAsked& stop) override {
    std::vector<char> arrived(parts_.size(), 0);
    parallel_for(
        parts_.size(), [&](size_t i) { arrived[i] = advance(parts_[i], frame, end, stop); }, 1);
    return std::all_of(arrived.begin(), arrived.end(), [](char a) { return a; });
  }

  FlowRecord measure() override {
    FlowRecord r;
    r.name = name();
    const std::vector<RoomMotion> motions = staging_.room_motions(time());
    for (Part& part : parts_) {
      const LiquidMeasure m = pour::measure(part.state, staging_.cell_size());
      const double many = double(part.state.particles.size());
      r.cells += m.cells, r.particles += many, r.ledger += part.ledger, r.drops += m.drops;
      r.centroid += motion_of(motions, part.room).pose * m.centroid * many;
      r.max_speed = std::max(r.max_speed, m.max_speed), r.kinetic_energy += m.kinetic_energy;
      r.max_divergence = std::max(r.max_divergence, std::exchange(part.divergence, 0));
      r.solver_iterations += std::exchange(part.iterations, 0);
      r.substeps = std::max(r.substeps, std::exchange(part.substeps, 0));
    }
    if (r.particles > 0) r.centroid = r.centroid / r.particles;
    return r;
  }

  FramePart frame_part() const override {
    Particles all;
    const std::vector<RoomMotion> motions = staging_.room_motions(time());
    for (const Part& part : parts_) {
      Particles own = part.state.particles;
      if (part.room) change_space(own, staging_.cell_size(), motion_of(motions, part.room), true);
      append(all, own);
    }
    return [particles = std::move(all), h = staging_.cell_size(), colors = staging_.liquid_colors()](
               FrameGrids& grids) { add_liquid(grids, particles, h, colors); };
  }

  void save(CheckpointWriter& out) const override {
    for (const Part& part : parts_) save(part, out);
  }
  void restore(CheckpointReader& in) override {
    clear();
    for (Part& part : parts_) restore(part, in);
  }
  void revive() override {
    for (Part& part : parts_) part.solver.restore(part.state, world(part, part.state.time, part.state.time));
  }

 private:
  static constexpr size_t block_bytes = block_cells * sizeof(float);
  // More than this, and drops fly through each other before they feel each other.
  static constexpr double most_crossed_by_liquid = 2;

  static void renumber(Particles& p, const FluidNumbers& numbers) {
    for (uint8_t& liquid : p.liquid) {
      const int now = liquid < numbers.size() ? numbers[liquid] : -1;
      if (now < 0)
        throw shot_fault(
            filled("Liquid number {liquid} of the earlier run", {{"liquid", std::to_string(int(liquid))}}),
            "is not in this shot.", "Keep the fluids of that run; their order does not matter.");
      liquid = uint8_t(now);
    }
  }

  void clear() {
    for (size_t i = 0; i < parts_.size(); ++i) parts_[i].clear(i, parts_.size());
  }

  LiquidWorld world(const Part& part, double from, double to) const {
    return staging_.liquid_world(from, to, part.room);
  }

  void fill(Part& part, double after, double until) {
    std::vector<Source> fills = staging_.fills(FlowKind::liquid, after, until);
    std::erase_if(fills, [&](const Source& s) { return s.room != part.room; });
    if (!fills.empty()) part.solver.fill(part.state, world(part, until, until), fills, part.ledger);
  }

  bool advance(Part& part, int frame, double end, const StopAsked& stop) {
    const Stepper liquid{.longest =
                             [&](double from, double until) {
                               return longest_step(
                                   part.state, staging_.liquid_world_until(from, until, part.room),
                                   std::min(staging_.courant(), most_crossed_by_liquid), until - from);
                             },
                         .step = [&](double from, double to) { step(part, from, to); },
                         .meets_pieces = part.room == 0};
    return march(part.state.time, end, liquid, staging_,
                 filled("in frame {frame}", {{"frame", std::to_string(frame)}}), stop);
  }

  void step(Part& part, double from, double to) {
    const LiquidReport report = part.solver.step(part.state, world(part, from, to), to - from, part.ledger);
    if (staging_.opens_cells(from, to)) part.solver.restore(part.state, world(part, to, to));
    fill(part, from, to);
    part.iterations += report.solver_iterations, part.divergence = report.max_divergence;
    ++part.substeps;
  }

  /// Extracts the liquid of a room, in its frame of reference.
  Particles taken_by(Particles& all, int room, double time) const {
    const RoomMotion m = motion_of(staging_.room_motions(time), room);
    const LevelSet inside = staging_.liquid_world(time, time, room).room->inside;
    const Pose back = m.pose.inverse();
    std::vector<size_t> in, out;
    for (size_t n = 0; n < all.size(); ++n) {
      const Vec3d at{all.place[0][n], all.place[1][n], all.place[2][n]};
      (inside.distance(back * (at * staging_.cell_size())) < 0 ? in : out).push_back(n);
    }
    Particles taken = all;
    const auto keep = [](Particles& p, const std::vector<size_t>& which) {
      p.each([&](auto& v) {
        for (size_t k = 0; k < which.size(); ++k) v[k] = v[which[k]];
      });
      p.resize(which.size());
    };
    keep(taken, in), keep(all, out);
    change_space(taken, staging_.cell_size(), m, false);
    return taken;
  }

  /// An earlier run recorded only the total poured: each part counts its contents as poured.
  void share_books() {
    const double each = particle_volume(staging_.cell_size());
    for (size_t i = 1; i < parts_.size(); ++i) {
      const double holds = double(parts_[i].state.particles.size()) * each;
      parts_[i].ledger.poured = holds, parts_.front().ledger.poured -= holds;
    }
  }

  void save(const Part& part, CheckpointWriter& out) const {
    const LiquidState& s = part.state;
    const int blocks = s.grid.blocks();
    out.put(s.time), out.put(staging_.room_mark(part.room, s.time)), out.put(s.filled), out.put(part.ledger),
        out.put(part.substeps), out.put(part.iterations), out.put(part.divergence);
    out.put(s.poured), out.put(uint32_t(s.owed.size()));
    for (const double v : s.owed) out.put(v);
    out.put(uint32_t(s.streams.size()));
    for (const Stream& stream : s.streams) out.put(stream);
    out.put(uint64_t(s.particles.size()));
    const_cast<Particles&>(s.particles).each([&](auto& v) {
      if (!v.empty()) out.put_all(v.data(), v.size() * sizeof v[0]);
    });
    out.put(blocks);
    for (const BlockKey& k : s.grid.keys()) out.put(k);
    const bool solved = blocks && s.pressure.size() == s.grid.size();
    out.put(solved);
    if (solved) out.put_all(s.pressure.block(first_block), size_t(blocks) * block_bytes);
  }

  void restore(Part& part, CheckpointReader& in) const {
    LiquidState& s = part.state;
    uint64_t room = 0;
    in.take(s.time), in.take(room);
    if (!std::isfinite(s.time)) throw in.unfit("is torn.");
    if (room != staging_.room_mark(part.room, s.time))
      throw in.unfit("has liquid in other vessels, or elsewhere.");
    in.take(s.filled), in.take(part.ledger), in.take(part.substeps), in.take(part.iterations),
        in.take(part.divergence);
    uint32_t sources = 0;
    in.take(s.poured), in.take(sources);
    in.expect(8.0 * sources);
    s.owed.resize(sources);
    for (double& v : s.owed) in.take(v);
    uint32_t streams = 0;
    in.take(streams);
    in.expect(double(sizeof(Stream)) * streams);
    s.streams.resize(streams);
    for (Stream& stream : s.streams) in.take(stream);
    uint64_t particles = 0;
    in.take(particles);
    double each = 0;
    s.particles.each([&](auto& v) { each += sizeof v[0]; });
    in.expect(double(particles) * each);
    s.particles.resize(size_t(particles));
    s.particles.each([&](auto& v) {
      if (!v.empty()) in.take_all(v.data(), v.size() * sizeof v[0]);
    });
    int blocks = 0;
    in.take(blocks);
    in.expect(double(blocks) * sizeof(BlockKey));
    std::vector<BlockKey> keys(static_cast<size_t>(blocks));
    for (BlockKey& k : keys) in.take(k);
    // Values outside the grid are set in revive().
    s.grid = BlockGrid(std::move(keys), [](const BlockKey&) { return int(outside_open); });
    bool solved = false;
    in.take(solved);
    if (!solved) return;
    in.expect(double(blocks) * block_bytes);
    s.pressure.resize(s.grid.size());
    if (blocks) in.take_all(s.pressure.block(first_block), size_t(blocks) * block_bytes);
  }

  const Staging& staging_;
  std::deque<Part> parts_;  // they stay where they are
};

}  // namespace

std::unique_ptr<Flow> liquid_flow(const Staging& staging) { return std::make_unique<LiquidFlow>(staging); }

}  // namespace pour
