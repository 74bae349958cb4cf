// Times of a liquid's skin, beside OpenVDB's own way from points to triangles on the same points.
#include <benchmark/benchmark.h>
#include <openvdb/points/PointConversion.h>
#include <openvdb/points/PointRasterizeSDF.h>
#include <openvdb/tools/VolumeToMesh.h>

#include <cmath>

#include "surface/skin.h"

namespace {

using namespace pour;

/// A bowlful with waves: about so many points, eight a cell, a little off their places.
LiquidPoints pool(double points) {
  LiquidPoints p;
  const double side = std::cbrt(points / 8 * 6);  // cells across; a sixth as deep
  p.cell_size = 0.1 / side;
  const double step = p.cell_size / 2;
  uint32_t seed = 1;
  const auto off = [&] {
    seed = seed * 1664525u + 1013904223u;
    return (double(seed >> 8) / (1 << 24) - 0.5) * 0.6 * step;
  };
  for (double z = 0; z < 0.1; z += step)
    for (double x = 0; x < 0.1; x += step) {
      const double top = 0.1 / 6 + 0.004 * std::sin(x * 150) * std::cos(z * 110);
      for (double y = 0; y < top; y += step)
        p.place.push_back({float(x + off()), float(y + off()), float(z + off())});
    }
  const size_t n = p.place.size();
  p.velocity.assign(n, {0, 1, 0}), p.color.assign(n, {0.3f, 0.2f, 0.1f});
  return p;
}

void skin(benchmark::State& state) {
  const LiquidPoints p = pool(double(state.range(0)));
  size_t triangles = 0;
  for (auto _ : state) triangles = skin_of(p, p.color).mesh.triangles.size();
  state.counters["points"] = double(p.place.size()), state.counters["triangles"] = double(triangles);
}
BENCHMARK(skin)->Arg(100000)->Arg(1000000)->Unit(benchmark::kMillisecond)->UseRealTime();

void openvdb_alone(benchmark::State& state) {
  namespace points = openvdb::points;
  openvdb::initialize();
  const LiquidPoints p = pool(double(state.range(0)));
  std::vector<openvdb::Vec3f> places;
  for (const Vec3f& v : p.place) places.emplace_back(v.x, v.y, v.z);
  const double h = p.cell_size;
  size_t quads = 0;
  for (auto _ : state) {
    const auto transform = openvdb::math::Transform::createLinearTransform(h);
    const points::PointAttributeVector<openvdb::Vec3f> list(places);
    const auto index = openvdb::tools::createPointIndexGrid<openvdb::tools::PointIndexGrid>(list, *transform);
    const auto grid =
        points::createPointDataGrid<points::NullCodec, points::PointDataGrid>(*index, list, *transform);
    const auto fine = openvdb::math::Transform::createLinearTransform(h / 2);
    const auto made = points::rasterizeSmoothSpheres(*grid, 0.42 * h, 1.3 * h, 3.f, fine);
    std::vector<openvdb::Vec3s> corners;
    std::vector<openvdb::Vec4I> faces;
    openvdb::tools::volumeToMesh(*made, corners, faces);
    quads = faces.size();
  }
  state.counters["quads"] = double(quads);
}
BENCHMARK(openvdb_alone)->Arg(100000)->Arg(1000000)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace

BENCHMARK_MAIN();
