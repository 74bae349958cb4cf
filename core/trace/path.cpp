#include "trace/path.h"
#include "base/light.h"

#include <cmath>
#include <numbers>

#include "trace/phase.h"

namespace pour {
namespace {

constexpr int ways_out = 4;    // that are followed from where a path is scattered first in a clear liquid
constexpr int most_forks = 2;  // at glass, where a path follows both its ways

float mean(const Vec3f& v) { return (v.x + v.y + v.z) / 3; }
float squared(float x) { return x * x; }
Vec3f exp_of(const Vec3f& v) { return {std::exp(v.x), std::exp(v.y), std::exp(v.z)}; }

}  // namespace

void PathTracer::Path::add(const Vec3f& l, bool asked_for, int number) {
  Vec3f more = left * l;
  const float most = largest(more);
  if (!std::isfinite(most)) return;
  if (scattered) {
    pixel.receives += std::min(1.f, largest(left));
    const float limit = (asked_for ? brightest : brightest_by_chance) * scene.lights.strength(number);
    if (most > limit) {
      const Vec3f kept = more * (limit / most);
      pixel.cut += more - kept;
      if (of_lights) of_lights[scene.set.look.lights.size() + 1 + size_t(number + 1)] += more - kept;
      more = kept;
    }
  }
  light += more;
  if (of_lights) of_lights[number + 1] += more;
}

void PathTracer::Path::note(const Vec3f& color, const Vec3f& normal, float depth) {
  if (noted) return;
  noted = true;
  pixel.color += color, pixel.normal += normal, pixel.depth += depth, pixel.met += 1;
  pixel.color_squared += dot(color, color), pixel.depth_squared += depth * depth;
}

/// Another path from here, with other numbers.
PathTracer::Path PathTracer::Path::branch(uint32_t which) const {
  Path other = *this;
  other.light = {}, other.rays = 0, other.through = 0, other.random = random.other(which);
  return other;
}

/// Follows it, as a part of this one.
void PathTracer::Path::join(Path& other) {
  light += other.follow();
  rays += other.rays, through += other.through;
}

void PathTracer::Path::escape() {
  const StudioLights& l = scene.lights;
  if (!scattered && seen != Seen::mirrored) {
    through += mean(left);
    if (!l.transparent()) add(l.backdrop(way, scene.view), false, -1);
    if (seen == Seen::bent)
      for (const auto& light : l.lights)
        if (light->distance(from, way) >= 1e30f) add(light->radiance(from, way), false, light->number);
    return;
  }
  float weight = 1;
  if (density > 0) {
    const float other = l.density(from, lit_by, way);
    weight = squared(density) / (squared(density) + squared(other));
  }
  for (const auto& f : l.fills)
    if (lit(f.number)) add(StudioLights::of_fill(f, way), density > 0, f.number);
  for (const auto& light : l.lights) {
    if (!lit(light->number) || light->distance(from, way) < 1e30f) continue;
    if (!light->small() && asked_within) continue;
    if (!light->small())
      add(light->radiance(from, way) * weight, density > 0, light->number);
    else if (!scattered)
      add(light->radiance(from, way), false, light->number);
  }
}

/// Bulbs are seen in mirrors and through glass; light that was scattered asks for theirs.
void PathTracer::Path::meet_bulbs(float end) {
  if (scattered || seen == Seen::straight) return;
  for (const auto& light : scene.lights.lights)
    if (lit(light->number) && light->distance(from, way) < end)
      add(light->radiance(from, way), false, light->number);
}

void PathTracer::Path::scatter(const Vec3f& albedo, float g) {
  left = left * albedo;
  scattered = true;
  if (const auto asked = scene.lights.sample(from, lit_by, false, random); asked.density > 0) {
    const bool small = asked.light->small();
    const float end = asked.light->distance(from, asked.toward), by_chance = phase(g, dot(way, asked.toward));
    const Vec3f part = scene.reaches({from, asked.toward, end, time, inside, small}, random, rays);
    if (small) {
      add(asked.light->radiance(from, asked.toward) * part * (by_chance / asked.density), true,
          asked.light->number);
    } else {
      const float weight = by_chance * asked.density / (squared(asked.density) + squared(by_chance));
      for (const auto& l : scene.lights.lights)
        if (lit(l->number) && !l->small())
          add(l->radiance(from, asked.toward) * part * weight, true, l->number);
    }
  }
  const Vec3f on = scattered_way(g, way, random.two());
  density = phase(g, dot(way, on));
  way = on;
}

bool PathTracer::Path::scatter_inside(int number, const std::optional<Hit>& hit) {
  const TracedBody& body = scene.set.bodies[size_t(number)];
  const float end = hit ? hit->t : 1e30f;
  float t = end;
  if (body.scattering > 0) t = std::min(end, -std::log(1 - random.one()) / body.scattering);
  const Vec3f absorption = body.absorption_between(shore == number ? &beside : nullptr,
                                                   hit && hit->body == number ? &hit->color : nullptr);
  if (largest(absorption) > 0 && t < 1e20f) left = left * exp_of(absorption * -t);
  if (t >= end) return false;
  from = from + way * t;
  note(body.color, -way, length(from - scene.view.eye));
  lit_by = body.lit_by;
  left = left * (body.varies && shore == number ? beside : body.albedo);
  scattered = asked_within = true, density = 0;
  ask_through_surface(number);
  way = scattered_way(0, way, random.two());
  return true;
}

void PathTracer::Path::ask_through_surface(int number) {
  const auto asked = scene.lights.sample(from, lit_by, false, random);
  if (asked.density <= 0) return;
  const auto hit = scene.meet(from, asked.toward, asked.light->distance(from, asked.toward), time);
  ++rays;
  if (!hit || hit->body != number || dot(asked.toward, hit->face) <= 0) return;
  Inside after = inside;
  after.leave(number);
  const TracedBody& body = scene.set.bodies[size_t(number)];
  const float eta = body.index / scene.index_of(after.first(scene.set.bodies));
  const float outside = std::max(0.02f, dot(asked.toward, hit->normal));  // cosines of both ways
  const float within = std::sqrt(std::max(1e-4f, 1 - (1 - squared(outside)) / squared(eta)));
  // Of a pencil of light from outside, what comes in and how wide it is there. Ways out spread by n², which
  // paths leave out.
  const float come_in = (1 - fresnel(outside, 1 / eta)) * outside / (within * squared(body.index));
  const float far = hit->t * outside / within;
  Vec3f part = exp_of((body.absorption + Vec3f{1, 1, 1} * body.scattering) * -far) *
               (come_in * phase(0, 0) / asked.density);
  if (largest(part * left) < 1e-5f) return;
  const bool small = asked.light->small();
  const float end = asked.light->distance(hit->at, asked.toward);
  part = part * scene.reaches({hit->at, asked.toward, end, time, after, small}, random, rays);
  if (small) return add(asked.light->radiance(from, asked.toward) * part, true, asked.light->number);
  for (const auto& l : scene.lights.lights)
    if (lit(l->number) && !l->small()) add(l->radiance(from, asked.toward) * part, true, l->number);
}

bool PathTracer::Path::scatter_in_smoke(float end) {
  float t = end;
  const TracedSmoke* met = nullptr;
  for (const TracedSmoke& s : scene.set.smoke) {
    if (s.empty()) continue;
    const float there = s.meet(from, way, t, time, random);
    if (there < t) t = there, met = &s;
  }
  if (!met) return false;
  from = from + way * t;
  noted = true;  // smoke has no edges that could be kept: it counts as clear
  lit_by = scene.set.smoke_lit_by, asked_within = false;
  if (met->shines()) add(met->shine(from, time), false, -1);
  scatter(met->albedo(from, time), met->forward());
  return true;
}

/// Through the surface of a body of glass, or back from it.
bool PathTracer::Path::cross(const Hit& h, const Bsdf& m) {
  const bool entering = dot(way, h.face) < 0;
  const auto& bodies = scene.set.bodies;
  const bool varies = bodies[size_t(h.body)].varies;
  const Vec3f color = varies ? Vec3f{1, 1, 1} : h.color;
  if (varies) shore = h.body, beside = h.color;
  const int within = inside.first(bodies);
  if (!m.thin()) {
    // A surface inside of a body that comes before is none.
    const bool hidden =
        within >= 0 && within != h.body && bodies[size_t(within)].before > bodies[size_t(h.body)].before;
    if (hidden) {
      entering ? inside.enter(h.body) : inside.leave(h.body);
      from = h.at;
      return true;
    }
  }
  if (!m.thin() && within != h.body) asked_within = false;  // no light that was asked for comes through it
  Inside after = inside;
  if (!m.thin()) entering ? after.enter(h.body) : after.leave(h.body);
  const int beyond = after.first(bodies);
  const float eta = m.thin() ? 1 / m.index() : scene.index_of(within) / scene.index_of(beyond);
  const Basis basis(entering ? h.normal : -h.normal);
  Vec3f out = basis.into(-way);
  if (out.z <= 1e-4f) out.z = 1e-4f, out = normalized(out);
  if (std::abs(eta - 1) < 1e-5f) {  // between liquids of one index nothing is seen
    inside = after, from = h.at;
    return true;
  }
  const auto go = [&](Path& path, const Scattering& s) {
    if (largest(s.weight) <= 0) return false;
    path.left = path.left * s.weight;
    path.from = h.at;
    if (m.thin()) {
      if (!s.through) path.seen = Seen::mirrored;
    } else if (s.through) {
      path.inside = after;
      if (path.seen != Seen::mirrored) path.seen = Seen::bent;
    } else if (within < 0) {
      path.seen = Seen::mirrored;
    }
    if (!(m.thin() && s.through)) path.density = 0;  // lights that were asked for don't come this way
    path.way = normalized(basis.from(s.in));
    return true;
  };
  if (forks < most_forks && !scattered &&
      m.smooth_glass()) {  // both ways, as far as the eye sees straight on
    ++forks;
    Path other = branch(uint32_t(100 + forks));
    ++other.turn;
    const bool both = go(other, m.one_way(out, color, eta, false));
    const bool on = go(*this, m.one_way(out, color, eta, true));
    if (both) {
      other.noted = noted || on;  // what is met first is what lies behind
      join(other);
    }
    return on;
  }
  return go(*this, m.sample(out, color, eta, random));
}

/// Direct light at a surface, in air or, for small lights, in a liquid.
void PathTracer::Path::ask_lights(const Hit& h, const Bsdf& m, const Basis& basis, const Vec3f& out) {
  const auto asked = scene.lights.sample(from, lit_by, !inside.empty(), random);
  const Vec3f in = basis.into(asked.toward);
  if (asked.density <= 0 || in.z <= 0 || dot(asked.toward, h.face) <= 0) return;
  float by_chance = 0;
  const Vec3f value = m.value(out, in, h.color, by_chance);
  if (largest(value) <= 0) return;
  const bool small = asked.light->small();
  const float end = asked.light->distance(from, asked.toward);
  const Vec3f part = value * scene.reaches({from, asked.toward, end, time, inside, small}, random, rays);
  if (small) {
    add(part * asked.light->radiance(from, asked.toward) / asked.density, true, asked.light->number);
    return;
  }
  const float weight = asked.density / (squared(asked.density) + squared(by_chance));
  for (const auto& l : scene.lights.lights)
    if (lit(l->number) && !l->small()) add(part * l->radiance(from, asked.toward) * weight, true, l->number);
}

/// For a shadow floor: the share of light blocked by objects. Returns true if the path continues to the
/// backdrop.
bool PathTracer::Path::catch_shadow(const Hit& h) {
  float sky = 0, sent = 0;
  lit_by = scene.set.floor_lit_by;
  for (const auto& f : scene.lights.fills)
    if (lit(f.number)) sky += mean(f.light);
  for (const auto& l : scene.lights.lights)
    if (lit(l->number)) sent += mean(l->irradiance) * std::max(0.f, l->toward.y);
  from = h.at;
  Vec3f part{1, 1, 1};
  if (random.one() * (sky + sent) < sky) {
    const Pair u = random.two();
    const float r = std::sqrt(u.x);
    const Vec3f up{r * std::cos(2 * pi * u.y), std::sqrt(std::max(0.f, 1 - u.x)), r * std::sin(2 * pi * u.y)};
    part = scene.reaches({from, up, 1e30f, time, {}, false}, random, rays);
  } else if (const auto asked = scene.lights.sample(from, lit_by, false, random);
             asked.density > 0 && asked.toward.y > 0) {
    const float end = asked.light->distance(from, asked.toward);
    part = scene.reaches({from, asked.toward, end, time, {}, asked.light->small()}, random, rays);
  }
  left = left * part;
  inside.clear();
  from.y = -1e-3f;
  noted = true;
  return largest(left) > 0;
}

bool PathTracer::Path::bounce(const Hit& h) {
  const bool floor = h.body < 0;
  const Bsdf& m = floor ? scene.floor
                  : inside.empty() || scene.bsdfs[size_t(h.body)].only_followed()
                      ? scene.bsdfs[size_t(h.body)]
                      : scene.under_liquid;
  if (!floor && m.only_followed()) return cross(h, m);
  if (floor)
    noted = true;  // it has no edges that could be kept
  else
    note(h.color, h.normal, length(h.at - scene.view.eye));
  if (floor && random.one() >= scene.floor_there(h.at)) {
    inside.clear();
    from = h.at, from.y = -1e-3f;  // beyond the floor there is only backdrop
    return true;
  }
  if (floor && !scattered && seen != Seen::mirrored && scene.set.look.floor_surface == FloorKind::shadows)
    return catch_shadow(h);
  if (dot(way, h.face) > 0) return false;  // the inside of a solid
  const Basis basis(h.normal);
  Vec3f out = basis.into(-way);
  if (out.z <= 1e-3f) out.z = 1e-3f, out = normalized(out);
  from = h.at;
  lit_by = floor ? scene.set.floor_lit_by : scene.set.bodies[size_t(h.body)].lit_by;
  scattered = true, asked_within = false;
  ask_lights(h, m, basis, out);
  const Scattering s = m.sample(out, h.color, 1, random);
  if (s.density <= 0 || largest(s.weight) <= 0) return false;
  way = normalized(basis.from(s.in));
  if (dot(way, h.face) <= 0) return false;
  left = left * s.weight;
  density = inside.empty() ? s.density : 0;
  return true;
}

/// Follows some more ways from where light is scattered first: those out of a liquid rarely meet a light.
void PathTracer::Path::split(int ways) {
  left = left / float(ways);
  split_up = true;
  for (int k = 1; k < ways; ++k) {
    Path other = branch(uint32_t(k));
    join(other);
  }
}

Vec3f PathTracer::Path::follow() {
  for (; turn < longest; ++turn) {
    const std::optional<Hit> hit = scene.meet(from, way, 1e30f, time);
    ++rays;
    const float end = hit ? hit->t : 1e30f;
    const int within = inside.first(scene.set.bodies);
    if (within >= 0 && !split_up && hit && scene.set.bodies[size_t(within)].scattering <= 0 &&
        (hit->body < 0 || !scene.bsdfs[size_t(hit->body)].only_followed()))
      split(ways_out);
    if (scene.bulbs && within < 0) meet_bulbs(end);
    const bool scattered_before = within >= 0 ? scatter_inside(within, hit) : scatter_in_smoke(end);
    if (!scattered_before) {
      if (!hit) {
        escape();
        break;
      }
      if (!bounce(*hit)) break;
    }
    if (turn >= 4) {  // paths that bring little end by chance
      // In white, cloudy liquid much of the light returns after a long path.
      const bool cloudy = within >= 0 && scene.set.bodies[size_t(within)].scattering > 0;
      const float go_on = std::min(cloudy ? 0.99f : 0.97f, largest(left));
      if (random.one() >= go_on) break;
      left = left / go_on;
    }
  }
  return light;
}

}  // namespace pour
