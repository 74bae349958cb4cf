#include "shape/near_surface.h"

#include <embree3/rtcore.h>
#include <tbb/task_arena.h>

#include <algorithm>
#include <cmath>

#include "base/parallel.h"
#include "base/simd.h"

namespace pour {

struct NearSurface::Kept {
  RTCDevice device = rtcNewDevice(ray_instructions);
  RTCScene scene = rtcNewScene(device);
  Mesh mesh;
};

NearSurface::NearSurface(Mesh all) : kept_(std::make_unique<Kept>()) {
  kept_->mesh = std::move(all);
  const Mesh& mesh = kept_->mesh;
  if (mesh.triangles.empty()) return;
  rtcSetSceneFlags(kept_->scene, RTC_SCENE_FLAG_ROBUST);  // no way through between two triangles
  RTCGeometry g = rtcNewGeometry(kept_->device, RTC_GEOMETRY_TYPE_TRIANGLE);
  auto* points = static_cast<float*>(rtcSetNewGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3,
                                                             3 * sizeof(float), mesh.points.size()));
  auto* corners = static_cast<unsigned*>(rtcSetNewGeometryBuffer(
      g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 3 * sizeof(unsigned), mesh.triangles.size()));
  if (!points || !corners) throw std::bad_alloc();
  for (size_t i = 0; i < mesh.points.size(); ++i)
    for (int c = 0; c < 3; ++c) points[3 * i + size_t(c)] = mesh.points[i][c];
  for (size_t i = 0; i < mesh.triangles.size(); ++i)
    for (size_t k = 0; k < 3; ++k) corners[3 * i + k] = unsigned(mesh.triangles[i][k]);
  rtcCommitGeometry(g);
  rtcAttachGeometryByID(kept_->scene, g, 0);
  rtcReleaseGeometry(g);
  tbb::task_arena alone(1);  // the same tree each time
  alone.execute([&] { rtcJoinCommitScene(kept_->scene); });
}

NearSurface::~NearSurface() {
  rtcReleaseScene(kept_->scene);
  rtcReleaseDevice(kept_->device);
}

// Ericson, Real-Time Collision Detection (2005), §5.1.5.
Vec3f nearest_of_triangle(const Vec3f& p, const Vec3f& a, const Vec3f& b, const Vec3f& c) {
  const Vec3f ab = b - a, ac = c - a, ap = p - a;
  const float d1 = dot(ab, ap), d2 = dot(ac, ap);
  if (d1 <= 0 && d2 <= 0) return a;
  const Vec3f bp = p - b;
  const float d3 = dot(ab, bp), d4 = dot(ac, bp);
  if (d3 >= 0 && d4 <= d3) return b;
  const float vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return a + ab * (d1 / (d1 - d3));
  const Vec3f cp = p - c;
  const float d5 = dot(ab, cp), d6 = dot(ac, cp);
  if (d6 >= 0 && d5 <= d6) return c;
  const float vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return a + ac * (d2 / (d2 - d6));
  const float va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) return b + (c - b) * ((d4 - d3) / ((d4 - d3) + (d5 - d6)));
  const float all = va + vb + vc;
  return a + ab * (vb / all) + ac * (vc / all);
}

namespace {

struct Asked {
  const Mesh* mesh;
  Vec3f point;
  Vec3f at{}, out{};
  bool found = false;
};

bool look_at_triangle(RTCPointQueryFunctionArguments* found) {
  auto& asked = *static_cast<Asked*>(found->userPtr);
  const auto& t = asked.mesh->triangles[found->primID];
  const Vec3f a = asked.mesh->points[size_t(t[0])], b = asked.mesh->points[size_t(t[1])],
              c = asked.mesh->points[size_t(t[2])];
  const Vec3f at = nearest_of_triangle(asked.point, a, b, c);
  const float away = length(at - asked.point);
  if (away >= found->query->radius) return false;
  found->query->radius = away;
  asked.at = at, asked.out = normalized(cross(b - a, c - a)), asked.found = true;
  return true;
}

}  // namespace

std::optional<NearSurface::Place> NearSurface::nearest(const Vec3f& p, float reach) const {
  if (kept_->mesh.triangles.empty()) return std::nullopt;
  Asked asked{&kept_->mesh, p};
  RTCPointQuery query{p.x, p.y, p.z, 0, reach};
  RTCPointQueryContext context;
  rtcInitPointQueryContext(&context);
  rtcPointQuery(kept_->scene, &query, &context, look_at_triangle, &asked);
  if (!asked.found) return std::nullopt;
  const Vec3f way = p - asked.at;
  const float side = dot(way, asked.out) >= 0 ? 1.f : -1.f, away = length(way);
  // At an edge the way there says more than the side that it belongs to.
  const Vec3f out = away > 1e-7f ? way * (side / away) : asked.out;
  return Place{asked.at, out, side * away};
}

namespace {

struct Hit {
  float at;  // share of the way
  unsigned triangle;
};

std::optional<Hit> first_hit(RTCScene scene, const Vec3f& from, const Vec3f& to, float low, float high) {
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  RTCRayHit r{};
  const Vec3f d = to - from;
  r.ray.org_x = from.x, r.ray.org_y = from.y, r.ray.org_z = from.z;
  r.ray.dir_x = d.x, r.ray.dir_y = d.y, r.ray.dir_z = d.z;
  r.ray.tnear = low, r.ray.tfar = high, r.ray.mask = ~0u;
  r.hit.geomID = RTC_INVALID_GEOMETRY_ID;
  rtcIntersect1(scene, &context, &r);
  if (r.hit.geomID == RTC_INVALID_GEOMETRY_ID) return std::nullopt;
  return Hit{r.ray.tfar, r.hit.primID};
}

}  // namespace

std::optional<float> NearSurface::met(const Vec3f& from, const Vec3f& to) const {
  const auto hit = first_hit(kept_->scene, from, to, 0, 1);
  return hit ? std::optional(hit->at) : std::nullopt;
}

size_t NearSurface::crossings() const {
  constexpr float end = 1e-3f;  // of an edge, where its neighbours are
  constexpr int most = 16;      // triangles beside it that are met
  const Mesh& mesh = kept_->mesh;
  const std::vector<int> place = same_places(mesh);
  const auto crosses = [&](size_t i) {
    for (size_t k = 0; k < 3; ++k) {
      const int a = mesh.triangles[i][k], b = mesh.triangles[i][(k + 1) % 3];
      float from = end;
      for (int n = 0; n < most; ++n) {
        const auto hit =
            first_hit(kept_->scene, mesh.points[size_t(a)], mesh.points[size_t(b)], from, 1 - end);
        if (!hit) break;
        const auto& other = mesh.triangles[hit->triangle];
        if (std::none_of(other.begin(), other.end(), [&](int p) {
              return place[size_t(p)] == place[size_t(a)] || place[size_t(p)] == place[size_t(b)];
            }))
          return true;
        from = hit->at + end;
      }
    }
    return false;
  };
  constexpr size_t most_asked = 200000, chunk = 1024;
  const size_t every = mesh.triangles.size() / most_asked + 1, asked = mesh.triangles.size() / every;
  return every * size_t(ordered_sum<double>(asked / chunk + 1, [&](size_t c) {
           double sum = 0;
           for (size_t i = c * chunk; i < std::min(asked, (c + 1) * chunk); ++i) sum += crosses(i * every);
           return sum;
         }));
}

float NearSurface::thickness(const Place& place) const {
  constexpr float least = 1e-5f, far = 1e4f;  // m
  const auto met_at = met(place.at - place.out * least, place.at - place.out * far);
  return met_at ? *met_at * far : 1e30f;
}

double NearSurface::thinnest() const {
  constexpr size_t most = 20000;  // places that are looked at
  constexpr double left_out = 0.02;
  const Mesh& mesh = kept_->mesh;
  std::vector<std::pair<double, double>> found;  // thickness, area
  const size_t every = mesh.triangles.size() / most + 1;
  double all = 0;
  for (size_t i = 0; i < mesh.triangles.size(); i += every) {
    const auto& t = mesh.triangles[i];
    const Vec3f a = mesh.points[size_t(t[0])], b = mesh.points[size_t(t[1])], c = mesh.points[size_t(t[2])];
    const Vec3f across = cross(b - a, c - a);
    const double area = double(length(across));
    if (!(area > 0)) continue;
    found.emplace_back(double(thickness({(a + b + c) / 3, normalized(across), 0})), area);
    all += area;
  }
  std::sort(found.begin(), found.end());
  double sum = 0;
  for (const auto& [thick, area] : found)
    if ((sum += area) > left_out * all) return thick;
  return 1e30;
}

}  // namespace pour
