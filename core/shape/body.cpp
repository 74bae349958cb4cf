#include "shape/body.h"

namespace pour {

void Body::Seen::append(const Seen& more) {
  const size_t before = mesh.points.size(), sides = mesh.triangles.size();
  mesh.append(more.mesh);
  const auto join = [&](auto& all, const auto& part, const auto& none) {
    if (all.empty() && part.empty()) return;
    all.resize(before, none);
    all.insert(all.end(), part.begin(), part.end());
    all.resize(mesh.points.size(), none);
  };
  join(colors, more.colors, Vec3f{0.5f, 0.5f, 0.5f});
  join(uv, more.uv, std::array<float, 2>{});
  if (textures.empty() && more.textures.empty()) return;
  texture_of.resize(sides, 0);
  for (const uint8_t t : more.texture_of)
    texture_of.push_back(t == 0 || t + textures.size() > 255 ? 0 : uint8_t(t + textures.size()));
  texture_of.resize(mesh.triangles.size(), 0);
  textures.insert(textures.end(), more.textures.begin(), more.textures.end());
}

}  // namespace pour
