#include "shape/model_bytes.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstring>

#include "base/error.h"

namespace pour {
namespace {

constexpr char mark[] = "EPM2", mark_before[] = "EPM1";
constexpr float farthest = 1e9f;

template <class T>
void put(std::string& out, const T* values, size_t n) {
  out.append(reinterpret_cast<const char*>(values), n * sizeof(T));
}
void put(std::string& out, uint32_t n) { put(out, &n, 1); }

class Taker {
 public:
  Taker(const std::string& bytes, const std::string& where) : bytes_(bytes), where_(where) {}
  template <class T>
  std::vector<T> take(size_t n) {
    if (n > (bytes_.size() - at_) / sizeof(T)) throw torn();
    std::vector<T> out(n);
    if (n) std::memcpy(out.data(), bytes_.data() + at_, n * sizeof(T));
    at_ += n * sizeof(T);
    return out;
  }
  uint32_t number() { return take<uint32_t>(1)[0]; }
  Fault torn() const { return shot_fault(where_, "is torn.", "Bring the model in again."); }

 private:
  const std::string& bytes_;
  const std::string& where_;
  size_t at_ = 0;
};

}  // namespace

std::string pack_model(const std::vector<ModelPart>& parts) {
  std::string out(mark, 4);
  std::vector<const ModelTexture*> textures;
  const auto number_of = [&](const ModelTexture* t) {
    if (!t) return uint32_t(0);
    const auto found = std::find(textures.begin(), textures.end(), t);
    if (found == textures.end()) return textures.push_back(t), uint32_t(textures.size());
    return uint32_t(found - textures.begin() + 1);
  };
  put(out, uint32_t(parts.size()));
  for (const ModelPart& p : parts) {
    put(out, uint32_t(p.name.size())), put(out, uint32_t(p.mesh.points.size()));
    put(out, uint32_t(p.mesh.triangles.size())), put(out, uint32_t(p.colors.size()));
    put(out, uint32_t(p.uv.size())), put(out, number_of(p.texture.get()));
    out += p.name;
    put(out, p.mesh.points.data(), p.mesh.points.size());
    put(out, p.mesh.triangles.data(), p.mesh.triangles.size());
    put(out, p.colors.data(), p.colors.size());
    put(out, p.uv.data(), p.uv.size());
  }
  put(out, uint32_t(textures.size()));
  for (const ModelTexture* t : textures)
    put(out, uint32_t(t->name.size())), put(out, uint32_t(t->bytes.size())), out += t->name, out += t->bytes;
  return out;
}

std::vector<ModelPart> unpack_model(const std::string& bytes, const std::string& where) {
  Taker in(bytes, where);
  const auto begin = in.take<char>(4);
  const bool before = std::memcmp(begin.data(), mark_before, 4) == 0;
  if (!before && std::memcmp(begin.data(), mark, 4) != 0) throw in.torn();
  const uint32_t count = in.number();
  std::vector<uint32_t> texture_of;
  std::vector<ModelPart> out;
  for (uint32_t i = 0; i < count; ++i) {
    ModelPart p;
    const uint32_t name = in.number(), points = in.number(), triangles = in.number(), colors = in.number();
    const uint32_t uv = before ? 0 : in.number();
    texture_of.push_back(before ? 0 : in.number());
    if ((colors != 0 && colors != points) || (uv != 0 && uv != points)) throw in.torn();
    const auto letters = in.take<char>(name);
    p.name.assign(letters.begin(), letters.end());
    p.mesh.points = in.take<Vec3f>(points);
    p.mesh.triangles = in.take<std::array<int, 3>>(triangles);
    p.colors = in.take<Vec3f>(colors);
    p.uv = in.take<std::array<float, 2>>(uv);
    for (const auto& at : p.uv)
      if (!(std::abs(at[0]) < farthest && std::abs(at[1]) < farthest)) throw in.torn();
    for (const Vec3f& v : p.mesh.points)
      for (int a = 0; a < 3; ++a)
        if (!(std::abs(v[a]) < farthest)) throw in.torn();
    for (const auto& t : p.mesh.triangles)
      for (const int k : t)
        if (k < 0 || uint32_t(k) >= points) throw in.torn();
    out.push_back(std::move(p));
  }
  if (before) return out;
  std::vector<std::shared_ptr<const ModelTexture>> textures{nullptr};
  for (uint32_t left = in.number(); left > 0; --left) {
    const uint32_t name = in.number(), size = in.number();
    const auto letters = in.take<char>(name), bytes = in.take<char>(size);
    textures.push_back(std::make_shared<const ModelTexture>(
        ModelTexture{std::string(letters.begin(), letters.end()), std::string(bytes.begin(), bytes.end())}));
  }
  for (uint32_t i = 0; i < count; ++i) {
    if (texture_of[i] >= textures.size()) throw in.torn();
    out[i].texture = textures[texture_of[i]];
  }
  return out;
}

}  // namespace pour
