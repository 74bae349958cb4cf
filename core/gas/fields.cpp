// What forces with a place do to gas.
#include "base/parallel.h"
#include "gas/gas.h"
#include "solve/cells.h"
#include "solve/rows.h"
#include "world/push.h"

namespace pour {
namespace {

/// A block: the room that moves with it, and which fields act there.
struct FieldBlock {
  const Room* room = nullptr;  // that moves; null for the world's frame of reference
  std::vector<uint8_t> which;
  bool any = false;

  FieldBlock(const GasWorld& world, const BlockKey& key) {
    if (key.room && world.rooms[size_t(key.room) - 1].moves) room = &world.rooms[size_t(key.room) - 1];
    Vec3d center = (to<double>(key.at * 8) + Vec3d{4, 4, 4}) * world.cell_size;
    if (room) center = room->from * center;
    const double radius = 5 * std::sqrt(3.0) * world.cell_size;
    for (const Acting& f : world.fields) {
      which.push_back(f.share > 0 && (!key.room || f.inside) && f.strength.reach.meets(center, radius));
      any = any || which.back();
    }
  }
};

/// The eight points of a row of a block in its room's frame of reference, m.
Vec3<v8> row_of_block(const BlockKey& key, int y, int z, int face, double cell_size) {
  const auto half = [&](int a) { return a == face ? 0.f : 0.5f; };
  const Vec3f from = to<float>(key.at * 8) + Vec3f{half(0), float(y) + half(1), float(z) + half(2)};
  const float h = float(cell_size);
  return {(v8{0, 1, 2, 3, 4, 5, 6, 7} + from.x) * h, splat(from.y * h), splat(from.z * h)};
}

/// The push along an axis at places of a block, in its room's frame of reference, led by the room's motion.
struct Along {
  v8 acceleration, drag;
};
Along push_along(const GasWorld& world, const FieldBlock& there, int axis, const EightPlaces& places,
                 const Vec3<v8>& own, double dt) {
  Push push = push_of(world.fields, there.which, places);
  if (!there.room) {
    // In one sum with drag, for the speed that they end with.
    push.acceleration.y -= float(world.gravity) * places.weight;
    return {push.acceleration[axis] + push.led[axis], push.drag};
  }
  const Vec3<v8> goes = (placed(there.room->to, own) - places.at) * splat(dt > 0 ? float(1 / dt) : 0.f);
  v8 sum{};
  for (int a = 0; a < 3; ++a)
    sum += (push.acceleration[a] + push.led[a] - push.drag * goes[a]) *
           float(there.room->from.turn.row[a][axis]);
  return {sum, push.drag};
}

bool has_open(const uint8_t* faces) {
  uint64_t eight;
  std::memcpy(&eight, faces, 8);
  return eight != 0;
}

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
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const FieldBlock there(world, s.grid.key(b));
    if (!there.any && (there.room || world.gravity == 0)) return;
    for (int a = 0; a < 3; ++a) {
      if (!there.any && a != 1) continue;  // gravity alone
      for (int r = 0; r < 64; ++r) {
        const int y = r & 7, z = r >> 3, c = Around<float>::row(y, z);
        if (!has_open(face[a]->block(b) + c)) continue;
        const Along push = push_along(world, there, a, gas_places(s, world, b, y, z, a),
                                      row_of_block(s.grid.key(b), y, z, a, world.cell_size), dt);
        float* to = velocity[a]->block(b) + c;
        const v8 old = load(to);
        store(to, choose(load(face[a]->block(b) + c) > splat(0),
                         kept_on(old, push.acceleration, push.drag, float(dt)), old));
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
    const FieldBlock there(world, key);
    for (int a = 0; a < 3 && there.any; ++a)
      for (int r = 0; r < 64; ++r) {
        const v8 v =
            still_air(world.fields, there.which, row_of_block(key, r & 7, r >> 3, a, world.cell_size))[a];
        store(velocity[a]->block(b) + 8 * r, choose(load(face[a]->block(b) + 8 * r) > splat(0), v, splat(0)));
      }
  });
}

}  // namespace pour
