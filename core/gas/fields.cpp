// What forces with a place do to gas.
#include "base/parallel.h"
#include "gas/gas.h"
#include "solve/cells.h"
#include "solve/rows.h"
#include "world/push.h"

namespace pour {
namespace {

/// A block: the room that moves with it, and the fields that act there.
struct FieldBlock {
  const Room* room = nullptr;  // that moves; null for the world's frame of reference
  std::vector<FieldNear> fields;

  /// `acting`: the world's fields, ready for all blocks that rest.
  FieldBlock(const GasWorld& world, const std::vector<Acting>& acting, const BlockKey& key) {
    if (key.room && world.rooms[size_t(key.room) - 1].moves) room = &world.rooms[size_t(key.room) - 1];
    const Box box = bounds_of(key, world.cell_size, room ? room->from : Pose());
    fields = fields_near(room ? world.fields : acting, box, key.room, block_cells);
  }
};

/// The eight points of a row of a block in its room's frame of reference, m.
Vec3<v8> row_of_block(const BlockKey& key, int y, int z, int face, double cell_size) {
  const auto half = [&](int a) { return a == face ? 0.f : 0.5f; };
  const Vec3f from = to<float>(key.at * 8) + Vec3f{half(0), float(y) + half(1), float(z) + half(2)};
  const float h = float(cell_size);
  return {(v8{0, 1, 2, 3, 4, 5, 6, 7} + from.x) * h, splat(from.y * h), splat(from.z * h)};
}

/// The sum of all fields at places of a block, in its room's frame of reference, led by the room's motion.
struct Sum {
  Vec3<v8> acceleration;  // and what drag leads to
  v8 drag;
};
Sum sum_at(const GasWorld& world, const FieldBlock& there, const EightPlaces& places, const Vec3<v8>& own,
           double dt) {
  Push push = push_of(there.fields, places);
  if (!there.room) {
    // In one sum with drag, for the speed that they end with.
    push.acceleration.y -= float(world.gravity) * places.weight;
    return {push.acceleration + push.led, push.drag};
  }
  const Vec3<v8> goes = (placed(there.room->to, own) - places.at) * splat(dt > 0 ? float(1 / dt) : 0.f);
  Vec3<v8> sum;
  for (int a = 0; a < 3; ++a) sum[a] = push.acceleration[a] + push.led[a] - push.drag * goes[a];
  return {turned_back(there.room->from.turn, sum), push.drag};
}

/// The sums at the cells of all blocks, and which blocks have any.
struct Sums {
  Floats acceleration[3], drag;
  std::vector<uint8_t> here;
  Sums(const GasState& s, const GasWorld& world, double dt) : drag(s.grid.size()) {
    for (Floats& f : acceleration) f.resize(s.grid.size());
    here.assign(size_t(s.grid.size()), 0);
    const std::vector<Acting> acting = fields_within(world.fields, bounds_of(s.grid, world.cell_size),
                                                     double(s.grid.blocks()) * block_cells);
    parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
      const int b = int(i) + first_block;
      const FieldBlock there(world, acting, s.grid.key(b));
      if (there.fields.empty() && (there.room || world.gravity == 0)) return;
      here[size_t(b)] = 1;
      for (int r = 0; r < 64; ++r) {
        const int y = r & 7, z = r >> 3, c = Around<float>::row(y, z);
        const Sum sum = sum_at(world, there, gas_places(s, world, b, y, z),
                               row_of_block(s.grid.key(b), y, z, -1, world.cell_size), dt);
        for (int a = 0; a < 3; ++a) store(acceleration[a].block(b) + c, sum.acceleration[a]);
        store(drag.block(b) + c, sum.drag);
      }
    });
  }
};

/// A field's mean across the faces of a row; beyond the blocks there is what is within.
struct AcrossFaces {
  LatticePlane<float> plane;
  int axis;
  bool ends;  // no block before this one along the axis
  v8 at(int y, int z) const {
    const v8 here = plane.at(y);
    if (axis == 0) return 0.5f * (here + (ends ? from_left(splat(here[0]), here) : plane.left(y)));
    if (axis == 1) return ends && y == 0 ? here : 0.5f * (here + plane.below(y));
    return ends && z == 0 ? here : 0.5f * (here + plane.behind(y));
  }
};

}  // namespace

EightPlaces gas_places(const GasState& s, const GasWorld& world, int b, int y, int z, int face) {
  const BlockKey& key = s.grid.key(b);
  const int* around = s.grid.around(b);
  const auto mean = [&](const Floats& field) {
    const LatticePlane<float> p = Around<float>(field, around, b).plane(z);
    if (face < 0) return p.at(y);
    return 0.5f * (p.at(y) + (face == 0 ? p.left(y) : face == 1 ? p.below(y) : p.behind(y)));
  };
  EightPlaces out;
  out.at = row_of_block(key, y, z, face, world.cell_size);
  if (key.room && world.rooms[size_t(key.room) - 1].moves)
    out.at = placed(world.rooms[size_t(key.room) - 1].from, out.at);
  out.heat = mean(s.heat), out.smoke = mean(s.density);
  out.weight = out.heat * float(-world.heat_lift / air::temperature) +
               out.smoke * float(-world.density_lift / air::density);
  const int c = Around<float>::row(y, z);
  const Vec3<v8> v{load(s.u.block(b) + c), load(s.v.block(b) + c), load(s.w.block(b) + c)};
  out.speed = vsqrt(dot(v, v));
  return out;
}

void GasSolver::apply_fields(GasState& s, const GasWorld& world, double dt) {
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  // Air outside of what is computed flows in with this velocity.
  const Vec3d outer = world.fields.empty() ? Vec3d{} : outer_air(world.fields);
  for (int a = 0; a < 3; ++a) std::fill_n(velocity[a]->block(outside_open), block_cells, float(outer[a]));
  if (world.fields.empty()) return;
  const Sums sums(s, world, dt);
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  constexpr int minus[3] = {x_minus, y_minus, z_minus};
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = s.grid.around(b);
    for (int a = 0; a < 3; ++a) {
      const int before = around[minus[a]];
      if (!sums.here[size_t(b)] && !sums.here[size_t(before)]) continue;
      const Around<float> pushes(sums.acceleration[a], around, b), drags(sums.drag, around, b);
      for (int z = 0; z < 8; ++z) {
        const AcrossFaces push{pushes.plane(z), a, before < first_block},
            drag{drags.plane(z), a, before < first_block};
        for (int y = 0; y < 8; ++y) {
          const int c = Around<float>::row(y, z);
          float* to = velocity[a]->block(b) + c;
          const v8 old = load(to);
          store(to, choose(load(face[a]->block(b) + c) > splat(0),
                           kept_on(old, push.at(y, z), drag.at(y, z), float(dt)), old));
        }
      }
    }
  });
}

void GasSolver::blow_in(GasState& s, const GasWorld& world, const std::vector<int>& fresh) {
  if (world.fields.empty()) return;
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  parallel_for(fresh.size(), [&](size_t i) {
    const int b = fresh[i];
    const BlockKey& key = s.grid.key(b);
    if (key.room) return;
    const FieldBlock there(world, world.fields, key);
    for (int a = 0; a < 3 && !there.fields.empty(); ++a)
      for (int r = 0; r < 64; ++r) {
        const v8 v = still_air(there.fields, row_of_block(key, r & 7, r >> 3, a, world.cell_size))[a];
        store(velocity[a]->block(b) + 8 * r, choose(load(face[a]->block(b) + 8 * r) > splat(0), v, splat(0)));
      }
  });
}

}  // namespace pour
