// What forces with a place do to liquid.
#include <algorithm>

#include "base/lattice.h"
#include "base/parallel.h"
#include "liquid/liquid.h"
#include "solve/cells.h"
#include "world/push.h"

namespace pour {
namespace {

/// Up to eight particles that follow each other; lanes beyond them have values of others.
struct Eight {
  size_t first, size;
  int count;
  Eight(size_t first, size_t last, size_t size)
      : first(first), size(size), count(int(std::min<size_t>(8, last - first))) {}
  size_t index(int lane) const { return std::min(first + size_t(lane), size - 1); }
  v8 read(const std::vector<float>& from) const {
    if (first + 8 <= size) return load(&from[first]);
    v8 out;
    for (int i = 0; i < 8; ++i) out[i] = from[index(i)];
    return out;
  }
  void write(std::vector<float>& to, v8 v) const { store_first(&to[first], v, count); }
};

/// Which liquids eight particles are of, and where they go.
struct Kinds {
  uint8_t liquid[8];
  uint16_t goal[8];
};

/// A push, and how what leads to a velocity changes along each axis, by the cell.
struct PushThere {
  Push push;
  Vec3<v8> led_slope[3]{};
  v8 drag_slope[3]{};
};

/// The fields of a world near a block, as they act on particles; all vectors in the world's frame of
/// reference.
class Pushes {
 public:
  Pushes(const LiquidWorld& world, const std::vector<Acting>& acting, const BlockKey& key, size_t particles,
         double dt)
      : world_(world),
        h_(float(world.cell_size)),
        dt_(float(dt)),
        moves_(world.room && world.room->moves),
        corner_(to<float>(key.at * 8)) {
    const Box box = bounds_of(key, world.cell_size, moves_ ? world.room->from : Pose());
    constexpr size_t few = points;  // with fewer particles it pays no longer to sample
    const bool many = particles >= few;
    by_particle_ = fields_near(acting, box, world.room.has_value(), many ? points : double(particles));
    if (!many) return;
    const auto smooth = std::stable_partition(by_particle_.begin(), by_particle_.end(),
                                              [](const FieldNear& f) { return !f.is_smooth(); });
    const std::vector<FieldNear> sampled(smooth, by_particle_.end());
    by_particle_.erase(smooth, by_particle_.end());
    if (!sampled.empty()) sample(sampled);
  }

  /// Whether all is known for whole cells, so that it pays to ask for them one after the other.
  bool is_sampled() const { return !lattice_[0].empty() && by_particle_.empty(); }
  /// At places in cells. `cell`: the number of the cell that they all lie in, or -1.
  PushThere operator()(const Vec3<v8>& place, int cell, const Kinds& kinds, v8 age, v8 speed) const {
    PushThere out;
    if (!by_particle_.empty()) out = one_by_one(place, kinds, age, speed);
    if (!lattice_[0].empty()) add_sampled(place, cell, out);
    if (!moves_) out.push.acceleration.y -= splat(float(world_.gravity));
    return out;
  }

 private:
  static constexpr int side = 9, points = side * side * side;
  static constexpr int up[3] = {1, side, side* side};

  /// The sum of fields at places, in cells.
  Push sum(const std::vector<FieldNear>& fields, const Vec3<v8>& place, const Kinds* kinds, v8 age,
           v8 speed) const {
    const Vec3<v8> own = place * splat(h_), at = moves_ ? placed(world_.room->from, own) : own;
    EightPlaces places{at, splat(1), splat(0), false, age, speed};
    Push out;
    for (const FieldNear& f : fields) {
      const Acting& acting = f.acting();
      v8 share = f.share(places) * float(acting.share);
      for (int k = 0; k < 8 && !acting.liquids.empty(); ++k)
        if (!acting.acts_on(kinds->liquid[k])) share[k] = 0;
      places.part = acting.sharing ? part_of(*acting.sharing, kinds->goal) : v8i{} - 1;
      f.add(places, share, out);
    }
    if (!moves_) return out;
    const Vec3<v8> goes = (placed(world_.room->to, own) - at) * splat(dt_ > 0 ? 1 / dt_ : 0.f);
    for (int a = 0; a < 3; ++a) out.led[a] -= out.drag * goes[a];
    out.acceleration = turned_back(world_.room->from.turn, out.acceleration);
    out.led = turned_back(world_.room->from.turn, out.led);
    return out;
  }

  PushThere one_by_one(const Vec3<v8>& place, const Kinds& kinds, v8 age, v8 speed) const {
    PushThere out{sum(by_particle_, place, &kinds, age, speed)};
    if (!any(out.push.drag > splat(0))) return out;
    constexpr float step = 0.25f;  // cells: short, because it is to one side only
    for (int a = 0; a < 3; ++a) {
      Vec3<v8> beside = place;
      beside[a] += step;
      const Push there = sum(by_particle_, beside, &kinds, age, speed);
      out.led_slope[a] = (there.led - out.push.led) / splat(step);
      out.drag_slope[a] = (there.drag - out.push.drag) / step;
    }
    return out;
  }

  /// Keeps what fields give at the corners of cells: acceleration, led, drag.
  void sample(const std::vector<FieldNear>& fields) {
    constexpr int whole = (points + 7) / 8 * 8;
    for (auto& v : lattice_) v.resize(whole);
    for (int first = 0; first < whole; first += 8) {
      Vec3<v8> place;
      for (int i = 0; i < 8; ++i) {
        const int k = std::min(first + i, points - 1);
        place.x[i] = corner_.x + float(k % side), place.y[i] = corner_.y + float(k / side % side),
        place.z[i] = corner_.z + float(k / (side * side));
      }
      const Push push = sum(fields, place, nullptr, splat(0), splat(0));
      for (int a = 0; a < 3; ++a)
        store(&lattice_[size_t(a)][size_t(first)], push.acceleration[a]),
            store(&lattice_[size_t(3 + a)][size_t(first)], push.led[a]);
      store(&lattice_[6][size_t(first)], push.drag);
      drags_ = drags_ || any(push.drag > splat(0));
    }
  }

  void add_sampled(const Vec3<v8>& place, int cell, PushThere& out) const {
    Vec3<v8> base, share;
    for (int a = 0; a < 3; ++a) {
      const v8 q = place[a] - corner_[a];
      base[a] = cell < 0 ? vmin(vmax(vfloor(q), splat(0)), splat(side - 2)) : splat(float(cell >> 3 * a & 7));
      share[a] = q - base[a];
    }
    if (cell >= 0) {
      const size_t first = size_t(((cell >> 6) * side + (cell >> 3 & 7)) * side + (cell & 7));
      add_sampled(share, out, [=](const std::vector<float>& v) {
        return [p = v.data() + first](int step) { return splat(p[step]); };
      });
    } else {
      const auto whole = [](v8 v) { return __builtin_convertvector(v, v8i); };
      const v8i first = (whole(base.z) * side + whole(base.y)) * side + whole(base.x);
      add_sampled(share, out, [=](const std::vector<float>& v) {
        return [p = v.data(), first](int step) { return gather(p, first + step); };
      });
    }
  }
  template <class Corners>
  void add_sampled(const Vec3<v8>& share, PushThere& out, const Corners& corners) const {
    for (int a = 0; a < 3; ++a)
      out.push.acceleration[a] += between(corners(lattice_[size_t(a)]), up, share).value;
    if (!drags_) return;
    for (int a = 0; a < 3; ++a) {
      const Between led = between(corners(lattice_[size_t(3 + a)]), up, share);
      out.push.led[a] += led.value;
      for (int axis = 0; axis < 3; ++axis) out.led_slope[axis][a] += led.slope[axis];
    }
    const Between drag = between(corners(lattice_[6]), up, share);
    out.push.drag += drag.value;
    for (int axis = 0; axis < 3; ++axis) out.drag_slope[axis] += drag.slope[axis];
  }

  const LiquidWorld& world_;
  float h_, dt_;
  bool moves_;
  Vec3f corner_;  // cells
  std::vector<FieldNear> by_particle_;
  std::vector<float> lattice_[7];
  bool drags_ = false;
};

/// Pushes eight particles, all in this cell if it is not -1, for dt seconds.
void push_eight(Particles& p, const Eight& e, int cell, const Pushes& pushes, float dt) {
  Kinds kinds;
  for (int i = 0; i < 8; ++i) kinds.liquid[i] = p.liquid[e.index(i)], kinds.goal[i] = p.goal[e.index(i)];
  Vec3<v8> place, v;
  for (int a = 0; a < 3; ++a) place[a] = e.read(p.place[size_t(a)]), v[a] = e.read(p.velocity[size_t(a)]);
  const PushThere there = pushes(place, cell, kinds, e.read(p.age), vsqrt(dot(v, v)));
  const Push& push = there.push;
  const v8 time = held_time(push.drag, dt);
  for (int a = 0; a < 3; ++a)
    e.write(p.velocity[size_t(a)], v[a] + (push.acceleration[a] + push.led[a] - push.drag * v[a]) * time);
  const v8i dragged = push.drag > splat(0);
  if (!any(dragged)) return;
  // Velocity gradients go towards that of the velocity that drag leads to, u = led / drag.
  const v8 taken = push.drag * time;
  for (int axis = 0; axis < 3; ++axis)
    for (int c = 0; c < 3; ++c) {
      const v8 led =
          (there.led_slope[axis][c] - push.led[c] / push.drag * there.drag_slope[axis]) / push.drag;
      std::vector<float>& slope = p.slope[size_t(3 * c + axis)];
      const v8 old = e.read(slope);
      e.write(slope, choose(dragged, old + (led - old) * taken, old));
    }
}

}  // namespace

void LiquidSolver::apply_fields(LiquidState& s, const LiquidWorld& world, double dt) const {
  Particles& p = s.particles;
  const size_t all = p.size();
  if (world.fields.empty() || !all) return;
  const bool moves = world.room && world.room->moves;
  const std::vector<Acting> acting = moves ? world.fields
                                           : fields_within(world.fields, bounds_of(s.grid, world.cell_size),
                                                           double(s.grid.blocks()) * block_cells);
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const size_t first = cells_.begin(b, 0), last = cells_.end(b, block_cells - 1);
    if (first == last) return;
    const Pushes pushes(world, acting, s.grid.key(b), last - first, dt);
    if (pushes.is_sampled())
      for (int c = 0; c < block_cells; ++c)
        for (size_t n = cells_.begin(b, c); n < cells_.end(b, c); n += 8)
          push_eight(p, Eight(n, cells_.end(b, c), all), c, pushes, float(dt));
    else
      for (size_t n = first; n < last; n += 8) push_eight(p, Eight(n, last, all), -1, pushes, float(dt));
  });
}

void LiquidSolver::hold_back(LiquidState& s, const LiquidWorld& world) {
  Particles& p = s.particles;
  const float h = float(world.cell_size);
  for (const Acting& f : world.fields) {
    const float most = float(f.field->fastest());
    if (most <= 0 || f.share <= 0 || (world.room && !f.inside)) continue;
    parallel_for((p.size() + 7) / 8,
                 [&](size_t k) {
                   const Eight e(8 * k, p.size(), p.size());
                   EightPlaces places{};
                   for (int a = 0; a < 3; ++a) places.at[a] = e.read(p.place[size_t(a)]) * h;
                   if (world.room && world.room->moves) places.at = placed(world.room->from, places.at);
                   Vec3<v8> v;
                   for (int a = 0; a < 3; ++a) v[a] = e.read(p.velocity[size_t(a)]);
                   places.gas = false, places.age = e.read(p.age), places.speed = vsqrt(dot(v, v));
                   const v8 share = f.strength.share(places);
                   v8 factor = vmin(splat(1), most / vmax(places.speed, splat(1e-20f)));
                   for (int i = 0; i < e.count; ++i) {
                     if (!f.acts_on(p.liquid[e.index(i)]) || share[i] < 0.5f) factor[i] = 1;
                   }
                   for (int a = 0; a < 3; ++a) e.write(p.velocity[size_t(a)], v[a] * factor);
                 },
                 512);
  }
}

}  // namespace pour
