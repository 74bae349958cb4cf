#include "shape/hollows.h"

#include <cmath>
#include <numbers>

#include "base/parallel.h"
#include "shape/near_surface.h"

namespace pour {
namespace {

constexpr size_t most_triangles = 250000;
constexpr int rays = 8, smoothings = 3;
constexpr double least_area = 0.02;  // of the whole

/// How much of the way out of a triangle is closed, 0 to 1.
float closed_part(const NearSurface& surface, const Mesh& mesh, int triangle, float far) {
  const auto& t = mesh.triangles[size_t(triangle)];
  const Vec3f a = mesh.points[size_t(t[0])], b = mesh.points[size_t(t[1])], c = mesh.points[size_t(t[2])];
  const Vec3f across = cross(b - a, c - a);
  if (!(length(across) > 0)) return 0;
  const Vec3f out = normalized(across), from = (a + b + c) * (1 / 3.f) + out * (1e-4f * far);
  const Vec3f aside =
      normalized(std::abs(out.x) < 0.7f ? cross(out, Vec3f{1, 0, 0}) : cross(out, Vec3f{0, 1, 0}));
  const Vec3f ahead = cross(out, aside);
  int met = 0;
  for (int k = 0; k < rays; ++k) {  // as many to each part of the cosine, turned by the golden angle
    const float z = std::sqrt((float(k) + 0.5f) / rays), r = std::sqrt(1 - z * z),
                turn = 2.3999632f * float(k);
    const Vec3f way = out * z + aside * (r * std::cos(turn)) + ahead * (r * std::sin(turn));
    met += surface.met(from, from + way * far).has_value();
  }
  return float(met) / rays;
}

/// Each value becomes the mean of those around it.
void smooth(const Mesh& mesh, const std::vector<int>& place, std::vector<float>& value) {
  std::vector<float> sum(mesh.points.size(), 0), count(mesh.points.size(), 0);
  for (size_t i = 0; i < value.size(); ++i)
    for (const int p : mesh.triangles[i])
      sum[size_t(place[size_t(p)])] += value[i], ++count[size_t(place[size_t(p)])];
  for (size_t i = 0; i < value.size(); ++i) {
    value[i] = 0;
    for (const int p : mesh.triangles[i])
      value[i] += sum[size_t(place[size_t(p)])] / count[size_t(place[size_t(p)])] / 3;
  }
}

}  // namespace

std::vector<std::vector<int>> hollows_of(const Mesh& mesh) {
  const size_t n = mesh.triangles.size();
  if (n == 0 || n > most_triangles) return {};
  const NearSurface surface(mesh);
  const float far = float(length(mesh.bounds().size()));
  std::vector<float> closed(n);
  parallel_for(
      n, [&](size_t i) { closed[i] = closed_part(surface, mesh, int(i), far); }, 256);
  const std::vector<int> place = same_places(mesh);
  for (int i = 0; i < smoothings; ++i) smooth(mesh, place, closed);
  Mesh within{mesh.points, {}};
  std::vector<int> number;
  for (size_t i = 0; i < n; ++i)
    if (closed[i] > 0.5f) within.triangles.push_back(mesh.triangles[i]), number.push_back(int(i));
  std::vector<std::vector<int>> out;
  for (std::vector<int>& group : surfaces_of(within)) {
    Mesh one{mesh.points, {}};
    for (int& t : group) one.triangles.push_back(within.triangles[size_t(t)]), t = number[size_t(t)];
    if (one.area() > least_area * mesh.area()) out.push_back(std::move(group));
  }
  return out;
}

}  // namespace pour
