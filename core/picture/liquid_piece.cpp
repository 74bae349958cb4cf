#include "picture/liquid_piece.h"

#include <cmath>

#include "surface/local_thickness.h"
#include "surface/sheets.h"
#include "surface/skin.h"

namespace pour {
std::vector<float> values_of(const LiquidPoints& liquid, Quantity quantity) {
  std::vector<float> out;
  if (quantity == Quantity::speed)
    for (const Vec3f& v : liquid.velocity) out.push_back(length(v));
  if (quantity == Quantity::age) out = liquid.age;
  if (quantity == Quantity::thickness) out = local_thickness(liquid);
  return out;
}

double most_of(const std::vector<float>& values) {
  return values.empty() ? 0 : double(std::max(0.f, *std::max_element(values.begin(), values.end())));
}

namespace {

/// By point; empty if points have their own.
std::vector<Vec3f> colors_of(const LiquidPoints& liquid, Quantity quantity, const std::vector<float>& values,
                             double most) {
  std::vector<Vec3f> out;
  const auto put = [&](const Color& c) { out.push_back({float(c.r), float(c.g), float(c.b)}); };
  if (quantity == Quantity::liquid)
    for (const uint8_t number : liquid.liquid) put(color_of_number(number));
  for (const float v : values) put(ramp(most > 0 ? double(v) / most : 0));
  return out;
}

constexpr size_t most_points = 150000;  // that a picture draws

/// Small bodies of four sides in place of points.
Skin points_of(const LiquidPoints& liquid, const std::vector<Vec3f>& colors, double radius, size_t every) {
  static constexpr Vec3f corners[4] = {{1, 1, 1}, {-1, -1, 1}, {-1, 1, -1}, {1, -1, -1}};
  static constexpr std::array<int, 3> sides[4] = {{0, 1, 3}, {0, 2, 1}, {0, 3, 2}, {1, 2, 3}};
  const float r = float(radius * liquid.cell_size * std::cbrt(double(every)) / std::sqrt(3.0));
  Skin skin;
  for (size_t n = 0; n < liquid.place.size(); n += every) {
    const int first = int(skin.mesh.points.size());
    for (const Vec3f& c : corners)
      skin.mesh.points.push_back(liquid.place[n] + c * r), skin.colors.push_back(colors[n]);
    for (const auto& s : sides) skin.mesh.triangles.push_back({first + s[0], first + s[1], first + s[2]});
  }
  return skin;
}

}  // namespace

int add_liquid_piece(std::vector<PicturePiece>& pieces, const LiquidPoints& liquid,
                     const SkinSettings& settings, const Showing& how, const std::vector<float>& values,
                     double most) {
  const std::vector<Vec3f> shown = colors_of(liquid, how.quantity, values, most);
  const std::vector<Vec3f>& colors = shown.empty() ? liquid.color : shown;
  const bool points = how.point_size > 0;
  const size_t every = points ? (liquid.place.size() + most_points - 1) / most_points : 1;
  const auto closed_skin = [&] {
    LiquidPoints closed = liquid;
    closed.color = colors;
    close_sheets(closed, settings);
    return skin_of(closed, closed.color, settings);
  };
  Skin skin = points && every ? points_of(liquid, colors, how.point_size, every) : closed_skin();
  if (skin.mesh.triangles.empty()) return 1;
  pieces.emplace_back(std::make_shared<const Surface>(std::move(skin.mesh), std::move(skin.colors)), Pose(),
                      !shown.empty() ? Finish::plain
                      : points       ? Finish::solid
                                     : Finish::wet,
                      std::string());
  return int(every);
}

void add_skin_pieces(std::vector<PicturePiece>& pieces, std::vector<FluidSkin> skins,
                     const FluidColors& colors) {
  for (FluidSkin& s : skins) {
    if (const size_t number = size_t(s.fluid); number < colors.size() && colors[number])
      std::fill(s.skin.colors.begin(), s.skin.colors.end(), *colors[number]);
    pieces.emplace_back(std::make_shared<const Surface>(std::move(s.skin.mesh), std::move(s.skin.colors)),
                        Pose(), Finish::wet, std::string());
  }
}

}  // namespace pour
