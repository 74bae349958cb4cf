#include "trace/traced_set.h"

#include <cmath>
#include <map>

#include "picture/lit_smoke.h"
#include "picture/quick_picture.h"
#include "surface/skin.h"

namespace pour {
namespace {

constexpr float smooth = 3.2f;        // rad: no edge of a liquid is sharp
constexpr double glass_depth = 0.05;  // m of glass that have its colour

Vec3f rgb(const Color& c) { return {float(c.r), float(c.g), float(c.b)}; }

/// What is left of white light behind `depth` is the colour (Beer and Lambert).
Vec3f absorption(const Vec3f& color, double depth) {
  const auto one = [&](float c) { return float(-std::log(std::clamp(c, 1e-3f, 1.f)) / depth); };
  return {one(color.x), one(color.y), one(color.z)};
}

TracedBody body_of(const PicturePiece& seen, const Piece& piece, const Look& look) {
  TracedBody b;
  b.surface = seen.surface, b.pose = seen.pose;
  const MaterialName& m = named_materials()[size_t(piece.material)];
  b.substance = m.substance, b.roughness = float(m.roughness), b.index = float(m.index);
  b.color = piece.material == NamedMaterial::as_look ? rgb(look.solid) : rgb(piece.color);
  if (piece.holds) {
    b.substance = Substance::glass, b.roughness = 0, b.index = 1.5f, b.thin = true, b.color = {1, 1, 1};
  } else if (m.substance == Substance::glass) {
    b.absorption = absorption(b.color, glass_depth), b.color = {1, 1, 1}, b.before = 1;
  }
  return b;
}

/// The points of one liquid.
LiquidPoints only(const LiquidPoints& all, uint8_t number) {
  LiquidPoints out;
  out.cell_size = all.cell_size;
  for (size_t i = 0; i < all.place.size(); ++i)
    if (all.liquid[i] == number)
      out.place.push_back(all.place[i]), out.velocity.push_back(all.velocity[i]),
          out.color.push_back(all.color[i]), out.age.push_back(all.age[i]), out.liquid.push_back(number);
  return out;
}

TracedBody body_of(const LiquidPoints& points, const Fluid& fluid) {
  Skin skin = skin_of(points, points.color);
  Vec3f mean;
  for (const Vec3f& c : points.color) mean += c;
  mean = mean / float(std::max<size_t>(1, points.color.size()));
  const Clearness clear = clearness_of(fluid);
  TracedBody b;
  b.touches = float(1.2 * points.cell_size);
  b.index = float(clear.index);
  if (clear.clarity == Clarity::opaque) {
    b.substance = Substance::coated, b.roughness = 0.22f;
    b.surface = std::make_shared<const Surface>(std::move(skin.mesh), std::move(skin.colors), smooth);
    return b;
  }
  b.surface = std::make_shared<const Surface>(std::move(skin.mesh), std::vector<Vec3f>(), smooth);
  b.substance = Substance::glass, b.roughness = 0, b.color = {1, 1, 1};
  if (clear.clarity == Clarity::clear)
    b.absorption = absorption(mean, clear.depth);
  else
    b.scattering = float(1 / clear.depth), b.albedo = single_albedo(mean);
  return b;
}

}  // namespace

TracedSet traced_set(const Shot& shot, const LiquidPoints& liquid, std::vector<SmokeWalls::Sealed> smoke) {
  TracedSet out;
  out.look = shot.look, out.camera = shot.camera;
  for (const PicturePiece& p : picture_pieces(shot))
    if (const Piece* piece = shot.piece(p.id)) out.bodies.push_back(body_of(p, *piece, shot.look));
  std::map<uint8_t, size_t> numbers;
  for (const uint8_t n : liquid.liquid) ++numbers[n];
  for (const auto& [number, count] : numbers) {
    const LiquidPoints points = only(liquid, number);
    TracedBody b = body_of(points, number < shot.fluids.size() ? shot.fluids[number] : Fluid());
    if (!b.surface->mesh.triangles.empty()) out.bodies.push_back(std::move(b));
  }
  for (SmokeWalls::Sealed& s : smoke)
    out.smoke.emplace_back(std::move(s), float(shot.look.thickness), tint_of(shot.look.shade));
  return out;
}

TracedSet traced_frame(const StoredFrame& frame, const Shot& shot, const SmokeWalls& walls, double time) {
  std::vector<SmokeWalls::Sealed> smoke;
  for (SmokeVolume& v : read_frame(frame)) smoke.push_back(walls.seal(std::move(v), time));
  return traced_set(shot, read_liquid(frame), std::move(smoke));
}

}  // namespace pour
