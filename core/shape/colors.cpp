#include "shape/colors.h"

#include <cmath>
#include <nanoflann.hpp>

#include "base/pixels.h"

namespace pour {
namespace {

/// Places on a surface with their colours.
struct Dots {
  std::vector<Vec3f> place, color;
  // Interface of nanoflann.
  size_t kdtree_get_point_count() const { return place.size(); }
  float kdtree_get_pt(size_t i, size_t axis) const { return place[i][int(axis)]; }
  template <class B>
  bool kdtree_get_bbox(B&) const {
    return false;
  }
};

class NearestDot : public BodyColors {
 public:
  explicit NearestDot(Dots dots) : dots_(std::move(dots)), tree_(3, dots_) { tree_.buildIndex(); }
  Vec3f at(const Vec3d& p) const override {
    const float q[3] = {float(p.x), float(p.y), float(p.z)};
    size_t nearest = 0;
    float distance = 0;
    tree_.knnSearch(q, 1, &nearest, &distance);
    return dots_.color[nearest];
  }

 private:
  Dots dots_;
  nanoflann::KDTreeSingleIndexAdaptor<nanoflann::L2_Simple_Adaptor<float, Dots>, Dots, 3, size_t> tree_;
};

/// The colour of a triangle where its corners have these weights.
Vec3f color_in(const Body::Seen& seen, const std::vector<std::shared_ptr<const Pixels>>& textures, size_t t,
               const float (&weight)[3]) {
  const auto& corners = seen.mesh.triangles[t];
  Vec3f color{0.5f, 0.5f, 0.5f};
  if (!seen.colors.empty()) {
    color = {};
    for (size_t k = 0; k < 3; ++k) color += seen.colors[size_t(corners[k])] * weight[k];
  }
  const uint8_t texture = seen.uv.empty() || seen.texture_of.empty() ? uint8_t(0) : seen.texture_of[t];
  if (!texture) return color;
  float u = 0, v = 0;
  for (size_t k = 0; k < 3; ++k) {
    const auto& at = seen.uv[size_t(corners[k])];
    u += at[0] * weight[k], v += at[1] * weight[k];
  }
  return textures[texture - 1u]->texture(u, v).over(color);
}

}  // namespace

std::shared_ptr<const BodyColors> colors_of(const Body::Seen& seen, const std::string& where) {
  constexpr double dots = 100000;
  if ((seen.colors.empty() && seen.textures.empty()) || seen.mesh.triangles.empty()) return nullptr;
  std::vector<std::shared_ptr<const Pixels>> textures;
  for (const auto& bytes : seen.textures) textures.push_back(unpack_picture(bytes, where));
  const double apart = std::sqrt(seen.mesh.area() / dots);
  Dots out;
  for (size_t t = 0; t < seen.mesh.triangles.size(); ++t) {
    Vec3f p[3];
    for (size_t k = 0; k < 3; ++k) p[k] = seen.mesh.points[size_t(seen.mesh.triangles[t][k])];
    const double longest = double(std::max({length(p[1] - p[0]), length(p[2] - p[1]), length(p[0] - p[2])}));
    const int n = std::clamp(int(longest / apart), 1, 400);
    for (int i = 0; i <= n; ++i)
      for (int j = 0; i + j <= n; ++j) {
        const float weight[3] = {float(i) / float(n), float(j) / float(n), float(n - i - j) / float(n)};
        out.place.push_back(p[0] * weight[0] + p[1] * weight[1] + p[2] * weight[2]);
        out.color.push_back(color_in(seen, textures, t, weight));
      }
  }
  return std::make_shared<const NearestDot>(std::move(out));
}

}  // namespace pour
