// Rays a second of the path tracer beside a bare loop of diffuse bounces on Embree, on one scene of 200,000
// triangles.
#include <benchmark/benchmark.h>
#include <embree3/rtcore.h>

#include <atomic>

#include "base/parallel.h"
#include "trace/bsdf.h"
#include "trace/path_tracer.h"

using namespace pour;

namespace {

constexpr int width = 320, height = 180, paths = 8;

/// Balls on a floor: 98 of 2,048 triangles.
std::vector<Mesh> balls() {
  std::vector<Mesh> out;
  for (int i = 0; i < 98; ++i) {
    Mesh m = ball_mesh(0.03);
    m.place({{}, {0.075 * (i % 14 - 6.5), 0.03, 0.075 * (i / 14 - 3)}, 1});
    out.push_back(std::move(m));
  }
  return out;
}

Camera seen_from() {
  Camera c;
  c.target = {0, 0.03, 0}, c.distance = 0.9, c.elevation = 0.6;
  return c;
}

void PathTracing(benchmark::State& state) {
  TracedSet set;
  set.camera = seen_from(), set.look.halo = 0;
  for (Mesh& m : balls()) {
    TracedBody b;
    b.surface = std::make_shared<const Surface>(std::move(m));
    b.substance = Substance::matte, b.color = {0.5f, 0.5f, 0.5f};
    set.bodies.push_back(std::move(b));
  }
  PathTracer tracer(std::move(set), width, height);
  for (auto _ : state) tracer.add(paths);
  state.counters["rays"] = benchmark::Counter(double(tracer.rays()), benchmark::Counter::kIsRate);
}
BENCHMARK(PathTracing)->Unit(benchmark::kMillisecond)->UseRealTime();

void BareEmbree(benchmark::State& state) {
  RTCDevice device = rtcNewDevice(nullptr);
  RTCScene scene = rtcNewScene(device);
  Mesh all;
  for (const Mesh& m : balls()) all.append(m);
  RTCGeometry g = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
  rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, all.points.data(), 0, 12,
                             all.points.size());
  rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, all.triangles.data(), 0, 12,
                             all.triangles.size());
  rtcCommitGeometry(g);
  rtcAttachGeometry(scene, g);
  rtcReleaseGeometry(g);
  rtcCommitScene(scene);
  const View view(seen_from(), double(width) / height);
  std::atomic<uint64_t> rays{0};
  for (auto _ : state)
    parallel_for(
        size_t(height),
        [&](size_t y) {
          uint64_t own = 0;
          for (int x = 0; x < width; ++x)
            for (uint32_t n = 0; n < paths; ++n) {
              Sampler random(uint32_t(y * width + size_t(x)), n);
              Vec3f from = view.eye, way = view.ray(float(x) / width * 2 - 1, 1 - float(y) / height * 2);
              for (int bounce = 0; bounce < 6; ++bounce) {
                RTCIntersectContext context;
                rtcInitIntersectContext(&context);
                RTCRayHit r{};
                r.ray.org_x = from.x, r.ray.org_y = from.y, r.ray.org_z = from.z;
                r.ray.dir_x = way.x, r.ray.dir_y = way.y, r.ray.dir_z = way.z;
                r.ray.tnear = 1e-5f, r.ray.tfar = 1e30f, r.ray.mask = ~0u,
                r.hit.geomID = RTC_INVALID_GEOMETRY_ID;
                rtcIntersect1(scene, &context, &r), ++own;
                if (r.hit.geomID == RTC_INVALID_GEOMETRY_ID) break;
                from = from + way * r.ray.tfar;
                Vec3f normal = normalized(Vec3f{r.hit.Ng_x, r.hit.Ng_y, r.hit.Ng_z});
                if (dot(normal, way) > 0) normal = -normal;
                const Pair u = random.two();
                const float radius = std::sqrt(u.x), angle = 6.2831853f * u.y;
                way = normalized(Basis(normal).from(
                    {radius * std::cos(angle), radius * std::sin(angle), std::sqrt(1 - u.x)}));
              }
            }
          rays += own;
        },
        1);
  state.counters["rays"] = benchmark::Counter(double(rays), benchmark::Counter::kIsRate);
  rtcReleaseScene(scene);
  rtcReleaseDevice(device);
}
BENCHMARK(BareEmbree)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace

BENCHMARK_MAIN();
