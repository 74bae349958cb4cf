#include "shape/winding.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace pour {
namespace {

constexpr uint32_t leaf = 2;  // triangles
constexpr double far = 3;     // radii: from there a node counts by its moments

/// Solid angle of a triangle (Van Oosterom & Strackee 1983).
double solid_angle(const Vec3d& p, const Vec3d& a, const Vec3d& b, const Vec3d& c) {
  const Vec3d x = a - p, y = b - p, z = c - p;
  const double lx = length(x), ly = length(y), lz = length(z);
  const double above = dot(x, cross(y, z)),
               below = lx * ly * lz + dot(x, y) * lz + dot(y, z) * lx + dot(z, x) * ly;
  return 2 * double(std::atan2(float(above), float(below)));
}

}  // namespace

WindingNumber::WindingNumber(const Mesh& mesh) {
  triangles_.reserve(mesh.triangles.size());
  for (const auto& t : mesh.triangles) {
    const auto at = [&](size_t k) { return to<double>(mesh.points[size_t(t[k])]); };
    triangles_.push_back({at(0), at(1), at(2)});
  }
  nodes_.reserve(triangles_.size() / 2 + 2);
  nodes_.emplace_back();
  if (!triangles_.empty()) build(0, 0, uint32_t(triangles_.size()));
}

void WindingNumber::build(uint32_t node, uint32_t begin, uint32_t end) {
  nodes_[node].begin = begin, nodes_[node].end = end;
  sum_up(nodes_[node]);
  if (end - begin <= leaf) return;
  Box box;
  const auto middle = [](const Triangle& t) { return (t.a + t.b + t.c) / 3; };
  for (uint32_t i = begin; i < end; ++i) box.add(middle(triangles_[i]));
  const Vec3d s = box.size();
  const int axis = s.x >= s.y && s.x >= s.z ? 0 : s.y >= s.z ? 1 : 2;
  const auto first = triangles_.begin();
  const uint32_t half = begin + (end - begin) / 2;
  std::nth_element(first + begin, first + half, first + end,
                   [&](const Triangle& p, const Triangle& q) { return middle(p)[axis] < middle(q)[axis]; });
  const uint32_t child = uint32_t(nodes_.size());
  nodes_[node].child = child;
  nodes_.resize(nodes_.size() + 2);
  build(child, begin, half);
  build(child + 1, half, end);
}

void WindingNumber::sum_up(Node& n) const {
  double area = 0;
  Vec3d sum;
  for (uint32_t i = n.begin; i < n.end; ++i) {
    const Triangle& t = triangles_[i];
    const Vec3d by_area = cross(t.b - t.a, t.c - t.a) * 0.5;
    const double own = length(by_area);
    area += own, sum += (t.a + t.b + t.c) * (own / 3), n.normal += by_area;
  }
  n.middle = area > 0 ? sum / area : triangles_[n.begin].a;
  for (uint32_t i = n.begin; i < n.end; ++i) {
    const Triangle& t = triangles_[i];
    const Vec3d by_area = cross(t.b - t.a, t.c - t.a) * 0.5, off = (t.a + t.b + t.c) / 3 - n.middle;
    for (int r = 0; r < 3; ++r)
      for (int c = 0; c < 3; ++c) n.first[3 * r + c] += off[r] * by_area[c];
    for (const Vec3d& p : {t.a, t.b, t.c}) n.radius = std::max(n.radius, length(p - n.middle));
  }
}

double WindingNumber::at(const Vec3d& p) const {
  if (triangles_.empty()) return 0;
  double sum = 0;
  uint32_t stack[128];
  int depth = 0;
  stack[depth++] = 0;
  while (depth) {
    const Node& n = nodes_[stack[--depth]];
    const Vec3d r = n.middle - p;
    const double l2 = dot(r, r);
    if (l2 > far * far * n.radius * n.radius) {
      const double l = std::sqrt(l2), l3 = l2 * l;
      double second = 0;
      for (int a = 0; a < 3; ++a)
        for (int b = 0; b < 3; ++b) second += n.first[3 * a + b] * ((a == b ? l2 : 0) - 3 * r[a] * r[b]);
      sum += (dot(n.normal, r) + second / l2) / l3;
    } else if (n.child) {
      stack[depth++] = n.child, stack[depth++] = n.child + 1;
    } else {
      for (uint32_t i = n.begin; i < n.end; ++i)
        sum += solid_angle(p, triangles_[i].a, triangles_[i].b, triangles_[i].c);
    }
  }
  return sum / (4 * std::numbers::pi);
}

}  // namespace pour
