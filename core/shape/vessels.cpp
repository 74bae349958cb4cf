#include "shape/vessels.h"

#include <algorithm>
#include <deque>
#include <numeric>

#include "shape/near_surface.h"
#include "shape/winding.h"

namespace pour {
namespace {

/// Whether an edge of one mesh goes through the surface of another.
bool pierces(const Mesh& mesh, const Box& around, const NearSurface& other) {
  for (const auto& t : mesh.triangles)
    for (size_t k = 0; k < 3; ++k) {
      const Vec3f &a = mesh.points[size_t(t[k])], &b = mesh.points[size_t(t[(k + 1) % 3])];
      Box edge;
      edge.add(to<double>(a)), edge.add(to<double>(b));
      if (edge.overlaps(around) && other.met(a, b)) return true;
    }
  return false;
}

/// Cuts triangles along the surfaces of bodies.
class Cut {
 public:
  Cut(const std::vector<const Mesh*>& bodies, float fine) : fine_(fine) {
    for (const Mesh* m : bodies)
      near_.emplace_back(*m), winding_.emplace_back(*m), boxes_.push_back(m->bounds());
  }

  void add(const Vec3f& a, const Vec3f& b, const Vec3f& c) {
    add({Corner{a, distance(a)}, Corner{b, distance(b)}, Corner{c, distance(c)}});
  }

  Mesh out;

 private:
  struct Corner {
    Vec3f at;
    float distance;  // to the bodies, negative inside one of them
  };
  using Triangle = std::array<Corner, 3>;

  float distance(const Vec3f& p) const {
    float least = 1e30f;
    for (size_t i = 0; i < near_.size(); ++i) {
      const auto there = near_[i].nearest(p, 1e9f);
      if (!there) continue;
      const float far = std::abs(there->distance);
      least = std::min(least, winding_[i].at(to<double>(p)) > 0.5 ? -far : far);
    }
    return least;
  }

  /// Whether all of a triangle lies outside: what is not split keeps its smooth normals.
  bool is_far(const Triangle& t) const {
    Box box;
    for (const Corner& c : t) box.add(to<double>(c.at));
    return std::none_of(boxes_.begin(), boxes_.end(), [&](const Box& b) { return b.overlaps(box); });
  }

  void add(const Triangle& t) {
    if (is_far(t)) return keep_outside(t);
    size_t from = 0;
    float longest = 0, nearest = 1e30f;
    for (size_t k = 0; k < 3; ++k) {
      const float side = length(t[(k + 1) % 3].at - t[k].at);
      if (side > longest) longest = side, from = k;
      nearest = std::min(nearest, std::abs(t[k].distance));
    }
    if (longest > fine_ && nearest < longest) {
      const Corner &a = t[from], &b = t[(from + 1) % 3], &c = t[(from + 2) % 3];
      const Vec3f middle = (a.at + b.at) * 0.5f;
      const Corner m{middle, distance(middle)};
      add({a, m, c});
      add({m, b, c});
      return;
    }
    keep_outside(t);
  }

  void keep_outside(const Triangle& t) {
    std::vector<Vec3f> kept;
    for (size_t k = 0; k < 3; ++k) {
      const Corner &a = t[k], &b = t[(k + 1) % 3];
      if (a.distance >= 0) kept.push_back(a.at);
      if ((a.distance < 0) != (b.distance < 0))
        kept.push_back(a.at + (b.at - a.at) * (a.distance / (a.distance - b.distance)));
    }
    const int first = int(out.points.size());
    if (kept.size() < 3) return;
    out.points.insert(out.points.end(), kept.begin(), kept.end());
    for (int k = 1; k + 1 < int(kept.size()); ++k) out.triangles.push_back({first, first + k, first + k + 1});
  }

  float fine_;  // m, longest edge of a triangle that is cut
  std::vector<Box> boxes_;
  std::deque<NearSurface> near_;
  std::deque<WindingNumber> winding_;
};

}  // namespace

bool overlap(const Mesh& a, const Mesh& b) {
  if (a.triangles.empty() || b.triangles.empty() || !a.bounds().overlaps(b.bounds())) return false;
  return pierces(a, b.bounds(), NearSurface(b)) || pierces(b, a.bounds(), NearSurface(a)) ||
         WindingNumber(b).at(to<double>(a.points.front())) > 0.5 ||
         WindingNumber(a).at(to<double>(b.points.front())) > 0.5;
}

std::vector<Vessel> vessels_of(const Shot& shot, const std::vector<std::vector<Body>>& bodies) {
  std::vector<Vessel::Part> all;
  for (size_t i = 0; i < shot.pieces.size(); ++i)
    for (size_t b = 0; shot.pieces[i].holds && b < bodies[i].size(); ++b) all.push_back({i, b});
  std::vector<size_t> first(all.size());  // of the vessel that a body belongs to
  std::iota(first.begin(), first.end(), size_t(0));
  const auto mesh = [&](size_t k) -> const Mesh& { return bodies[all[k].piece][all[k].body].mesh; };
  for (size_t k = 0; k < all.size(); ++k)
    for (size_t other = 0; shot.pieces[all[k].piece].joins && other < all.size(); ++other) {
      if (first[k] == first[other] || !overlap(mesh(k), mesh(other))) continue;
      const auto [low, high] = std::minmax(first[k], first[other]);
      for (size_t& f : first)
        if (f == high) f = low;
    }
  std::vector<Vessel> out;
  for (size_t k = 0; k < all.size(); ++k)
    if (first[k] == k) {
      Vessel& v = out.emplace_back();
      for (size_t other = k; other < all.size(); ++other)
        if (first[other] == k) v.parts.push_back(all[other]);
    }
  return out;
}

Mesh outside_of(const Mesh& mesh, const std::vector<const Mesh*>& others) {
  constexpr double fineness = 1.0 / 200;  // of the bodies
  Box around;
  for (const Mesh* m : others) around.add(m->bounds());
  Cut cut(others, float(length(around.size()) * fineness));
  for (const auto& t : mesh.triangles)
    cut.add(mesh.points[size_t(t[0])], mesh.points[size_t(t[1])], mesh.points[size_t(t[2])]);
  return std::move(cut.out);
}

}  // namespace pour
