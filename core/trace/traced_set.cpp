#include "trace/traced_set.h"

#include <cmath>
#include <numbers>

#include "base/text.h"
#include "picture/lit_smoke.h"
#include "picture/quick_picture.h"
#include "picture/smoke_look.h"
#include "shape/pose.h"
#include "shot/animate.h"
#include "trace/cloudy.h"
#include "trace/kept_skins.h"
#include "trace/lights.h"

namespace pour {
namespace {

constexpr float no_edge = 3.2f;       // rad: a liquid is smooth all over
constexpr double glass_depth = 0.05;  // m of glass that have its colour

/// Absorption with which white light has the colour after `depth` (Beer–Lambert).
Vec3f absorption(const Vec3f& color, double depth) {
  const auto one = [&](float c) { return float(-std::log(std::clamp(c, 1e-3f, 1.f)) / depth); };
  return {one(color.x), one(color.y), one(color.z)};
}

void make_of(const Material& m, TracedBody& b) {
  b.substance = m.substance(), b.roughness = float(m.roughness), b.index = float(m.index);
  b.color = rgb(m.color);
  if (b.substance == Substance::glass) b.absorption = absorption(b.color, glass_depth), b.color = {1, 1, 1};
}

TracedBody body_of(const PicturePiece& seen, const Piece& piece, const Shot& shot) {
  TracedBody b;
  b.surface = seen.surface, b.pose = seen.pose;
  Material as_look;
  as_look.color = shot.look.solid, as_look.roughness = 0.45;
  const Material* named = shot.material(piece.material.id);
  const Material& m = named ? *named : as_look;
  make_of(m, b);
  b.relief = float(m.relief), b.relief_size = float(m.relief_size);
  if (piece.holds) {
    b.substance = Substance::glass, b.roughness = 0, b.index = 1.5f, b.thin = true, b.color = {1, 1, 1};
    b.absorption = {};
  } else if (b.substance == Substance::glass) {
    b.before = 1;
  }
  return b;
}

LightBits lights_on(const std::vector<Light>& lights, const std::string& id) {
  LightBits out = 0;
  for (size_t i = 0; i < lights.size() && i < size_t(most_lights); ++i)
    if (lights[i].shines_on.has(id)) out |= 1u << i;
  return out;
}

std::shared_ptr<const TracedLabel> label_of(const Piece& piece, const Surface& surface) {
  if (piece.label.picture.content().empty() || (piece.label.place == LabelPlace::uv && surface.uv.empty()))
    return nullptr;
  auto out = std::make_shared<TracedLabel>();
  out->picture =
      unpack_picture(piece.label.picture.bytes, filled("Piece “{name}”: label", {{"name", piece.name}}));
  out->place = piece.label.place;
  out->height = float(piece.label.height), out->middle = float(piece.label.middle);
  out->turn = float(piece.label.turn);
  for (const bool all : {false, true})
    for (const Vec3f& p : surface.mesh.points)
      if (out->radius == 0 || !all)
        if (all || std::abs(p.y - out->middle) <= out->height / 2)
          out->radius = std::max(out->radius, std::hypot(p.x, p.z));
  return out;
}

/// Optical class of a liquid's material.
struct LiquidLook {
  Substance substance = Substance::glass;
  float roughness = 0;
  Clearness clear;
};

LiquidLook look_of(const Liquid& fluid, const Material* m) {
  constexpr float opaque_roughness = 0.22f;
  if (m) return {m->substance(), float(m->roughness), {Clarity::clear, glass_depth, m->index}};
  const Clearness clear = clearness_of(fluid);
  if (clear.clarity == Clarity::opaque) return {Substance::coated, opaque_roughness, clear};
  return {Substance::glass, 0, clear};
}

TracedBody body_of(const LiquidPoints& points, const LiquidLook& look, Skin& skin) {
  Vec3f mean;
  for (const Vec3f& c : points.color) mean += c;
  mean = mean / float(std::max<size_t>(1, points.color.size()));
  TracedBody b;
  b.touches = float(1.2 * points.cell_size);
  b.substance = look.substance, b.roughness = look.roughness, b.index = float(look.clear.index);
  b.velocity = std::move(skin.velocity);
  if (b.substance != Substance::glass) {
    b.surface = std::make_shared<const Surface>(std::move(skin.mesh), std::move(skin.colors), no_edge);
    return b;
  }
  b.color = {1, 1, 1};
  const bool is_clear = look.clear.clarity == Clarity::clear;
  const CloudySurface surface(b.index);
  const auto within = [&](const Vec3f& color) {
    return is_clear ? absorption(color, look.clear.depth) : surface.albedo(color);
  };
  (is_clear ? b.absorption : b.albedo) = within(mean);
  if (!is_clear) b.scattering = float(1 / look.clear.depth);
  constexpr float alike = 0.004f;
  b.varies = std::any_of(skin.colors.begin(), skin.colors.end(),
                         [&](const Vec3f& c) { return length(c - mean) > alike; });
  if (b.varies)
    for (Vec3f& c : skin.colors) c = within(c);
  else
    skin.colors.clear();
  b.surface = std::make_shared<const Surface>(std::move(skin.mesh), std::move(skin.colors), no_edge);
  return b;
}

/// Bubbles of air that particles carry along: some of them by their number, always the same.
TracedBody bubbles_of(const LiquidPoints& points, const Liquid& fluid, const std::vector<float>& depth) {
  constexpr float least = 0.3f;  // of the largest
  const float largest = float(fluid.bubble_size / 2);
  // The mean of r³ where r is anything from the least to the largest.
  const float cubes = largest * largest * largest * (1 - least * least * least * least) / (4 * (1 - least));
  const double of_particle = particle_volume(points.cell_size);
  const double share = fluid.bubbles * of_particle / (4.0 / 3 * std::numbers::pi * double(cubes));
  static const Mesh ball = ball_mesh(1, 2);
  Mesh all;
  TracedBody b;
  for (size_t i = 0; i < points.place.size(); ++i) {
    Sampler chance(points.id[i], 0);
    if (double(chance.one()) >= share) continue;
    const float r = largest * (least + (1 - least) * chance.one());
    if (depth[i] < 1.15f * r) continue;  // it would break the surface
    Mesh one = ball;
    for (Vec3f& p : one.points) p = p * r + points.place[i];
    all.append(one);
    b.velocity.insert(b.velocity.end(), one.points.size(), points.velocity[i]);
  }
  b.surface = std::make_shared<const Surface>(std::move(all), std::vector<Vec3f>(), no_edge);
  b.substance = Substance::glass, b.roughness = 0, b.index = 1, b.color = {1, 1, 1}, b.before = 2;
  return b;
}

void add_liquids(const Shot& shot, const LiquidPoints& liquid, std::vector<FluidSkin> skins,
                 std::vector<TracedBody>& bodies) {
  const FluidColors colors = colors_of_materials(shot);
  for (FluidSkin& one : skins) {
    const Liquid fluid = liquid_of(shot, one.fluid);
    const std::string id = size_t(one.fluid) < shot.fluids.size() ? shot.fluids[size_t(one.fluid)].id : "";
    LiquidPoints points = points_of_fluid(liquid, one.fluid, fluid);
    if (size_t(one.fluid) < colors.size() && colors[size_t(one.fluid)]) {
      color_by_materials(colors, points);
      std::fill(one.skin.colors.begin(), one.skin.colors.end(), *colors[size_t(one.fluid)]);
    }
    TracedBody b = body_of(points, look_of(fluid, shot.material(fluid.material.id)), one.skin);
    b.fluid = one.fluid + 1, b.lit_by = lights_on(shot.look.lights, id);
    bodies.push_back(std::move(b));
    if (!has_bubbles(shot, fluid)) continue;
    TracedBody air = bubbles_of(points, fluid, one.skin.depth);
    air.fluid = one.fluid + 1;
    if (!air.surface->mesh.triangles.empty()) bodies.push_back(std::move(air));
  }
}

}  // namespace

namespace {

/// The shot in the middle of an exposure, and a little before and after: as long as the shutter is open, if
/// it is at all.
struct Moments {
  Moments(const Shot& shot, double frame) : now(shot_at(shot, frame)) {
    const double open = now.camera.shutter / (360 * degree), half = (open > 0 ? open : 0.02) / 2;
    const Clock clock(shot);
    before = shot_at(shot, frame - half), after = shot_at(shot, frame + half);
    blurs = open > 0, span = clock.time(frame + half) - clock.time(frame - half);
  }
  Shot now, before, after;
  bool blurs;
  double span;
};

void look_through(TracedSet& set, const Moments& m) {
  set.camera = m.now.camera, set.before_it = m.before.camera, set.after_it = m.after.camera;
  set.camera_moves = !(m.before.camera == m.after.camera);
  set.blurs = m.blurs, set.span = m.span;
}

}  // namespace

namespace {

SmokeOptics optics_of(const Look& look, const TracedSet& set, double time) {
  SmokeOptics o;
  o.thickness = float(look.thickness), o.tint = tint_of(look.shade);
  o.forward = float(look.forward);
  o.shine = rgb(look.shine_color) * float(look.shine), o.shine_by = look.shine_by;
  o.far_density = float(look.far_density), o.far_heat = float(look.far_heat);
  o.breakup = float(look.breakup), o.breakup_size = float(look.breakup_size);
  o.span = set.blurs ? float(set.span) : 0, o.clock = float(time);
  return o;
}

}  // namespace

void look_through(TracedSet& set, const Shot& shot, double frame) { look_through(set, Moments(shot, frame)); }

TracedSet traced_set(const Shot& shot, double frame, const LiquidPoints& liquid,
                     std::vector<SmokeWalls::Sealed> smoke, std::optional<std::vector<FluidSkin>> skins) {
  const Moments moments(shot, frame);
  const Shot &now = moments.now, &before = moments.before, &after = moments.after;
  TracedSet out;
  out.look = now.look;
  look_through(out, moments);
  const std::vector<PicturePiece> pieces = picture_pieces(now);
  for (const PicturePiece& p : pieces) {
    const Piece* piece = now.piece(p.id);
    if (!piece) continue;
    TracedBody b = body_of(p, *piece, now);
    b.piece = int(piece - now.pieces.data()) + 1, b.lit_by = lights_on(now.look.lights, p.id);
    b.before_it = pose_of(before, *before.piece(p.id)), b.after_it = pose_of(after, *after.piece(p.id));
    b.moves = !(b.before_it == b.after_it);
    b.label = label_of(*piece, *b.surface);
    for (const auto& bytes : b.surface->textures)
      b.textures.push_back(unpack_picture(bytes, filled("Piece “{name}”: texture", {{"name", piece->name}})));
    out.bodies.push_back(std::move(b));
  }
  if (!skins) skins = skins_of(now, liquid, solids_of(now, pieces));
  add_liquids(now, liquid, std::move(*skins), out.bodies);
  const SmokeOptics optics = optics_of(now.look, out, Clock(shot).time(frame));
  for (SmokeWalls::Sealed& s : smoke) out.smoke.emplace_back(std::move(s), optics);
  out.smoke_lit_by = out.floor_lit_by = 0;
  for (size_t i = 0; i < now.look.lights.size() && i < size_t(most_lights); ++i) {
    const Links& on = now.look.lights[i].shines_on;
    if (on.ids.empty()) out.floor_lit_by |= 1u << i;
    for (const Fluid& f : now.fluids)
      if (f.as<Smoke>() && on.has(f.id)) out.smoke_lit_by |= 1u << i;
  }
  return out;
}

TracedSet traced_frame(const StoredFrame& stored, const Shot& shot, double frame, const SmokeWalls& walls) {
  std::vector<SmokeWalls::Sealed> smoke;
  const double time = Clock(shot).time(frame);
  const Shot now = shot_at(shot, frame);
  const bool flow = now.camera.shutter > 0 || now.look.breakup > 0 || needs_warmth(now.look);
  for (SmokeVolume& v : read_frame(stored, flow)) {
    color_smoke(v, now.look);
    smoke.push_back(walls.seal(std::move(v), time));
  }
  return traced_set(shot, frame, read_liquid(stored), std::move(smoke), kept_skins(stored, shot, frame));
}

}  // namespace pour
