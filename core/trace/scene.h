// The scene for rays: surfaces in Embree, floor and smoke.
#pragma once
#include <embree3/rtcore.h>

#include <optional>

#include "trace/lights.h"
#include "trace/path_tracer.h"

namespace pour {

struct Hit {
  float t = 0;
  int body = -1;           // -1: the floor
  Vec3f at, face, normal;  // point; geometric and smoothed outward normal
  Vec3f color;
  unsigned triangle = 0;
  float u = 0, v = 0;  // barycentric coordinates
};

/// The set of bodies that contain a path's current point.
class Inside {
 public:
  bool empty() const { return count_ == 0; }
  void enter(int body) {
    if (count_ < most) body_[count_++] = body;
  }
  void leave(int body) {
    for (int i = count_ - 1; i >= 0; --i)
      if (body_[i] == body) {
        for (int k = i; k + 1 < count_; ++k) body_[k] = body_[k + 1];
        --count_;
        return;
      }
  }
  /// The body of highest priority, or -1.
  int first(const std::vector<TracedBody>& all) const {
    int best = -1;
    for (int i = 0; i < count_; ++i)
      if (best < 0 || all[size_t(body_[i])].before > all[size_t(best)].before) best = body_[i];
    return best;
  }
  void clear() { count_ = 0; }

 private:
  static constexpr int most = 6;
  int body_[most] = {}, count_ = 0;
};

struct PathTracer::Scene {
  Scene(TracedSet, double aspect);
  ~Scene();
  Scene(const Scene&) = delete;

  /// `time` within the exposure, 0 to 1.
  std::optional<Hit> meet(const Vec3f& from, const Vec3f& direction, float end, float time = 0.5f) const;
  /// A shadow ray.
  struct Reach {
    Vec3f at, toward;
    float end, time;
    Inside inside;  // bodies that contain the point
    bool straight;  // passes straight through clear bodies
  };
  /// Transmittance.
  Vec3f reaches(const Reach&, Sampler&, uint64_t& rays) const;

  /// Visible share of the floor at a point; the rest is backdrop.
  float floor_there(const Vec3f& at) const;
  float index_of(int body) const { return body < 0 ? 1.f : set.bodies[size_t(body)].index; }

  TracedSet set;
  View view, opened, closed;  // camera in the middle and at both ends of the exposure
  StudioLights lights;
  std::vector<Bsdf> bsdfs;  // of the bodies
  Bsdf floor;
  Bsdf under_liquid;  // has about the index of a coat, so it does not reflect
  bool thin_glass = false, clear_bodies = false, bulbs = false;
  Inside around_eye;

 private:
  /// Rotations of bodies as float matrix rows.
  struct Turn {
    Vec3f row[3];
    explicit Turn(const Pose& p)
        : row{to<float>(p.turn.row[0]), to<float>(p.turn.row[1]), to<float>(p.turn.row[2])} {}
    Vec3f operator*(const Vec3f& v) const { return {dot(row[0], v), dot(row[1], v), dot(row[2], v)}; }
  };
  std::vector<Turn> turns_;
  void add(size_t body);
  void commit();
  void touch(TracedBody& liquid) const;
  Inside bodies_around(const Vec3f&) const;

 public:
  RTCDevice device;
  RTCScene scene;
};

}  // namespace pour
