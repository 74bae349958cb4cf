// What rays meet: surfaces in Embree, the floor and the smoke.
#pragma once
#include <embree3/rtcore.h>

#include <optional>

#include "trace/lights.h"
#include "trace/path_tracer.h"

namespace pour {

struct Hit {
  float t = 0;
  int body = -1;           // -1: the floor
  Vec3f at, face, normal;  // place; true and smoothed normal, both on the outside
  Vec3f color;
};

struct PathTracer::Scene {
  Scene(TracedSet, double aspect);
  ~Scene();
  Scene(const Scene&) = delete;

  std::optional<Hit> meet(const Vec3f& from, const Vec3f& direction, float end) const;
  /// The part of light from far away that comes to a point that is in the air.
  Vec3f reaches(const Vec3f& at, const Vec3f& toward, Sampler&, uint64_t& rays) const;

  /// Part of the floor that is seen at a point; the rest is backdrop.
  float floor_there(const Vec3f& at) const;

  TracedSet set;
  View view;
  StudioLights lights;
  std::vector<Material> materials;  // of the bodies
  Material floor;
  Material under_liquid;  // which has about the index of a coat, so that this mirrors nothing
  bool thin_glass = false;

 private:
  void add(size_t body);
  void commit();
  void touch(TracedBody& liquid) const;

 public:
  RTCDevice device;
  RTCScene scene;
};

}  // namespace pour
