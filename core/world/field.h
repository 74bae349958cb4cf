// Fields: what forces do to fluids, as solvers see them. SI units.
//
// A field gives an acceleration a, a drag rate λ and a velocity u that drag leads to. All fields are summed
// first and integrated once, exactly (see kept_on() in push.h).
#pragma once
#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "base/simd.h"
#include "base/vec.h"
#include "world/distances.h"
#include "world/driver.h"
#include "world/target.h"

namespace pour {

/// Eight places, and what is known of the fluid there.
struct EightPlaces {
  Vec3<v8> at;  // m, in the world
  v8 weight;    // share of gravity that acts: 1 in liquid; in gas its buoyancy, negative where it rises
  v8 smoke;     // density of smoke, kg/m³
  bool gas = true;
  v8 age = {};                                  // of liquid, s
  v8 speed = {};                                // m/s
  v8 heat = {};                                 // of smoke, K above the air
  v8i part = {-1, -1, -1, -1, -1, -1, -1, -1};  // of a target that it goes to; negative: the nearest
};

/// The sum of fields at eight places.
struct Push {
  Vec3<v8> acceleration{};  // Σ a, m/s²
  v8 drag{};                // Σ λ, 1/s
  Vec3<v8> led{};           // Σ λ u, m/s²
};

/// A vector eight times.
inline Vec3<v8> splat(const Vec3d& v) { return {splat(float(v.x)), splat(float(v.y)), splat(float(v.z))}; }

/// Eight vectors, turned; and turned back.
inline Vec3<v8> turned(const Rotation& r, const Vec3<v8>& v) {
  Vec3<v8> out{};
  for (int a = 0; a < 3; ++a)
    for (int b = 0; b < 3; ++b) out[a] += v[b] * float(r.row[a][b]);
  return out;
}
inline Vec3<v8> turned_back(const Rotation& r, const Vec3<v8>& v) { return turned(r.inverse(), v); }
/// Eight points, from a frame of reference to the world; and into it.
inline Vec3<v8> placed(const Pose& pose, const Vec3<v8>& p) {
  return turned(pose.turn, p * splat(float(pose.scale))) + splat(pose.position);
}
inline Vec3<v8> placed_back(const Pose& pose, const Vec3<v8>& p) {
  return turned_back(pose.turn, p - splat(pose.position)) * splat(float(1 / pose.scale));
}

class Field {
 public:
  virtual ~Field() = default;
  /// Adds its push times `share`, 0 to 1.
  virtual void add(const EightPlaces&, v8 share, Push&) const = 0;
  /// The strongest acceleration, m/s², and the fastest speed that drag leads to, m/s, within the box.
  struct Most {
    double acceleration = 0, speed = 0;
  };
  virtual Most most(const Box&) const = 0;
  /// The speed that liquid under it may not exceed, m/s; 0: any.
  virtual double fastest() const { return 0; }
  /// Whether it is the same at all places.
  virtual bool is_uniform() const { return false; }
  /// Whether it goes by place alone and varies little over a cell, so that solvers may sample it.
  virtual bool is_smooth() const { return true; }
  /// The same field for about this many places within a box, where that is less work; null: itself.
  virtual std::shared_ptr<const Field> within(const Box&, double /*places*/) const { return nullptr; }
};

/// A drag rate from the time in which a difference in speed falls to 1/e, 1/s.
inline float rate_of(double time) { return float(1 / std::max(time, 1e-6)); }
/// Adds drag towards a velocity.
inline void lead(Push& push, const Vec3<v8>& velocity, v8 drag) {
  push.drag += drag;
  for (int a = 0; a < 3; ++a) push.led[a] += velocity[a] * drag;
}

/// Where a field acts.
struct Reach {
  enum class Shape { everywhere, ball, box, slab, piece };
  Shape shape = Shape::everywhere;
  bool outside = false;  // acts where the shape is not
  Pose pose;             // of the shape; a slab is normal to its y axis
  Vec3d half{1, 1, 1};   // m: of a ball x is the radius, of a slab y half its thickness
  double edge = 0;       // width of the soft edge, across the surface, m
  double profile = 1;    // exponent of the edge: 1 is smooth, more is steeper towards the outside
  std::shared_ptr<const Distances> piece;
  bool everywhere() const { return shape == Shape::everywhere; }
  /// Signed distance to the shape, m; negative inside.
  v8 distance(const Vec3<v8>&) const;
  /// How much of it acts, 0 to 1.
  v8 share(const Vec3<v8>&) const;
  /// Whether it acts anywhere in a ball.
  bool meets(const Vec3d& center, double radius) const;
};

/// How strongly a force acts at eight places: by its reach, and by what it depends on.
struct Strength {
  Reach reach;
  Dependence depends;
  bool plain() const { return reach.everywhere() && depends.driver == Driver::none; }
  v8 share(const EightPlaces&) const;
};

/// A field in the world of a step.
struct Acting {
  std::shared_ptr<const Field> field;
  Strength strength;
  double share = 1;                        // of the step in which it acts
  double since = 0;                        // how long it has been acting, s
  bool inside = false;                     // also on what pieces hold
  std::vector<uint8_t> liquids;            // by index of the liquid: whether it acts; empty: on all
  std::shared_ptr<const Sharing> sharing;  // of a gathering force; null: all goes to the nearest part
  bool acts_on(uint8_t liquid) const {
    return liquids.empty() || (liquid < liquids.size() && liquids[liquid]);
  }
};

/// A target, its pose, and the pose it has a moment later.
struct TargetThere {
  std::shared_ptr<const Target> target;  // null: none
  Pose pose, soon;
  double seconds = 1e-3;  // between them
};

/// What a force may ask of the set.
struct SetAround {
  double time = 0;     // s
  double since = 0;    // how long the force has been acting, s
  double gravity = 0;  // sum of all that acts, m/s²
  /// Distances to a piece and its pose; null for none.
  std::function<std::shared_ptr<const Distances>(const std::string& piece, Pose&)> piece;
  std::function<TargetThere(const std::string& piece)> target;
};

}  // namespace pour
