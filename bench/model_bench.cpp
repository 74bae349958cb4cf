// Models of a million triangles: inside and outside beside asking every triangle, level sets, and what a
// window waits for when one comes in.
#include <benchmark/benchmark.h>

#include <cmath>
#include <numbers>
#include <random>

#include "picture/focus.h"
#include "picture/quick_picture.h"
#include "shape/level_set.h"
#include "shape/near_surface.h"
#include "shape/shell.h"
#include "shape/winding.h"

using namespace pour;

namespace {

/// A bumpy ball of about a million triangles, 20 cm across.
const Mesh& large() {
  static const Mesh mesh = [] {
    Mesh m = ball_mesh(0.1, 8), other = ball_mesh(0.05, 8);  // 524,288 each
    for (Vec3f& p : m.points) p = p * (1 + 0.03f * std::sin(60 * p.x) * std::sin(55 * p.y));
    other.place({{}, {0.2, 0, 0}, 1});
    m.append(other);
    return m;
  }();
  return mesh;
}

std::vector<Vec3d> points(size_t n) {
  std::mt19937 random(1);
  std::uniform_real_distribution<double> at(-0.12, 0.12);
  std::vector<Vec3d> out;
  while (out.size() < n) out.push_back({at(random), at(random), at(random)});
  return out;
}

void build_winding(benchmark::State& state) {
  for (auto _ : state) benchmark::DoNotOptimize(WindingNumber(large()));
}
void fast_winding(benchmark::State& state) {
  const WindingNumber w(large());
  const auto at = points(1000);
  size_t i = 0;
  for (auto _ : state) benchmark::DoNotOptimize(w.at(at[i++ % at.size()]));
}
/// All triangles' solid angles (Van Oosterom & Strackee 1983).
void plain_winding(benchmark::State& state) {
  const auto at = points(8);
  size_t i = 0;
  for (auto _ : state) {
    const Vec3d p = at[i++ % at.size()];
    double sum = 0;
    for (const auto& t : large().triangles) {
      Vec3d v[3];
      for (size_t k = 0; k < 3; ++k) v[k] = to<double>(large().points[size_t(t[k])]) - p;
      const double a = length(v[0]), b = length(v[1]), c = length(v[2]);
      sum += 2 * std::atan2(dot(v[0], cross(v[1], v[2])),
                            a * b * c + dot(v[0], v[1]) * c + dot(v[1], v[2]) * a + dot(v[2], v[0]) * b);
    }
    benchmark::DoNotOptimize(sum / (4 * std::numbers::pi));
  }
}

void level_set_of_256_cells(benchmark::State& state) {
  const double cell = large().bounds().size().x / 256;
  for (auto _ : state) benchmark::DoNotOptimize(LevelSet(large(), cell));
}
void fill_holes(benchmark::State& state) {
  Mesh open = ball_mesh(0.1, 6);
  std::erase_if(open.triangles, [&](const auto& t) { return open.points[size_t(t[0])].y > 0.095f; });
  for (auto _ : state) benchmark::DoNotOptimize(filled(open));
}
void is_it_closed(benchmark::State& state) {
  for (auto _ : state) benchmark::DoNotOptimize(is_closed(large()));
}
void does_it_cross_itself(benchmark::State& state) {
  for (auto _ : state) benchmark::DoNotOptimize(NearSurface(large()).crossings());
}
/// What a click on the stage asks.
void what_is_under_the_pointer(benchmark::State& state) {
  const std::vector<PicturePiece> pieces{PicturePiece(large(), Finish::solid)};
  Camera camera;
  camera.target = {}, camera.distance = 1;
  const View view(camera, 1.6);
  for (auto _ : state) benchmark::DoNotOptimize(seen_at(pieces, view, 0, 0));
}

BENCHMARK(build_winding)->Unit(benchmark::kMillisecond);
BENCHMARK(fast_winding)->Unit(benchmark::kMicrosecond);
BENCHMARK(plain_winding)->Unit(benchmark::kMicrosecond);
BENCHMARK(level_set_of_256_cells)->Unit(benchmark::kMillisecond);
BENCHMARK(fill_holes)->Unit(benchmark::kMillisecond);
BENCHMARK(is_it_closed)->Unit(benchmark::kMillisecond);
BENCHMARK(does_it_cross_itself)->Unit(benchmark::kMillisecond);
BENCHMARK(what_is_under_the_pointer)->Unit(benchmark::kMillisecond);

}  // namespace

BENCHMARK_MAIN();
