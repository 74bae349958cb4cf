#include "shape/extrude.h"

#include <GL/glu.h>

#include <cmath>
#include <deque>
#include <memory>
#include <numbers>

#include "shape/clipped.h"

namespace pour {
namespace {

namespace cl = ClipperLib;

constexpr double to_clipper = 1e9;  // Clipper units a metre in the functions that work on outlines

cl::Path to_path(const Outline::Ring& r) {
  cl::Path p;
  for (const Vec3d& v : r.points)
    p.emplace_back(cl::cInt(std::llround(v.x * to_clipper)), cl::cInt(std::llround(v.y * to_clipper)));
  return p;
}

cl::Paths to_paths(const Outline::Part& part) {
  cl::Paths out{to_path(part.outer)};
  for (const auto& h : part.holes) out.push_back(to_path(h));
  return out;
}

double ring_area(const Outline::Ring& r) {
  double twice = 0;
  for (size_t i = 0; i < r.points.size(); ++i) {
    const Vec3d &a = r.points[i], &b = r.points[(i + 1) % r.points.size()];
    twice += a.x * b.y - b.x * a.y;
  }
  return twice / 2;
}

struct Tessellator {
  struct Vertex {
    GLdouble position[3];
    int index;
  };
  std::deque<Vertex> vertices;
  std::vector<int> corners;
  Mesh& mesh;
  explicit Tessellator(Mesh& m) : mesh(m) {}

  /// Fills `corners` with the triangles between the rings by the even-odd rule; each ring comes with the
  /// mesh index of each of its points.
  void run(const std::vector<std::pair<const cl::Paths*, std::vector<int>>>& rings) {
    const std::unique_ptr<GLUtesselator, void (*)(GLUtesselator*)> tess(gluNewTess(), gluDeleteTess);
    gluTessProperty(tess.get(), GLU_TESS_WINDING_RULE, GLU_TESS_WINDING_ODD);
    gluTessNormal(tess.get(), 0, 0, 1);
    using Callback = void (*)();
    gluTessCallback(tess.get(), GLU_TESS_VERTEX_DATA, Callback(+[](void* v, void* self) {
                      static_cast<Tessellator*>(self)->corners.push_back(static_cast<Vertex*>(v)->index);
                    }));
    // Asking for edge flags makes the tessellator deliver plain triangles.
    gluTessCallback(tess.get(), GLU_TESS_EDGE_FLAG_DATA, Callback(+[](GLboolean, void*) {}));
    gluTessCallback(tess.get(), GLU_TESS_COMBINE_DATA,
                    Callback(+[](GLdouble p[3], Vertex* from[4], GLfloat weight[4], void** out, void* self) {
                      auto& t = *static_cast<Tessellator*>(self);
                      float height = 0, sum = 0;
                      for (int i = 0; i < 4; ++i)
                        if (from[i])
                          height += weight[i] * t.mesh.points[size_t(from[i]->index)].z, sum += weight[i];
                      t.vertices.push_back({{p[0], p[1], 0}, int(t.mesh.points.size())});
                      t.mesh.points.push_back({float(p[0] / to_clipper), float(p[1] / to_clipper),
                                               sum > 0 ? height / sum : height});
                      *out = &t.vertices.back();
                    }));
    corners.clear();
    gluTessBeginPolygon(tess.get(), this);
    for (size_t k = 0; k < rings.size(); ++k) {
      size_t next = 0;
      for (const cl::Path& path : *rings[k].first) {
        gluTessBeginContour(tess.get());
        for (const cl::IntPoint& p : path) {
          vertices.push_back({{double(p.X), double(p.Y), 0}, rings[k].second[next++]});
          gluTessVertex(tess.get(), vertices.back().position, &vertices.back());
        }
        gluTessEndContour(tess.get());
      }
    }
    gluTessEndPolygon(tess.get());
  }
};

}  // namespace

double Outline::Part::area() const {
  double a = ring_area(outer);
  for (const Ring& h : holes) a += ring_area(h);
  return a;
}

Outline outline_from(const cl::PolyTree& tree, double unit, double clean) {
  const auto ring = [&](cl::Path path) {
    cl::CleanPolygon(path, clean);
    Outline::Ring r;
    for (const cl::IntPoint& p : path) r.points.push_back({double(p.X) * unit, double(p.Y) * unit, 0});
    return r;
  };
  Outline out;
  for (const cl::PolyNode* node = tree.GetFirst(); node; node = node->GetNext()) {
    if (node->IsHole()) continue;
    Outline::Part part;
    part.outer = ring(node->Contour);
    if (part.outer.points.size() < 3) continue;
    for (const cl::PolyNode* hole : node->Childs)
      if (auto r = ring(hole->Contour); r.points.size() >= 3) part.holes.push_back(std::move(r));
    out.parts.push_back(std::move(part));
  }
  const auto left = [](const Outline::Part& p) {
    Box b;
    for (const Vec3d& v : p.outer.points) b.add(v);
    return b.low.x;
  };
  std::stable_sort(out.parts.begin(), out.parts.end(),
                   [&](const auto& a, const auto& b) { return left(a) < left(b); });
  return out;
}

std::vector<Mesh> extrude(const Outline& outline, double depth, double bevel) {
  bevel = std::min(bevel, 0.48 * depth);  // some side wall stays, so that front and back never touch
  constexpr int steps = 4;
  std::vector<Mesh> out(outline.parts.size());
  for (size_t part = 0; part < out.size(); ++part) {
    Mesh& mesh = out[part];
    // Rings from the side wall (0) inwards over the bevel to the rim of the flat front.
    std::vector<cl::Paths> rings;
    std::vector<float> z;
    const cl::Paths base = to_paths(outline.parts[part]);
    rings.push_back(base);
    z.push_back(float(depth / 2 - bevel));
    for (int i = 1; bevel > 0 && i <= steps; ++i) {
      const double angle = std::numbers::pi / 2 * i / steps;
      cl::ClipperOffset offset(2.0);
      offset.AddPaths(base, cl::jtMiter, cl::etClosedPolygon);
      cl::Paths inset;
      offset.Execute(inset, -bevel * (1 - std::cos(angle)) * to_clipper);
      cl::CleanPolygons(inset, 2);
      std::erase_if(inset, [](const cl::Path& p) { return p.size() < 3; });
      rings.push_back(std::move(inset));
      z.push_back(float(depth / 2 - bevel * (1 - std::sin(angle))));
    }
    std::vector<std::vector<int>> front(rings.size());
    for (size_t k = 0; k < rings.size(); ++k)
      for (const cl::Path& path : rings[k])
        for (const cl::IntPoint& p : path) {
          front[k].push_back(int(mesh.points.size()));
          mesh.points.push_back({float(double(p.X) / to_clipper), float(double(p.Y) / to_clipper), z[k]});
        }
    Tessellator tess(mesh);
    const auto add = [&] {
      for (size_t i = 0; i + 2 < tess.corners.size(); i += 3)
        mesh.triangles.push_back({tess.corners[i], tess.corners[i + 1], tess.corners[i + 2]});
    };
    for (size_t k = 0; k + 1 < rings.size(); ++k)
      tess.run({{&rings[k], front[k]}, {&rings[k + 1], front[k + 1]}}), add();
    tess.run({{&rings.back(), front.back()}}), add();
    // The back is the front seen in a mirror.
    const int n = int(mesh.points.size());
    const size_t triangles = mesh.triangles.size();
    for (int i = 0; i < n; ++i) {
      const Vec3f p = mesh.points[size_t(i)];
      mesh.points.push_back({p.x, p.y, -p.z});
    }
    for (size_t i = 0; i < triangles; ++i) {
      const auto t = mesh.triangles[i];
      mesh.triangles.push_back({t[0] + n, t[2] + n, t[1] + n});
    }
    size_t first = 0;
    for (const cl::Path& path : rings[0]) {
      for (size_t i = 0; i < path.size(); ++i) {
        const int a = front[0][first + i], b = front[0][first + (i + 1) % path.size()];
        mesh.triangles.push_back({a, a + n, b});
        mesh.triangles.push_back({b, a + n, b + n});
      }
      first += path.size();
    }
  }
  return out;
}

}  // namespace pour
