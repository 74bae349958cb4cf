// What forces with a place do to liquid.
#include "base/parallel.h"
#include "liquid/liquid.h"
#include "world/push.h"

namespace pour {
namespace {

/// Eight particles, from one on; the last stands for those that are missing.
struct Eight {
  size_t index[8];
  int count;
  Eight(size_t first, size_t all) : count(int(std::min<size_t>(8, all - first))) {
    for (int i = 0; i < 8; ++i) index[i] = first + size_t(std::min(i, count - 1));
  }
  template <class T>
  v8 read(const std::vector<T>& from) const {
    v8 out;
    for (int i = 0; i < 8; ++i) out[i] = float(from[index[i]]);
    return out;
  }
  void write(std::vector<float>& to, v8 v) const {
    for (int i = 0; i < count; ++i) to[index[i]] = v[i];
  }
};

/// Which liquids eight particles are of, and where they go.
struct Kinds {
  uint8_t liquid[8];
  uint16_t goal[8];
};

/// The fields of a world, as they act on particles in its frame of reference.
class Pushes {
 public:
  Pushes(const LiquidWorld& world, double dt) : world_(world), dt_(float(dt)) {
    for (const Acting& f : world.fields) {
      which_.push_back(f.share > 0 && (!world.room || f.inside));
    }
    moves_ = world.room && world.room->moves;
  }
  /// The push at eight places of these particles, all vectors in the frame of reference of the world.
  Push operator()(const Vec3<v8>& own, const Kinds& kinds, v8 age, v8 speed) const {
    const Vec3<v8> at = moves_ ? placed(world_.room->from, own) : own;
    EightPlaces places{at, splat(1), splat(0), false, age, speed};
    Push out;
    for (size_t i = 0; i < which_.size(); ++i) {
      const Acting& f = world_.fields[i];
      if (!which_[i]) continue;
      v8 share = f.strength.share(places) * float(f.share);
      for (int k = 0; k < 8 && !f.liquids.empty(); ++k)
        if (kinds.liquid[k] >= f.liquids.size() || !f.liquids[kinds.liquid[k]]) share[k] = 0;
      places.part = f.sharing ? part_of(*f.sharing, kinds.goal) : v8i{} - 1;
      f.field->add(places, share, out);
    }
    if (!moves_) {
      out.acceleration.y -= splat(float(world_.gravity));
      return out;
    }
    const Vec3<v8> goes = (placed(world_.room->to, own) - at) * splat(dt_ > 0 ? 1 / dt_ : 0.f);
    for (int a = 0; a < 3; ++a) out.led[a] -= out.drag * goes[a];
    out.acceleration = turned_back(world_.room->from.turn, out.acceleration);
    out.led = turned_back(world_.room->from.turn, out.led);
    return out;
  }

 private:
  const LiquidWorld& world_;
  float dt_;
  std::vector<uint8_t> which_;
  bool moves_ = false;
};

bool any_above_zero(v8 v) {
  for (int i = 0; i < 8; ++i)
    if (v[i] > 0) return true;
  return false;
}

}  // namespace

void LiquidSolver::apply_fields(LiquidState& s, const LiquidWorld& world, double dt) {
  const Pushes pushes(world, dt);
  Particles& p = s.particles;
  if (world.fields.empty() || !p.size()) return;
  const float h = float(world.cell_size);
  constexpr size_t chunk = 512;  // eights
  parallel_for((p.size() + 7) / 8,
               [&](size_t k) {
                 const Eight e(8 * k, p.size());
                 Kinds kinds;
                 for (int i = 0; i < 8; ++i)
                   kinds.liquid[i] = p.liquid[e.index[i]], kinds.goal[i] = p.goal[e.index[i]];
                 Vec3<v8> at;
                 for (int a = 0; a < 3; ++a) at[a] = e.read(p.place[size_t(a)]) * h;
                 const v8 age = e.read(p.age);
                 Vec3<v8> v;
                 for (int a = 0; a < 3; ++a) v[a] = e.read(p.velocity[size_t(a)]);
                 const v8 speed = vsqrt(dot(v, v));
                 const Push push = pushes(at, kinds, age, speed);
                 const v8 time = held_time(push.drag, float(dt));
                 for (int a = 0; a < 3; ++a)
                   e.write(p.velocity[size_t(a)],
                           v[a] + (push.acceleration[a] + push.led[a] - push.drag * v[a]) * time);
                 if (!any_above_zero(push.drag)) return;
                 // Velocity gradients go towards that of the velocity that drag leads to.
                 const v8 taken = push.drag * time;
                 for (int axis = 0; axis < 3; ++axis) {
                   Vec3<v8> low = at, high = at;
                   low[axis] -= 0.5f * h, high[axis] += 0.5f * h;
                   const Push a = pushes(low, kinds, age, speed), b = pushes(high, kinds, age, speed);
                   for (int c = 0; c < 3; ++c) {
                     const v8 led =
                         b.led[c] / vmax(b.drag, splat(1e-20f)) - a.led[c] / vmax(a.drag, splat(1e-20f));
                     std::vector<float>& slope = p.slope[size_t(3 * c + axis)];
                     const v8 old = e.read(slope);
                     e.write(slope, old + (led - old) * taken);
                   }
                 }
               },
               chunk);
}

void LiquidSolver::hold_back(LiquidState& s, const LiquidWorld& world) {
  Particles& p = s.particles;
  const float h = float(world.cell_size);
  for (const Acting& f : world.fields) {
    const float most = float(f.field->fastest());
    if (most <= 0 || f.share <= 0 || (world.room && !f.inside)) continue;
    parallel_for((p.size() + 7) / 8,
                 [&](size_t k) {
                   const Eight e(8 * k, p.size());
                   EightPlaces places{};
                   for (int a = 0; a < 3; ++a) places.at[a] = e.read(p.place[size_t(a)]) * h;
                   if (world.room && world.room->moves) places.at = placed(world.room->from, places.at);
                   Vec3<v8> v;
                   for (int a = 0; a < 3; ++a) v[a] = e.read(p.velocity[size_t(a)]);
                   places.gas = false, places.age = e.read(p.age), places.speed = vsqrt(dot(v, v));
                   const v8 share = f.strength.share(places);
                   v8 factor = vmin(splat(1), most / vmax(places.speed, splat(1e-20f)));
                   for (int i = 0; i < e.count; ++i) {
                     const uint8_t liquid = p.liquid[e.index[i]];
                     const bool acts = f.liquids.empty() || (liquid < f.liquids.size() && f.liquids[liquid]);
                     if (!acts || share[i] < 0.5f) factor[i] = 1;
                   }
                   for (int a = 0; a < 3; ++a) e.write(p.velocity[size_t(a)], v[a] * factor);
                 },
                 512);
  }
}

}  // namespace pour
