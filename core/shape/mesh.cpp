#include "shape/mesh.h"

#include <tbb/parallel_sort.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <numeric>
#include <tuple>

namespace pour {

Box Mesh::bounds() const {
  Box b;
  for (const Vec3f& p : points) b.add(to<double>(p));
  return b;
}

double Mesh::volume() const {
  double six = 0;
  for (const auto& t : triangles) {
    const Vec3d a = to<double>(points[size_t(t[0])]), b = to<double>(points[size_t(t[1])]),
                c = to<double>(points[size_t(t[2])]);
    six += dot(a, cross(b, c));
  }
  return six / 6;
}

double Mesh::area() const {
  double twice = 0;
  for (const auto& t : triangles) {
    const Vec3d a = to<double>(points[size_t(t[0])]);
    twice += length(cross(to<double>(points[size_t(t[1])]) - a, to<double>(points[size_t(t[2])]) - a));
  }
  return twice / 2;
}

void Mesh::append(const Mesh& m) {
  const int base = int(points.size());
  points.insert(points.end(), m.points.begin(), m.points.end());
  for (const auto& t : m.triangles) triangles.push_back({t[0] + base, t[1] + base, t[2] + base});
}

void Mesh::place(const Pose& pose) {
  for (Vec3f& p : points) p = to<float>(pose * to<double>(p));
}

std::vector<std::array<Vec3f, 3>> corner_normals(const Mesh& m, float crease) {
  const size_t n = m.triangles.size();
  std::vector<Vec3f> area(n);  // twice the area along the normal
  std::vector<std::vector<int>> around(m.points.size());
  for (size_t i = 0; i < n; ++i) {
    const auto& [a, b, c] = m.triangles[i];
    area[i] = cross(m.points[size_t(b)] - m.points[size_t(a)], m.points[size_t(c)] - m.points[size_t(a)]);
    for (const int v : m.triangles[i]) around[size_t(v)].push_back(int(i));
  }
  const float least = std::cos(crease);
  std::vector<std::array<Vec3f, 3>> out(n);
  for (size_t i = 0; i < n; ++i) {
    const Vec3f own = normalized(area[i]);
    for (size_t k = 0; k < 3; ++k) {
      Vec3f sum{};
      for (const int j : around[size_t(m.triangles[i][k])])
        if (dot(own, normalized(area[size_t(j)])) >= least) sum += area[size_t(j)];
      out[i][k] = normalized(length(sum) > 0 ? sum : area[i]);
    }
  }
  return out;
}

Mesh ball_mesh(double radius, int halvings) {
  Mesh m;
  m.points = {{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}};
  m.triangles = {{0, 2, 4}, {2, 1, 4}, {1, 3, 4}, {3, 0, 4}, {2, 0, 5}, {1, 2, 5}, {3, 1, 5}, {0, 3, 5}};
  for (int level = 0; level < halvings; ++level) {
    std::map<std::pair<int, int>, int> middle;
    const auto split = [&](int a, int b) {
      const auto [it, added] = middle.try_emplace(std::minmax(a, b), int(m.points.size()));
      if (added) m.points.push_back(normalized(m.points[size_t(a)] + m.points[size_t(b)]));
      return it->second;
    };
    std::vector<std::array<int, 3>> finer;
    for (const auto& [a, b, c] : m.triangles) {
      const int ab = split(a, b), bc = split(b, c), ca = split(c, a);
      finer.insert(finer.end(), {{a, ab, ca}, {ab, b, bc}, {ca, bc, c}, {ab, bc, ca}});
    }
    m.triangles = std::move(finer);
  }
  const double scale = radius * std::cbrt(4.0 / 3 * std::numbers::pi / m.volume());
  for (Vec3f& p : m.points) p = p * float(scale);
  return m;
}

Mesh box_mesh(const Vec3d& size) {
  Mesh m;
  const Vec3f h = to<float>(size * 0.5);
  for (int i = 0; i < 8; ++i)
    m.points.push_back({i & 1 ? h.x : -h.x, i & 2 ? h.y : -h.y, i & 4 ? h.z : -h.z});
  m.triangles = {{0, 2, 1}, {1, 2, 3}, {4, 5, 6}, {5, 7, 6}, {0, 1, 4}, {1, 5, 4},
                 {2, 6, 3}, {3, 6, 7}, {0, 4, 2}, {2, 4, 6}, {1, 3, 5}, {3, 7, 5}};
  return m;
}

Mesh rounded_box_mesh(const Vec3d& size, double radius) {
  // The points of a cube's sides, moved onto a ball whose eighths are pulled apart.
  constexpr int n = 8, last = 2 * n + 1;  // pieces of a quarter circle; the last index along an edge
  const Vec3d inner = size * 0.5 - Vec3d{radius, radius, radius};
  const auto place = [&](const int(&index)[3]) {
    Vec3d on_cube, from;
    for (int a = 0; a < 3; ++a) {
      const bool high = index[a] > n;
      const double share = double(high ? index[a] - 1 - n : index[a] - n) / n;  // -1 to 1
      on_cube[a] = std::tan(share * std::numbers::pi / 4), from[a] = high ? inner[a] : -inner[a];
    }
    return from + normalized(on_cube) * radius;
  };
  Mesh m;
  std::map<std::array<int, 3>, int> known;
  const auto point = [&](int axis, int side, int u, int v) {
    int index[3];
    index[axis] = side, index[(axis + 1) % 3] = u, index[(axis + 2) % 3] = v;
    const auto [it, added] = known.try_emplace({index[0], index[1], index[2]}, int(m.points.size()));
    if (added) m.points.push_back(to<float>(place(index)));
    return it->second;
  };
  for (int axis = 0; axis < 3; ++axis)
    for (const int side : {0, last})
      for (int u = 0; u < last; ++u)
        for (int v = 0; v < last; ++v) {
          const int a = point(axis, side, u, v), b = point(axis, side, u + 1, v),
                    c = point(axis, side, u + 1, v + 1), d = point(axis, side, u, v + 1);
          if (side)
            m.triangles.insert(m.triangles.end(), {{a, b, c}, {a, c, d}});
          else
            m.triangles.insert(m.triangles.end(), {{a, c, b}, {a, d, c}});
        }
  return m;
}

std::vector<int> same_places(const Mesh& mesh) {
  std::vector<int> order(mesh.points.size());
  std::iota(order.begin(), order.end(), 0);
  const auto key = [&](int i) {
    const Vec3f& p = mesh.points[size_t(i)];
    return std::tuple(p.x, p.y, p.z);
  };
  tbb::parallel_sort(order.begin(), order.end(), [&](int i, int j) {
    const auto a = key(i), b = key(j);
    return a < b || (!(b < a) && i < j);
  });
  std::vector<int> out(order.size());
  for (size_t k = 0; k < order.size(); ++k)
    out[size_t(order[k])] = k && key(order[k - 1]) == key(order[k]) ? out[size_t(order[k - 1])] : order[k];
  return out;
}

namespace {

struct Edge {
  int low, high, way;  // way: 1 from low to high, -1 against it
  int triangle;
  bool operator<(const Edge& o) const { return std::pair(low, high) < std::pair(o.low, o.high); }
};

/// Calls f(first, last) for the triangles' sides along each edge; sides without length are left out.
template <class F>
void each_edge(const Mesh& mesh, const F& f) {
  const std::vector<int> place = same_places(mesh);
  std::vector<Edge> edges;
  edges.reserve(3 * mesh.triangles.size());
  for (size_t i = 0; i < mesh.triangles.size(); ++i)
    for (size_t k = 0; k < 3; ++k) {
      const auto& t = mesh.triangles[i];
      const int a = place[size_t(t[k])], b = place[size_t(t[(k + 1) % 3])];
      if (a != b) edges.push_back({std::min(a, b), std::max(a, b), a < b ? 1 : -1, int(i)});
    }
  tbb::parallel_sort(edges.begin(), edges.end());  // equal ones are only counted
  for (auto first = edges.begin(); first != edges.end();) {
    const auto last = std::upper_bound(first, edges.end(), *first);
    f(first, last);
    first = last;
  }
}

}  // namespace

bool is_closed(const Mesh& mesh) {
  bool closed = !mesh.triangles.empty();
  each_edge(mesh, [&](auto first, auto last) {
    int ways = 0;
    for (auto e = first; e != last; ++e) ways += e->way;
    closed = closed && ways == 0;
  });
  return closed;
}

namespace {

/// Things that are joined by pairs (union-find); each starts with the one that it is joined to already.
class Joined {
 public:
  explicit Joined(std::vector<int> parent) : parent_(std::move(parent)) {}
  int root(int i) {
    while (parent_[size_t(i)] != i) i = parent_[size_t(i)] = parent_[size_t(parent_[size_t(i)])];
    return i;
  }
  void join(int a, int b) { parent_[size_t(root(a))] = root(b); }

 private:
  std::vector<int> parent_;
};

/// The numbers below n by what of(i) says, which is below `most`; in the order of their first ones.
template <class Of>
std::vector<std::vector<int>> grouped(size_t n, size_t most, const Of& of) {
  std::vector<int> number(most, -1);
  std::vector<std::vector<int>> out;
  for (size_t i = 0; i < n; ++i) {
    int& group = number[size_t(of(i))];
    if (group < 0) group = int(out.size()), out.emplace_back();
    out[size_t(group)].push_back(int(i));
  }
  return out;
}

}  // namespace

std::vector<std::vector<int>> surfaces_of(const Mesh& mesh) {
  Joined points(same_places(mesh));
  for (const auto& t : mesh.triangles)
    for (const int k : {t[1], t[2]}) points.join(k, t[0]);
  return grouped(mesh.triangles.size(), mesh.points.size(),
                 [&](size_t i) { return points.root(mesh.triangles[i][0]); });
}

std::vector<std::vector<int>> sides_of(const Mesh& mesh, float crease) {
  std::vector<int> alone(mesh.triangles.size());
  std::iota(alone.begin(), alone.end(), 0);
  Joined triangles(std::move(alone));
  const auto normal = [&](int i) {
    const auto& t = mesh.triangles[size_t(i)];
    const Vec3f a = mesh.points[size_t(t[0])];
    return normalized(cross(mesh.points[size_t(t[1])] - a, mesh.points[size_t(t[2])] - a));
  };
  const float least = std::cos(crease);
  each_edge(mesh, [&](auto first, auto last) {
    if (last - first != 2) return;
    const float turns_by = dot(normal(first->triangle), normal((first + 1)->triangle));
    // Where one faces the other way the two run along their edge alike.
    if ((first->way == (first + 1)->way ? -turns_by : turns_by) >= least)
      triangles.join((first + 1)->triangle, first->triangle);
  });
  return grouped(mesh.triangles.size(), mesh.triangles.size(),
                 [&](size_t i) { return triangles.root(int(i)); });
}

size_t open_edges(const Mesh& mesh) {
  size_t open = 0;
  each_edge(mesh, [&](auto first, auto last) { open += last - first == 1; });
  return open;
}

double openness(const Mesh& mesh) {
  double open = 0;
  each_edge(mesh, [&](auto first, auto last) {
    if (last - first == 1)
      open += double(length(mesh.points[size_t(first->high)] - mesh.points[size_t(first->low)]));
  });
  return open / std::sqrt(std::max(mesh.area(), 1e-30));
}

}  // namespace pour
