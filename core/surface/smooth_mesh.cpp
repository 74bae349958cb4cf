#include "surface/smooth_mesh.h"

#include <numbers>

#include "base/parallel.h"

namespace pour {
namespace {

constexpr float step = 0.5f;  // of diffusion, at each pass
constexpr size_t grain = 2048;

/// f(i) for every point, on all cores.
template <class F>
void for_points(size_t n, const F& f) {
  parallel_for(n / grain + 1, [&](size_t chunk) {
    for (size_t i = chunk * grain; i < std::min(n, (chunk + 1) * grain); ++i) f(i);
  });
}

/// The points next to each point.
struct Next {
  explicit Next(const Mesh& mesh) : start(mesh.points.size() + 1, 0) {
    for (const auto& t : mesh.triangles)
      for (const int p : t) ++start[size_t(p) + 1];
    for (size_t i = 1; i < start.size(); ++i) start[i] += start[i - 1];
    points.resize(start.back());
    std::vector<uint32_t> at(start.begin(), start.end() - 1);
    for (const auto& t : mesh.triangles)  // closed: each edge runs out of each of its ends once
      for (int k = 0; k < 3; ++k) points[at[size_t(t[size_t(k)])]++] = uint32_t(t[size_t((k + 1) % 3)]);
  }
  std::vector<uint32_t> start, points;
};

template <class T>
void diffuse(const Next& next, std::vector<T>& values, int passes) {
  std::vector<T> was;
  for (int pass = 0; pass < passes; ++pass) {
    was = values;
    for_points(values.size(), [&](size_t i) {
      T sum{};
      const uint32_t from = next.start[i], to = next.start[i + 1];
      for (uint32_t k = from; k < to; ++k) sum += was[next.points[k]];
      if (to > from) values[i] = was[i] * (1 - step) + sum * (step / float(to - from));
    });
  }
}

double edge_of(const Mesh& mesh) {
  double sum = 0;
  for (const auto& t : mesh.triangles)
    sum += double(length(mesh.points[size_t(t[1])] - mesh.points[size_t(t[0])]));
  return sum / double(mesh.triangles.size());
}

/// Which body each point belongs to, by the number of one of its points.
std::vector<int> bodies_of(const Mesh& mesh) {
  std::vector<int> root(mesh.points.size());
  for (size_t i = 0; i < root.size(); ++i) root[i] = int(i);
  const auto find = [&](int i) {
    while (root[size_t(i)] != i) i = root[size_t(i)] = root[size_t(root[size_t(i)])];
    return i;
  };
  for (const auto& t : mesh.triangles)
    for (const int k : {1, 2}) root[size_t(find(t[size_t(k)]))] = find(t[0]);
  for (size_t i = 0; i < root.size(); ++i) root[i] = find(int(i));
  return root;
}

struct Size {
  double volume = 0, area = 0;
};

/// At the number of each body.
std::vector<Size> sizes_of(const Mesh& mesh, const std::vector<int>& body) {
  std::vector<Size> out(mesh.points.size());
  for (const auto& t : mesh.triangles) {
    const Vec3f &a = mesh.points[size_t(t[0])], &b = mesh.points[size_t(t[1])],
                &c = mesh.points[size_t(t[2])];
    Size& size = out[size_t(body[size_t(t[0])])];
    size.volume += double(dot(a, cross(b, c))) / 6, size.area += double(length(cross(b - a, c - a))) / 2;
  }
  return out;
}

std::vector<Vec3f> normals_of(const Mesh& mesh) {
  std::vector<Vec3f> out(mesh.points.size());
  for (const auto& t : mesh.triangles) {
    const Vec3f& a = mesh.points[size_t(t[0])];
    const Vec3f n = cross(mesh.points[size_t(t[1])] - a, mesh.points[size_t(t[2])] - a);
    for (const int p : t) out[size_t(p)] += n;
  }
  for (Vec3f& n : out) n = normalized(n);
  return out;
}

}  // namespace

void smooth(Mesh& mesh, double over) {
  if (mesh.triangles.empty()) return;
  const double edge = edge_of(mesh);
  const int passes = int(std::lround(4 * (over / edge) * (over / edge)));
  if (passes < 1) return;
  const Next next(mesh);
  const std::vector<int> body = bodies_of(mesh);
  const std::vector<Size> before = sizes_of(mesh, body);
  std::vector<Vec3f> outwards = normals_of(mesh);
  diffuse(next, outwards, std::min(passes, 4));
  const std::vector<Vec3f> was = mesh.points;
  diffuse(next, mesh.points, passes);
  std::vector<float> removed(was.size());
  for_points(was.size(), [&](size_t i) {
    outwards[i] = normalized(outwards[i]), removed[i] = dot(was[i] - mesh.points[i], outwards[i]);
  });
  diffuse(next, removed, passes);
  for_points(was.size(), [&](size_t i) { mesh.points[i] += outwards[i] * removed[i]; });
  for (int round = 0; round < 2; ++round) {
    const std::vector<Size> after = sizes_of(mesh, body);
    const std::vector<Vec3f> out = normals_of(mesh);
    for_points(was.size(), [&](size_t i) {
      const size_t b = size_t(body[i]);
      if (!(after[b].area > 0)) return;
      const double far = (before[b].volume - after[b].volume) / after[b].area;
      mesh.points[i] += out[i] * float(std::clamp(far, -edge / 2, edge / 2));
    });
  }
}

std::vector<char> bends(const Mesh& mesh) {
  std::vector<Vec3f> sum(mesh.points.size());
  std::vector<float> area(mesh.points.size());
  for (const auto& t : mesh.triangles) {
    const Vec3f& a = mesh.points[size_t(t[0])];
    const Vec3f n = cross(mesh.points[size_t(t[1])] - a, mesh.points[size_t(t[2])] - a);
    const float size = length(n);
    for (const int p : t) sum[size_t(p)] += n, area[size_t(p)] += size;
  }
  std::vector<char> out(sum.size());
  for (size_t i = 0; i < out.size(); ++i) out[i] = length(sum[i]) < 0.85f * area[i];
  return out;
}

void drop_small(Mesh& mesh, double across, double cavity) {
  const std::vector<int> body = bodies_of(mesh);
  const std::vector<Size> sizes = sizes_of(mesh, body);
  const auto ball = [](double d) { return std::numbers::pi / 6 * d * d * d; };
  std::erase_if(mesh.triangles, [&](const auto& t) {
    const double volume = sizes[size_t(body[size_t(t[0])])].volume;
    return volume < ball(across) && volume > -ball(cavity);
  });
}

}  // namespace pour
