#include "surface/fluid_skins.h"

#include <algorithm>
#include <set>

#include "base/parallel.h"
#include "shape/near_surface.h"
#include "surface/local_thickness.h"
#include "surface/sheets.h"

namespace pour {

Liquid liquid_of(const Shot& shot, int number) {
  if (size_t(number) >= shot.fluids.size()) return {};
  const Liquid* liquid = shot.fluids[size_t(number)].as<Liquid>();
  return liquid ? *liquid : Liquid();
}

LiquidPoints points_of_fluid(const LiquidPoints& all, int number, const Liquid& fluid) {
  LiquidPoints out;
  out.cell_size = all.cell_size;
  const Vec3f far{float(fluid.far_color.r), float(fluid.far_color.g), float(fluid.far_color.b)};
  for (size_t i = 0; i < all.place.size(); ++i) {
    if (all.liquid[i] != number) continue;
    out.place.push_back(all.place[i]), out.velocity.push_back(all.velocity[i]);
    out.age.push_back(all.age[i]), out.liquid.push_back(all.liquid[i]), out.id.push_back(all.id[i]);
    out.color.push_back(all.color[i]);
  }
  const auto fade = [&](const auto& part) {
    for (size_t i = 0; i < out.color.size(); ++i) {
      const float t = std::clamp(part(i), 0.f, 1.f);
      out.color[i] = out.color[i] * (1 - t) + far * t;
    }
  };
  if (fluid.color_by == ColorBy::speed)
    fade([&](size_t i) { return length(out.velocity[i]) / float(fluid.far_speed); });
  if (fluid.color_by == ColorBy::age) fade([&](size_t i) { return out.age[i] / float(fluid.far_age); });
  if (fluid.color_by == ColorBy::depth)
    fade([&, thick = local_thickness(out)](size_t i) { return thick[i] / float(fluid.far_depth); });
  return out;
}

bool has_bubbles(const Shot& shot, const Liquid& fluid) {
  return fluid.bubbles > 0 && is_see_through(shot, fluid);
}

FluidColors colors_of_materials(const Shot& shot) {
  FluidColors out;
  for (const Fluid& f : shot.fluids) {
    const Liquid* liquid = f.as<Liquid>();
    const Material* m = liquid ? shot.material(liquid->material.id) : nullptr;
    out.emplace_back();
    if (m && liquid->color_by == ColorBy::itself)
      out.back() = Vec3f{float(m->color.r), float(m->color.g), float(m->color.b)};
  }
  return out;
}

void color_by_materials(const FluidColors& colors, LiquidPoints& points) {
  if (std::none_of(colors.begin(), colors.end(), [](const auto& c) { return c.has_value(); })) return;
  for (size_t i = 0; i < points.color.size(); ++i)
    if (const size_t number = points.liquid[i]; number < colors.size() && colors[number])
      points.color[i] = *colors[number];
}

namespace {

/// Liquid that lies on something solid goes on into it, as its mirror image, so that its skin ends nowhere
/// near the surface that it is seen on, but runs across it.
void go_on_into(const NearSurface& solids, LiquidPoints& points) {
  const float h = float(points.cell_size), reach = 0.9f * h, room = 0.5f * h;
  const size_t n = points.place.size();
  std::vector<Vec3f> image(n);
  std::vector<char> has(n, 0);
  parallel_for(n / 256 + 1, [&](size_t chunk) {
    for (size_t i = chunk * 256; i < std::min(n, (chunk + 1) * 256); ++i) {
      const auto near = solids.nearest(points.place[i], reach);
      if (!near || near->distance < 0) continue;
      const float deep = std::min(near->distance, solids.thickness(*near) - room);
      if (deep <= 0) continue;
      image[i] = near->at - near->out * deep, has[i] = 1;
    }
  });
  for (size_t i = 0; i < n; ++i)
    if (has[i]) add_between(points, i, i, image[i]);
}

}  // namespace

std::vector<FluidSkin> skins_of(const Shot& now, const LiquidPoints& liquid, Mesh solid) {
  std::vector<FluidSkin> out;
  const std::set<uint8_t> numbers(liquid.liquid.begin(), liquid.liquid.end());
  if (numbers.empty()) return out;
  const NearSurface solids(std::move(solid));
  for (const uint8_t number : numbers) {
    const Liquid fluid = liquid_of(now, number);
    LiquidPoints points = points_of_fluid(liquid, number, fluid);
    const size_t real = points.place.size();
    close_sheets(points, now.surface);
    go_on_into(solids, points);
    FluidSkin one{number, skin_of(points, points.color, now.surface, has_bubbles(now, fluid))};
    if (!one.skin.depth.empty()) one.skin.depth.resize(real);
    if (!one.skin.mesh.triangles.empty()) out.push_back(std::move(one));
  }
  return out;
}

}  // namespace pour
