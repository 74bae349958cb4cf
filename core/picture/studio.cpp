#include "picture/studio.h"

#include <cmath>

namespace pour {
namespace {

using namespace studio;

float smoothstep(float from, float to, float x) {
  const float t = std::clamp((x - from) / (to - from), 0.f, 1.f);
  return t * t * (3 - 2 * t);
}

float schlick(float base, float cosine) {
  const float s = 1 - std::clamp(cosine, 0.f, 1.f), s2 = s * s;
  return base + (1 - base) * s2 * s2 * s;
}

}  // namespace

std::vector<StudioLight> studio_lights(const Look& look) {
  std::vector<StudioLight> out;
  for (const Light& l : look.lights) {
    if (l.kind == LightKind::room || l.strength <= 0 || int(out.size()) == most_studio_lights) continue;
    const Vec3d way = l.position - l.aim;
    const Vec3f toward = l.kind != LightKind::spot ? direction_to(l.azimuth, l.elevation)
                         : length(way) > 0         ? to<float>(normalized(way))
                                                   : Vec3f{0, 1, 0};
    out.push_back({toward, rgb(color_of(l)) * float(l.strength)});
  }
  return out;
}

Studio::Studio(const Look& look, const Camera& camera, const View& view)
    : lights(studio_lights(look)),
      back(rgb(look.backdrop_color)),
      solid(rgb(look.solid)),
      forward(view.forward),
      target(to<float>(camera.target)),
      pool(26 / (view.half_width * view.half_width * 8 + 0.2f)),
      distance(float(camera.distance)),
      glass(float(look.glass)),
      floor(look.floor) {}

Vec3f Studio::backdrop(const Vec3f& direction) const {
  return back * (pool_low + pool_high * std::exp(-(1 - dot(direction, forward)) * pool));
}

Vec3f Studio::mirrored(const Vec3f& n, const Vec3f& to_eye) const {
  const float cosine = std::clamp(dot(n, to_eye), 0.f, 1.f);
  const Vec3f r = n * (2 * cosine) - to_eye;
  Vec3f seen = back * (room_low + room_high * std::max(0.f, r.y));
  for (const StudioLight& l : lights)
    seen += l.color * (box_light * smoothstep(box_from, box_full, dot(r, l.toward)));
  return seen * std::min(glass_most, schlick(glass_base, cosine));
}

Vec3f Studio::wet_light(const Vec3f& n, const Vec3f& to_eye, const Vec3f& color) const {
  return solid_light(n, to_eye, color) + mirrored(n, to_eye);
}

Vec3f Studio::solid_light(const Vec3f& n, const Vec3f& to_eye, const Vec3f& base) const {
  Vec3f sum = base * (0.35f + 0.65f * std::max(0.f, n.y));
  for (const StudioLight& l : lights)
    sum += base * l.color * (lit * std::max(0.f, dot(n, l.toward))) +
           l.color * (sheen * std::pow(std::abs(dot(n, normalized(l.toward + to_eye))), sheen_power));
  return sum;
}

Studio::Mirror Studio::mirror(const Vec3f& eye, const Vec3f& hit, const Vec3f& d) const {
  // Mirrored objects are assumed to stand near the camera's target.
  const Vec3f level = normalized(Vec3f{forward.x, 0, forward.z});
  const float along = std::max(0.f, dot(target - hit, level) / std::max(1e-3f, dot(d, level)));
  const float height = along * d.y;
  return {floor_spread * height, length(hit - eye) + along, std::exp(-height / (floor_fade * distance))};
}

Vec3f Studio::floor_light(const Vec3f& hit, const Vec3f& direction, const Vec3f& image,
                          const Vec3f& behind) const {
  const Vec3f off = hit - Vec3f{target.x, 0, target.z};
  const float fade = std::exp(-dot(off, off) / (distance * distance * 1.2f));
  const Vec3f light = back * (ground_low + ground_high * fade) +
                      image * std::min(floor_most, schlick(floor_base, -direction.y));
  return light * fade + behind * (1 - fade);
}

}  // namespace pour
