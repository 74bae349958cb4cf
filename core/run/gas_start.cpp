#include "run/gas_start.h"

#include <algorithm>
#include <set>

#include "base/error.h"
#include "base/parallel.h"
#include "base/text.h"
#include "gas/carried.h"
#include "solve/cells.h"

namespace pour {
namespace {

constexpr int stride[3] = {1, 8, 64};

/// The rooms that may hold something of a block of a volume: that one which moves, or all that stand still.
std::vector<int> rooms_at(const GasWorld& world, int volume, const Vec3i& block) {
  if (volume) return {volume};
  std::vector<int> out{0};
  for (int room = 1; room <= int(world.rooms.size()); ++room) {
    const LevelSet& set = world.rooms[size_t(room) - 1].inside;
    const Vec3i low = block * 8, high = low + Vec3i{8, 8, 8}, first = set.first(), last = first + set.count();
    if (world.rooms[size_t(room) - 1].moves || low.x > last.x || low.y > last.y || low.z > last.z ||
        high.x < first.x || high.y < first.y || high.z < first.z)
      continue;
    if (has_space(world, {room, block})) out.push_back(room);
  }
  return out;
}

/// The blocks that hold it: of rooms all of them.
std::vector<BlockKey> keys_of(const std::vector<SmokeBlocks>& volumes, const GasWorld& world) {
  std::set<BlockKey> keys;
  std::set<int> rooms;
  for (const SmokeBlocks& v : volumes)
    for (const SmokeBlock& block : v.blocks)
      for (const int room : rooms_at(world, v.room, block.at)) {
        if (room)
          rooms.insert(room);
        else if (has_space(world, {0, block.at}))
          keys.insert({0, block.at});
      }
  for (const int room : rooms)
    for (const BlockKey& k : GasSolver::blocks_of_room(world, room)) keys.insert(k);
  return {keys.begin(), keys.end()};
}

/// Grid blocks, with their rooms, that may contain a block of a frame.
struct Holders {
  std::vector<std::pair<int, int>> all;  // room, block
  Holders(const GasState& s, const GasWorld& world, int volume, const Vec3i& at) {
    for (const int room : rooms_at(world, volume, at))
      if (const int b = s.grid.find({room, at}); b >= 0) all.emplace_back(room, b);
  }
};

int space(const GasState& s, int block, int cell) {
  const int part = s.geometry.volume.block(block)[cell];
  return part == outside_volume ? 0 : part;
}

/// The rooms in which there is smoke: those that have more of one of its cells than the space around them,
/// and that space if one of its cells is in no room.
std::set<int> rooms_with_smoke(const std::vector<SmokeBlocks>& volumes, const GasState& s,
                               const GasWorld& world) {
  std::set<int> out;
  for (const SmokeBlocks& v : volumes)
    for (const SmokeBlock& from : v.blocks) {
      const Holders holders(s, world, v.room, from.at);
      for (int c = 0; c < block_cells; ++c) {
        if (!from.here[size_t(c)]) continue;
        int around = 0, inside = 0, room_of = 0;
        for (const auto& [room, b] : holders.all) {
          const int part = space(s, b, c);
          if (!room) around = part;
          if (room && part > inside) inside = part, room_of = room;
        }
        if (inside > around) out.insert(room_of);
        if (!inside && around) out.insert(0);
      }
    }
  return out;
}

/// f(volume, block of the frame, block of the grid, cell) for each cell that has smoke; where rooms with
/// smoke share a cell, of the one that has most of it.
template <class F>
void each_cell(const std::vector<SmokeBlocks>& volumes, const GasState& s, const GasWorld& world,
               const std::set<int>& rooms, const F& f) {
  for (const SmokeBlocks& v : volumes)
    parallel_for(v.blocks.size(), [&](size_t i) {
      const SmokeBlock& from = v.blocks[i];
      const Holders holders(s, world, v.room, from.at);
      for (int c = 0; c < block_cells; ++c) {
        if (!from.here[size_t(c)]) continue;
        int most = 0, best = -1;
        for (const auto& [room, b] : holders.all)
          if (const int part = space(s, b, c); part > most && rooms.contains(room)) most = part, best = b;
        if (best >= 0) f(v, from, best, c);
      }
    });
}

/// A room has a volume of its own, in its own space, where its piece moves; otherwise it is among what
/// stands.
void check_rooms(const std::vector<SmokeBlocks>& volumes, const std::vector<RoomMotion>& motions,
                 const StoredFrame& frame) {
  std::set<int> had, have;
  for (const SmokeBlocks& v : volumes)
    if (v.room) had.insert(v.room);
  for (const RoomMotion& m : motions) have.insert(m.room);
  if (!volumes.empty() && had != have)
    throw shot_fault(
        "Smoke",
        filled("moved in its piece in {file} where it stands in this shot, or stood where it moves.",
               {{"file", frame.file.string()}}),
        "Let the same pieces move, or start from nothing.");
}

/// The velocity at the middle of a cell of a room that moves, in its own space, from that in the world.
Vec3f own_velocity(const RoomMotion& motion, const Vec3d& place, const Vec3f& in_world) {
  const Vec3d there = motion.pose * place - motion.pose.position;
  return to<float>(
      motion.pose.turn.inverse(to<double>(in_world) - motion.velocity - cross(motion.spin, there)));
}

}  // namespace

GasState gas_from_frame(const StoredFrame& frame, const GasWorld& world,
                        const std::vector<RoomMotion>& motions, GasSolver& solver) {
  const std::vector<SmokeBlocks> volumes = read_smoke_blocks(frame);
  check_rooms(volumes, motions, frame);
  GasState s;
  s.grid = BlockGrid(keys_of(volumes, world), [](const BlockKey&) { return int(outside_open); });
  for (Floats* f : fields_of(s)) f->resize(s.grid.size());
  solver.restore(s, world);
  const std::set<int> rooms = rooms_with_smoke(volumes, s, world);
  each_cell(volumes, s, world, rooms, [&](const SmokeBlocks&, const SmokeBlock& from, int b, int c) {
    const size_t n = size_t(c);
    const float d = from.density[n];
    s.density.block(b)[c] = d, s.heat.block(b)[c] = from.heat[n];
    s.red.block(b)[c] = d * from.color[n].x, s.green.block(b)[c] = d * from.color[n].y;
    s.blue.block(b)[c] = d * from.color[n].z;
  });
  Ledger none;
  solver.update_region(s, world, 0, none);
  Bytes known[3];
  for (Bytes& k : known) k.resize(s.grid.size());
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  each_cell(volumes, s, world, rooms, [&](const SmokeBlocks& v, const SmokeBlock& from, int b, int c) {
    const auto motion =
        std::find_if(motions.begin(), motions.end(), [&](const RoomMotion& m) { return m.room == v.room; });
    const bool moves = v.room && motion != motions.end();
    const auto at = [&](int cell) {
      const Vec3f& u = from.velocity[size_t(cell)];
      return moves ? own_velocity(*motion, cell_middle(s.grid, b, cell, world.cell_size), u) : u;
    };
    const Vec3f own = at(c);
    for (int a = 0; a < 3; ++a) {
      // Velocities of a room that moves are those of the middles of its cells.
      const bool both = moves && (c >> 3 * a & 7) && from.here[size_t(c - stride[a])];
      velocity[a]->block(b)[c] = both ? 0.5f * (own[a] + at(c - stride[a])[a]) : own[a];
      known[a].block(b)[c] = 1;
    }
  });
  solver.complete_air(s, world, known);
  return s;
}

}  // namespace pour
