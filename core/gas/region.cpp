// Which blocks are computed, and how much of their cells and faces is open.
#include <atomic>
#include <cmath>

#include "base/parallel.h"
#include "gas/carried.h"
#include "gas/gas.h"
#include "solve/move_blocks.h"
#include "solve/rows.h"

namespace pour {
namespace {

// Cells around smoke that are computed, beyond what it crosses in a step: as many must be there, and as many
// are made at a time, so that not every step brings a new grid.
constexpr double least_margin = 1, new_margin = 2;
constexpr float smoke_share = 3e-4f;  // of the densest smoke: where there is less, nothing is computed

/// Adds the blocks of room 0 that what is present can come near to in a step of dt seconds: those that are
/// required, and those that are wanted beside them.
void add_blocks_near_smoke(const GasState& s, const GasSolver::Presence& present, double dt, double h,
                           std::vector<BlockKey>& required, std::vector<BlockKey>& wanted) {
  const size_t n = size_t(s.grid.blocks());
  // Which of the 27 neighbouring blocks are within the margins of each eighth of a block.
  struct Near {
    uint32_t required = 0, wanted = 0;
  };
  std::vector<Near> near(n);
  parallel_for(n, [&](size_t i) {
    const int block = int(i) + first_block;
    if (s.grid.key(block).room || !present.here[size_t(block)]) return;
    const float *smoke = s.density.block(block), *heat = s.heat.block(block);
    float fastest = 0, lift = 0;
    for (int k = 0; k < 27; ++k)
      if (const int other = s.grid.around(block)[k]; other >= first_block)
        fastest = std::max(fastest, present.most_speed[size_t(other - first_block)]),
        lift = std::max(lift, present.most_lift[size_t(other - first_block)]);
    // The margin includes a cell for buoyancy.
    const double added = std::max(0.0, double(lift) * dt * dt / h - 1);
    const double crossed = std::min(most_crossed, double(fastest) * dt / h + added);
    const double least = crossed + least_margin, most = crossed + new_margin;
    for (int eighth = 0; eighth < 8; ++eighth) {
      const Vec3i corner{eighth & 1 ? 4 : 0, eighth & 2 ? 4 : 0, eighth & 4 ? 4 : 0};
      Vec3i from{8, 8, 8}, to{-1, -1, -1};
      for (int z = corner.z; z < corner.z + 4; ++z)
        for (int y = corner.y; y < corner.y + 4; ++y)
          for (int x = corner.x; x < corner.x + 4; ++x) {
            const int c = (z * 8 + y) * 8 + x;
            if (smoke[c] > present.least_smoke || std::abs(heat[c]) > present.least_heat)
              from = min(from, {x, y, z}), to = max(to, {x, y, z});
          }
      if (to.x < 0) continue;
      for (int k = 0; k < 27; ++k) {
        const Vec3i first{(k % 3 - 1) * 8, (k / 3 % 3 - 1) * 8, (k / 9 - 1) * 8};
        int away = 0;  // squared, in cells
        for (int a = 0; a < 3; ++a) {
          const int gap = std::max({first[a] - to[a], from[a] - (first[a] + 7), 0});
          away += gap * gap;
        }
        if (away <= least * least) near[i].required |= 1u << k;
        if (away <= most * most) near[i].wanted |= 1u << k;
      }
    }
  });
  for (size_t i = 0; i < n; ++i)
    for (int k = 0; k < 27; ++k) {
      const Vec3i block = s.grid.key(int(i) + first_block).at + Vec3i{k % 3 - 1, k / 3 % 3 - 1, k / 9 - 1};
      if (near[i].wanted >> k & 1) wanted.push_back({0, block});
      if (near[i].required >> k & 1) required.push_back({0, block});
    }
}

}  // namespace

uint64_t next_geometry_id() {
  static std::atomic<uint64_t> id{0};
  return ++id;
}

GasSolver::Presence GasSolver::find_presence(const GasState& s, const GasWorld& world) {
  const size_t n = size_t(s.grid.blocks());
  std::vector<float> most_smoke(n, 0), most_heat(n, 0);
  Presence out;
  out.most_speed.assign(n, 0), out.most_lift.assign(n, 0);
  parallel_for(n, [&](size_t i) {
    const int b = int(i) + first_block;
    if (s.grid.key(b).room) return;
    const auto most = [&](const Floats& f) {
      v8 m{};
      for (int c = 0; c < block_cells; c += 8) {
        const v8 v = load(f.block(b) + c);
        m = vmax(m, vmax(v, -v));
      }
      float out = 0;
      for (int k = 0; k < 8; ++k) out = std::max(out, m[k]);
      return out;
    };
    most_smoke[i] = most(s.density), most_heat[i] = most(s.heat);
    out.most_speed[i] = std::max({most(s.u), most(s.v), most(s.w)});
    out.most_lift[i] = float(pour::most_lift(world, double(most_heat[i]), double(most_smoke[i])));
  });
  float densest = 0, hottest = 0;
  for (size_t i = 0; i < n; ++i)
    densest = std::max(densest, most_smoke[i]), hottest = std::max(hottest, most_heat[i]);
  out.least_smoke = densest * smoke_share, out.least_heat = std::max(0.02f * hottest, 0.1f);
  out.here.assign(n + first_block, 0);
  for (size_t i = 0; i < n; ++i)
    out.here[i + first_block] = s.grid.key(int(i) + first_block).room || most_smoke[i] > out.least_smoke ||
                                most_heat[i] > out.least_heat;
  return out;
}

void GasSolver::restore(GasState& s, const GasWorld& world) {
  s.grid = BlockGrid(s.grid.keys(), [&](const BlockKey& k) { return beyond_grid(world, k); });
  CellGeometry& g = s.geometry;
  for (Bytes* f : {&g.fx, &g.fy, &g.fz, &g.volume}) f->resize(s.grid.size());
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    cut_block(g, world, s.grid.key(int(i) + first_block), int(i) + first_block);
  });
  std::fill_n(g.volume.block(outside_open), block_cells, uint8_t(outside_volume));
  s.geometry_id = next_geometry_id();
}

namespace {

/// The first block of the bounds, and the one after the last.
std::pair<Vec3i, Vec3i> blocks_of_bounds(const GasWorld& world) {
  Vec3i low, high;
  for (int a = 0; a < 3; ++a)
    low[a] = world.low[a] >> 3, high[a] = (world.low[a] + world.cells[a] + 1 + 7) >> 3;
  return {low, high};
}

}  // namespace

std::vector<BlockKey> GasSolver::blocks_of_room(const GasWorld& world, int room) {
  const auto [low, high] = blocks_of_bounds(world);
  const LevelSet& set = world.rooms[size_t(room) - 1].inside;
  const Vec3i first = set.first(), count = set.count();
  std::vector<BlockKey> out;
  Vec3i b;
  for (b.z = first.z >> 3; b.z <= (first.z + count.z) >> 3; ++b.z)
    for (b.y = first.y >> 3; b.y <= (first.y + count.y) >> 3; ++b.y)
      for (b.x = first.x >> 3; b.x <= (first.x + count.x) >> 3; ++b.x) {
        const bool within = min(max(b, low), high - Vec3i{1, 1, 1}) == b;
        if ((world.rooms[size_t(room) - 1].moves || within) && has_space(world, {room, b}))
          out.push_back({room, b});
      }
  return out;
}

void GasSolver::update_region(GasState& s, const GasWorld& world, double dt, Ledger& ledger) {
  const double h = world.cell_size;
  const int n = s.grid.blocks();
  const Presence present = find_presence(s, world);
  trace_of_smoke_ = 1e-3f * present.least_smoke, trace_of_heat_ = 1e-3f * present.least_heat;
  const auto [low, high] = blocks_of_bounds(world);
  const auto within = [low = low, high = high](const Vec3i& b) {
    return min(max(b, low), high - Vec3i{1, 1, 1}) == b;
  };
  std::vector<BlockKey> wanted;
  std::vector<uint8_t> room_active(world.rooms.size() + 1, 0);
  for (const Source& source : world.sources) {
    if (source.room) {
      room_active[size_t(source.room)] = 1;
      continue;
    }
    double fastest = 0;
    for (int a = 0; a < 3; ++a) {
      const double own = source.spread > 0 ? length(source.velocity) : std::abs(source.velocity[a]);
      fastest = std::max(fastest, own + std::abs(source.outwards) + std::abs(source.motion[a]));
    }
    const int margin = int(std::ceil(std::min(most_crossed, fastest * dt / h) + new_margin));
    Vec3i from, to;  // blocks
    for (int a = 0; a < 3; ++a)
      from[a] = std::max((int(std::floor(source.shape.bounds.low[a] / h)) - margin) >> 3, low[a]),
      to[a] = std::min((int(std::floor(source.shape.bounds.high[a] / h)) + margin) >> 3, high[a] - 1);
    const double block_reach = (4 * std::sqrt(3.0) + margin) * h;  // from the block's middle
    for (int z = from.z; z <= to.z; ++z)
      for (int y = from.y; y <= to.y; ++y)
        for (int x = from.x; x <= to.x; ++x)
          if (source.shape.distance(Vec3d{x * 8 + 4.0, y * 8 + 4.0, z * 8 + 4.0} * h) <= block_reach)
            wanted.push_back({0, {x, y, z}});
  }
  // Whole rooms: pressure acts throughout a closed vessel at once.
  std::vector<BlockKey> rooms_keys;
  for (const BlockKey& k : s.grid.keys())
    if (k.room) rooms_keys.push_back(k), room_active[size_t(k.room)] = 2;
  for (int room = 1; room <= int(world.rooms.size()); ++room)
    if (room_active[size_t(room)] == 1)
      for (const BlockKey& k : blocks_of_room(world, room)) rooms_keys.push_back(k);
  std::vector<BlockKey> required = wanted;
  add_blocks_near_smoke(s, present, dt, h, required, wanted);
  for (auto* keys : {&wanted, &required}) {
    std::erase_if(*keys, [&](const BlockKey& k) { return !within(k.at); });
    std::sort(keys->begin(), keys->end());
    keys->erase(std::unique(keys->begin(), keys->end()), keys->end());
  }
  const auto missing = [&](const std::vector<BlockKey>& keys) {
    std::vector<BlockKey> absent;
    for (const BlockKey& k : keys)
      if (s.grid.find(k) < 0) absent.push_back(k);
    std::vector<uint8_t> gas(absent.size());
    parallel_for(absent.size(), [&](size_t i) { gas[i] = has_space(world, absent[i]); });
    std::vector<BlockKey> out;
    for (size_t i = 0; i < absent.size(); ++i)
      if (gas[i]) out.push_back(absent[i]);
    return out;
  };
  size_t have = 0, around_now = 0;
  for (const BlockKey& k : s.grid.keys()) around_now += k.room == 0;
  for (const BlockKey& k : wanted) have += s.grid.find(k) >= 0;
  const bool same_rooms = rooms_keys.size() + around_now == size_t(n);
  // A few blocks too many are cheaper than a new grid in every step.
  if (n && same_rooms && double(around_now) <= 1.1 * double(have) + 8 && missing(required).empty()) return;

  const std::vector<BlockKey> fresh = missing(wanted);
  std::vector<BlockKey> keys = rooms_keys;
  for (const BlockKey& k : wanted)
    if (s.grid.find(k) >= 0) keys.push_back(k);
  keys.insert(keys.end(), fresh.begin(), fresh.end());
  BlockGrid next(keys, [&](const BlockKey& k) { return beyond_grid(world, k); });

  const double before = n ? smoke_mass(s, h) : 0;
  for (Floats* f : fields_of(s)) move_blocks(*f, s.grid, next);
  CellGeometry& g = s.geometry;
  for (Bytes* f : {&g.fx, &g.fy, &g.fz, &g.volume}) move_blocks(*f, s.grid, next);
  parallel_for(size_t(next.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    if (s.grid.find(next.key(b)) < 0) cut_block(g, world, next.key(b), b);
  });
  std::fill_n(g.volume.block(outside_open), block_cells, uint8_t(outside_volume));
  std::vector<int> new_blocks;
  for (int b = first_block; b < next.size(); ++b)
    if (s.grid.find(next.key(b)) < 0) new_blocks.push_back(b);
  s.grid = std::move(next);
  s.geometry_id = next_geometry_id();
  blow_in(s, world, new_blocks);
  // Wisps too thin to follow are gone with the blocks that held them.
  if (before > 0) ledger.numeric += smoke_mass(s, h) - before;
}

}  // namespace pour
