// A pull towards a point, a line or a surface; a negative one pushes.
#pragma once
#include "shot/setting.h"
#include "world/field.h"

namespace pour {

/// What it pulls towards, and how its strength changes with the distance.
enum class PullTo { point, line, surface };
enum class PullBy { even, grows, fades };

struct Pull {
  double strength = 5;  // m/s²
  PullTo to = PullTo::point;
  Vec3d position{0, 0.12, 0};  // m
  Vec3d direction{0, 1, 0};    // of the line
  PieceId piece;               // whose surface
  PullBy by = PullBy::even;
  double distance = 0.1;         // m, at which it is as strong as stated
  double softening = 0.01;       // m
  double half_density = 0.0005;  // kg/m³
  bool operator==(const Pull&) const = default;

  static constexpr Option kind{"pull", "Pull or push"};
  static constexpr const char* sentence = "Pulls towards {target} with {strength} .";
  static constexpr bool moves_liquid = true, goes_inside = false;
  static constexpr Option targets[] = {
      {"point", "a point"}, {"line", "a line"}, {"surface", "the surface of a piece"}};
  static constexpr Option profiles[] = {{"even", "is the same everywhere"},
                                        {"grows", "grows with the distance"},
                                        {"fades", "fades with its square"}};

  static Table<Pull> settings() {
    using P = Pull;
    return TableOf<P>()
        .add(&P::strength, "strength", "Strength", Unit::acceleration, {-10000, 10000, -20, 20},
             "Acceleration towards the target. Negative values push away from it.")
        .add(&P::to, targets, "target", "Target", "What the fluid is drawn to.")
        .add(&P::position, "position", "Position", Unit::length, {-1e4, 1e4, -1, 1},
             "Place of the point, or of one on the line: right, up and towards the camera.")
        .where([](const P& p) { return p.to != PullTo::surface; })
        .add(&P::direction, "direction", "Direction", Unit::none, {-1e3, 1e3, -1, 1},
             "Direction of the line as a vector: right, up, towards the camera.")
        .where([](const P& p) { return p.to == PullTo::line; })
        .add(&P::piece, "piece", "Piece", "Piece whose surface draws the fluid.")
        .where([](const P& p) { return p.to == PullTo::surface; })
        .fixed()
        .add(&P::by, profiles, "falloff", "Falloff",
             "How the strength changes with the distance to the target.")
        .add(&P::distance, "distance", "Distance", Unit::length, {1e-4, 1e4, 0.01, 1},
             "Distance at which the pull has its stated strength.")
        .where([](const P& p) { return p.by != PullBy::even; })
        .add(&P::softening, "softening", "Softening", Unit::length, {1e-5, 1e3, 0.001, 0.1},
             "Distance within which the pull weakens towards its centre, where it would jump or be endless.")
        .where([](const P& p) { return p.by != PullBy::grows; })
        .more()
        .add(&P::half_density, "half_density", "Half density", Unit::density, {1e-9, 10, 1e-5, 0.01},
             "Density at which smoke feels half of the pull. Clean air feels none.")
        .more()
        .done();
  }

  const PieceId* goes_by() const { return to == PullTo::surface ? &piece : nullptr; }
  void go_without() { to = PullTo::point; }
  Vec3d* pointing() { return to == PullTo::line ? &direction : nullptr; }
  Vec3d* place() { return to == PullTo::surface ? nullptr : &position; }
  void weaken(double by) { strength /= by; }
  std::shared_ptr<const Field> field(const SetAround&) const;
};

struct PullField : Field {
  PullField(const Pull& p, std::shared_ptr<const Distances> body, const Pose& pose)
      : pull(p), body(std::move(body)), pose(pose), axis(normalized(p.direction)) {}
  /// The way to the target, and its length.
  Vec3<v8> way(const Vec3<v8>& at, v8& length) const {
    Vec3<v8> out = splat(pull.position) - at;
    if (pull.to == PullTo::surface) {
      const Distances::There there = (*body)(placed_back(pose, at));
      const v8 d = there.distance * float(pose.scale);
      const Vec3<v8> away = turned(pose.turn, there.away);
      for (int a = 0; a < 3; ++a) out[a] = -away[a] * d;
      length = vmax(d, -d);
      return out;
    }
    if (pull.to == PullTo::line) {
      const Vec3<v8> along = splat(axis);
      out = out - along * dot(out, along);
    }
    length = vsqrt(dot(out, out));
    return out;
  }
  void add(const EightPlaces& p, v8 share, Push& push) const override {
    v8 r;
    const Vec3<v8> to = way(p.at, r);
    const float s = float(pull.strength), size = float(pull.distance), soft = float(pull.softening);
    v8 by;  // strength over the distance
    if (pull.by == PullBy::grows)
      by = splat(s / size);
    else if (pull.by == PullBy::even)
      by = s / vsqrt(r * r + soft * soft);
    else {
      const v8 d = r * r + soft * soft;
      by = s * size * size / (d * vsqrt(d));
    }
    by *= share;
    if (p.gas) by *= p.smoke / (p.smoke + float(pull.half_density));
    for (int a = 0; a < 3; ++a) push.acceleration[a] += to[a] * by;
  }
  Most most(const Box& box) const override {
    const double far = length(box.size());
    const double s = std::abs(pull.strength);
    if (pull.by == PullBy::grows) return {s * far / pull.distance, 0};
    if (pull.by == PullBy::even) return {s, 0};
    // r / (r² + e²)^(3/2) is greatest at r = e / √2.
    return {s * 0.385 * std::pow(pull.distance / pull.softening, 2), 0};
  }
  Pull pull;
  std::shared_ptr<const Distances> body;
  Pose pose;
  Vec3d axis;
};

inline std::shared_ptr<const Field> Pull::field(const SetAround& set) const {
  Pose pose;
  std::shared_ptr<const Distances> body;
  if (to == PullTo::surface && !(body = set.piece(piece.id, pose))) return nullptr;
  return std::make_shared<PullField>(*this, std::move(body), pose);
}

}  // namespace pour
