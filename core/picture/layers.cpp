#include "picture/layers.h"

#include <cmath>

namespace pour {
namespace {

Vec3f light_of(const Studio& studio, Finish finish, const Vec3f& n, const Vec3f& to_eye, const Vec3f& color) {
  return finish == Finish::wet     ? studio.wet_light(n, to_eye, color)
         : finish == Finish::plain ? Studio::plain_light(n, to_eye, color)
                                   : studio.solid_light(n, to_eye, color);
}

constexpr int fine = 2;  // samples a pixel along each side

/// A side of a triangle. Both triangles at a side compute it from the same end, so that every sample between
/// them belongs to just one.
struct Edge {
  float x, y, dx, dy, sign;
  bool turned;
  template <class C>
  Edge(const C& from, const C& to, bool negative) {
    turned = to.y < from.y || (to.y == from.y && to.x < from.x);
    const C &p = turned ? to : from, &q = turned ? from : to;
    x = p.x, y = p.y, dx = q.x - p.x, dy = q.y - p.y, sign = turned != negative ? -1.f : 1.f;
  }
  /// Twice the area between the side and a point, and whether the point is on the inside.
  bool holds(float px, float py, float& area) const {
    area = sign * (dx * (py - y) - dy * (px - x));
    return turned ? area > 0 : area >= 0;
  }
};

}  // namespace

Surface::Surface(Mesh m, std::vector<Vec3f> c, float crease)
    : mesh(std::move(m)), colors(std::move(c)), normals(corner_normals(mesh, crease)) {}

Surface::Surface(Body::Seen seen) : Surface(std::move(seen.mesh), std::move(seen.colors)) {
  uv = std::move(seen.uv), textures = std::move(seen.textures), texture_of = std::move(seen.texture_of);
}

PicturePiece::PicturePiece(Mesh m, Finish f)
    : surface(std::make_shared<const Surface>(std::move(m))), finish(f) {}
PicturePiece::PicturePiece(std::shared_ptr<const Surface> s, const Pose& p, Finish f, std::string i)
    : surface(std::move(s)), pose(p), finish(f), id(std::move(i)) {}

LayerPainter::LayerPainter(const std::vector<PicturePiece>& pieces, const View& view, const Studio& studio,
                           int width, int height)
    : view_(view), studio_(studio), width_(width) {
  for (const bool glass : {false, true})
    for (const PicturePiece& p : pieces) {
      if (p.glass() != glass) continue;
      const Mesh& mesh = p.surface->mesh;
      const std::vector<Vec3f>& colors = p.surface->colors;
      for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        Triangle t;
        t.finish = p.finish;
        bool before = true;
        for (int k = 0; k < 3; ++k) {
          Corner& c = t.corner[k];
          c.at = to<float>(p.pose * to<double>(mesh.points[size_t(mesh.triangles[i][size_t(k)])]));
          c.normal = to<float>(p.pose.turn * to<double>(p.surface->normals[i][size_t(k)]));
          c.color =
              colors.empty() ? p.color.value_or(studio.solid) : colors[size_t(mesh.triangles[i][size_t(k)])];
          const Vec3f q = view.project(c.at);
          before = before && q.z > 0.01f;
          c.x = (q.x * 0.5f + 0.5f) * float(width * fine), c.y = (0.5f - q.y * 0.5f) * float(height * fine);
          c.z = q.z;
        }
        if (!before) continue;
        const Corner* c = t.corner;
        t.near = dot(cross(c[1].at - c[0].at, c[2].at - c[0].at), view.eye - c[0].at) > 0;
        if (p.finish == Finish::wet && !t.near) continue;  // skins of liquids are closed
        t.low_y = std::min({c[0].y, c[1].y, c[2].y}), t.high_y = std::max({c[0].y, c[1].y, c[2].y});
        triangles_.push_back(t);
      }
    }
}

Layers LayerPainter::paint(int first, int rows) const {
  Layers out{first, rows, width_, std::vector<Layers::Pixel>(size_t(rows) * size_t(width_))};
  const int across = width_ * fine, top = first * fine, bottom = (first + rows) * fine;
  std::vector<float> depth(size_t(across) * size_t(bottom - top), 1e30f);
  std::vector<Vec3f> solid;
  constexpr float share = 1.f / (fine * fine);
  const auto blend = [&] {
    for (size_t i = 0; i < solid.size(); ++i) {
      if (depth[i] > 1e29f) continue;
      Layers::Pixel& p = out.pixels[i / size_t(across) / fine * size_t(width_) + i % size_t(across) / fine];
      p.solid += solid[i] * share, p.cover += share, p.depth = std::min(p.depth, depth[i]);
    }
    for (Layers::Pixel& p : out.pixels)
      if (p.cover > 0) p.solid = p.solid / p.cover;
    solid.clear();
  };
  for (const Triangle& t : triangles_) {
    if (t.high_y < float(top) || t.low_y > float(bottom)) continue;
    const bool glass = t.finish == Finish::glass;
    if (!glass && solid.empty()) solid.assign(depth.size(), {});
    if (glass && !solid.empty()) blend();
    const Corner &a = t.corner[0], &b = t.corner[1], &c = t.corner[2];
    const float area = (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
    if (std::abs(area) < 1e-9f) continue;
    const float whole = 1 / std::abs(area);
    const Edge sides[3] = {{b, c, area < 0}, {c, a, area < 0}, {a, b, area < 0}};
    const int x_low = std::max(0, int(std::floor(std::min({a.x, b.x, c.x})))),
              x_high = std::min(across - 1, int(std::ceil(std::max({a.x, b.x, c.x}))));
    const int y_low = std::max(top, int(std::floor(t.low_y))),
              y_high = std::min(bottom - 1, int(std::ceil(t.high_y)));
    for (int y = y_low; y <= y_high; ++y)
      for (int x = x_low; x <= x_high; ++x) {
        const float px = float(x) + 0.5f, py = float(y) + 0.5f;
        float u = 0, v = 0, w = 0;
        if (!sides[0].holds(px, py, u) || !sides[1].holds(px, py, v) || !sides[2].holds(px, py, w)) continue;
        const float ua = u * whole / a.z, va = v * whole / b.z, wa = w * whole / c.z, z = 1 / (ua + va + wa);
        float& nearest = depth[size_t(y - top) * size_t(across) + size_t(x)];
        if (z >= nearest) continue;
        const Vec3f at = (a.at * ua + b.at * va + c.at * wa) * z;
        Vec3f n = normalized(a.normal * ua + b.normal * va + c.normal * wa);
        if (!t.near) n = -n;
        const Vec3f to_eye = normalized(view_.eye - at);
        if (!glass) {
          const Vec3f color = (a.color * ua + b.color * va + c.color * wa) * z;
          nearest = z;
          solid[size_t(y - top) * size_t(across) + size_t(x)] = light_of(studio_, t.finish, n, to_eye, color);
          continue;
        }
        const Vec3f light = studio_.glass_light(n, to_eye) * share;
        Layers::Pixel& p = out.pixels[size_t((y - top) / fine) * size_t(width_) + size_t(x / fine)];
        if (t.near)
          p.glass += light;
        else
          p.inner += (light.x + light.y + light.z) * (studio::far_side / 3);
      }
  }
  if (!solid.empty()) blend();
  return out;
}

}  // namespace pour
