#include "trace/path_tracer.h"

#include <atomic>
#include <cmath>
#include <numbers>

#include "base/parallel.h"
#include "trace/scene.h"

namespace pour {
namespace {

constexpr int ways_out = 4;    // that are followed from where a path is scattered first in a liquid
constexpr int most_forks = 2;  // at glass, where a path follows both its ways
constexpr float pi = std::numbers::pi_v<float>;

float largest(const Vec3f& v) { return std::max({v.x, v.y, v.z}); }
float squared(float x) { return x * x; }
Vec3f exp_of(const Vec3f& v) { return {std::exp(v.x), std::exp(v.y), std::exp(v.z)}; }

Vec3f any_direction(Pair u) {
  const float z = 1 - 2 * u.x, r = std::sqrt(std::max(0.f, 1 - z * z));
  return {r * std::cos(2 * pi * u.y), r * std::sin(2 * pi * u.y), z};
}

/// The bodies that a path is in.
class Inside {
 public:
  bool empty() const { return count_ == 0; }
  void enter(int body) {
    if (count_ < most) body_[count_++] = body;
  }
  void leave(int body) {
    for (int i = count_ - 1; i >= 0; --i)
      if (body_[i] == body) {
        for (int k = i; k + 1 < count_; ++k) body_[k] = body_[k + 1];
        --count_;
        return;
      }
  }
  /// The one that comes before the others, or -1.
  int first(const std::vector<TracedBody>& all) const {
    int best = -1;
    for (int i = 0; i < count_; ++i)
      if (best < 0 || all[size_t(body_[i])].before > all[size_t(best)].before) best = body_[i];
    return best;
  }
  void clear() { count_ = 0; }

 private:
  static constexpr int most = 6;
  int body_[most] = {}, count_ = 0;
};

}  // namespace

/// One path from the eye.
struct PathTracer::Path {
  const Scene& scene;
  Sampler random;
  Pixel& pixel;  // to which what is met first is added
  uint64_t rays = 0;

  Vec3f from{}, way{};
  Vec3f light{}, left{1, 1, 1};  // what came in; of light from further on, what comes to the eye
  Inside inside{};
  enum class Seen { straight, bent, mirrored } seen = Seen::straight;
  bool scattered = false, noted = false, split_up = false;
  int turn = 0, forks = 0;
  float density = 0;  // of the last direction, where lights were asked for too; otherwise 0

  Vec3f follow();

 private:
  void split(int ways);
  void add(const Vec3f& l, bool asked_for) {
    const Vec3f more = left * l;
    const float most = largest(more);
    if (!std::isfinite(most)) return;
    const float limit = !scattered ? 1e30f : asked_for ? brightest : brightest_by_chance;
    light += most > limit ? more * (limit / most) : more;
  }
  void note(const Vec3f& color, const Vec3f& normal, float depth) {
    if (noted) return;
    noted = true;
    pixel.color += color, pixel.normal += normal, pixel.depth += depth, pixel.met += 1;
    pixel.color_squared += dot(color, color), pixel.depth_squared += depth * depth;
  }
  void escape();
  bool scatter_inside(int body, float end);
  bool scatter_in_smoke(float end);
  void scatter_all_round(const Vec3f& albedo, bool lights);
  bool bounce(const Hit&);
  bool cross(const Hit&, const Material&);
};

void PathTracer::Path::escape() {
  const StudioLights& l = scene.lights;
  if (!scattered && seen != Seen::mirrored) {
    add(l.studio.backdrop(way), false);
    if (seen == Seen::bent) add(l.of_boxes(way), false);
    return;
  }
  float weight = 1;
  if (density > 0) {
    const float other = l.density(way);
    weight = squared(density) / (squared(density) + squared(other));
  }
  add(l.room(way) + l.of_boxes(way) * weight, density > 0);
}

void PathTracer::Path::scatter_all_round(const Vec3f& albedo, bool lights) {
  left = left * albedo;
  scattered = true, density = 0;
  if (lights) {
    float there = 0;
    const Vec3f toward = scene.lights.sample(random, there);
    if (there > 0) {
      const float by_chance = 1 / (4 * pi), weight = squared(there) / (squared(there) + squared(by_chance));
      add(scene.lights.of_boxes(toward) * scene.reaches(from, toward, random, rays) *
              (by_chance * weight / there),
          true);
    }
    density = 1 / (4 * pi);
  }
  way = any_direction(random.two());
}

bool PathTracer::Path::scatter_inside(int number, float end) {
  const TracedBody& body = scene.set.bodies[size_t(number)];
  float t = end;
  if (body.scattering > 0) t = std::min(end, -std::log(1 - random.one()) / body.scattering);
  if (largest(body.absorption) > 0 && t < 1e20f) left = left * exp_of(body.absorption * -t);
  if (t >= end) return false;
  from = from + way * t;
  note(body.color, -way, length(from - scene.view.eye));
  scatter_all_round(body.albedo, false);
  return true;
}

bool PathTracer::Path::scatter_in_smoke(float end) {
  float t = end;
  const TracedSmoke* met = nullptr;
  for (const TracedSmoke& s : scene.set.smoke) {
    if (s.empty()) continue;
    const float there = s.meet(from, way, t, random);
    if (there < t) t = there, met = &s;
  }
  if (!met) return false;
  from = from + way * t;
  noted = true;  // smoke has no edges that could be kept: it counts as clear
  const Vec3f albedo = met->albedo(from);
  scatter_all_round(albedo, true);
  return true;
}

/// Through the surface of a body of glass, or back from it.
bool PathTracer::Path::cross(const Hit& h, const Material& m) {
  const bool entering = dot(way, h.face) < 0;
  const auto& bodies = scene.set.bodies;
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
  Inside after = inside;
  if (!m.thin()) entering ? after.enter(h.body) : after.leave(h.body);
  const int beyond = after.first(bodies);
  const auto index = [&](int body) { return body < 0 ? 1.f : bodies[size_t(body)].index; };
  const float eta = m.thin() ? 1 / m.index() : index(within) / index(beyond);
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
    Path other = *this;
    other.light = {}, other.rays = 0, other.random = random.other(uint32_t(100 + forks)), ++other.turn;
    const bool both = go(other, m.one_way(out, h.color, eta, false));
    const bool on = go(*this, m.one_way(out, h.color, eta, true));
    if (both) {
      other.noted = noted || on;  // what is met first is what lies behind
      light += other.follow(), rays += other.rays;
    }
    return on;
  }
  return go(*this, m.sample(out, h.color, eta, random));
}

bool PathTracer::Path::bounce(const Hit& h) {
  const Material& m = h.body < 0 ? scene.floor
                      : inside.empty() || scene.materials[size_t(h.body)].only_followed()
                          ? scene.materials[size_t(h.body)]
                          : scene.under_liquid;
  if (m.only_followed()) return cross(h, m);
  if (h.body < 0)
    noted = true;  // it has none either
  else
    note(h.color, h.normal, length(h.at - scene.view.eye));
  if (h.body < 0 && random.one() >= scene.floor_there(h.at)) {
    inside.clear();
    from = h.at, from.y = -1e-3f;  // beyond the floor there is only backdrop
    return true;
  }
  if (dot(way, h.face) > 0) return false;  // the inside of a solid
  const Basis basis(h.normal);
  Vec3f out = basis.into(-way);
  if (out.z <= 1e-3f) out.z = 1e-3f, out = normalized(out);
  from = h.at;
  const bool in_air = inside.empty();
  scattered = true;
  if (in_air && !scene.lights.boxes.empty()) {
    float there = 0, by_chance = 0;
    const Vec3f toward = scene.lights.sample(random, there), in = basis.into(toward);
    if (there > 0 && in.z > 0 && dot(toward, h.face) > 0) {
      const Vec3f v = m.value(out, in, h.color, by_chance);
      const Vec3f l = scene.lights.of_boxes(toward);
      if (largest(v * l) > 0)
        add(v * l * scene.reaches(from, toward, random, rays) *
                (there / (squared(there) + squared(by_chance))),
            true);
    }
  }
  const Scattering s = m.sample(out, h.color, 1, random);
  if (s.density <= 0 || largest(s.weight) <= 0) return false;
  way = normalized(basis.from(s.in));
  if (dot(way, h.face) <= 0) return false;
  left = left * s.weight;
  density = in_air ? s.density : 0;
  return true;
}

/// Follows some more ways from where light is scattered first: those out of a liquid rarely meet a light.
void PathTracer::Path::split(int ways) {
  left = left / float(ways);
  split_up = true;
  const Vec3f before = light;
  Vec3f sum{};
  for (int k = 1; k < ways; ++k) {
    Path other = *this;
    other.light = {}, other.rays = 0, other.random = random.other(uint32_t(k));
    sum += other.follow();
    rays += other.rays;
  }
  light = before + sum;
}

Vec3f PathTracer::Path::follow() {
  for (; turn < longest; ++turn) {
    const std::optional<Hit> hit = scene.meet(from, way, 1e30f);
    ++rays;
    const float end = hit ? hit->t : 1e30f;
    const int within = inside.first(scene.set.bodies);
    if (within >= 0 && !split_up && hit &&
        (hit->body < 0 || !scene.materials[size_t(hit->body)].only_followed() ||
         scene.set.bodies[size_t(within)].scattering > 0))
      split(ways_out);
    const bool scattered_before = within >= 0 ? scatter_inside(within, end) : scatter_in_smoke(end);
    if (!scattered_before) {
      if (!hit) {
        escape();
        break;
      }
      if (!bounce(*hit)) break;
    }
    if (turn >= 4) {  // paths that bring little end by chance
      const float go_on = std::min(0.97f, largest(left));
      if (random.one() >= go_on) break;
      left = left / go_on;
    }
  }
  return light;
}

PathTracer::PathTracer(TracedSet set, int width, int height)
    : scene_(std::make_unique<Scene>(std::move(set), double(width) / height)),
      width_(width),
      height_(height),
      pixels_(size_t(width) * size_t(height)) {}
PathTracer::~PathTracer() = default;
PathTracer::PathTracer(PathTracer&&) noexcept = default;

bool PathTracer::add(int samples, const std::function<bool()>& keep_going) {
  const View& view = scene_->view;
  const Camera& camera = scene_->set.camera;
  const float lens = camera.f_number > 0 ? float(camera.focal / (2 * camera.f_number)) : 0;
  const float sharp = float(camera.focus > 0 ? camera.focus : camera.distance);
  std::vector<Pixel> more = pixels_;
  std::vector<uint64_t> rays(size_t(height_), 0);
  std::atomic<bool> stopped{false};
  parallel_for(
      size_t(height_),
      [&](size_t y) {
        if (stopped) return;
        if (keep_going && !keep_going()) {
          stopped = true;
          return;
        }
        for (int x = 0; x < width_; ++x) {
          const size_t i = y * size_t(width_) + size_t(x);
          for (int n = samples_; n < samples_ + samples; ++n) {
            Path path{*scene_, Sampler(uint32_t(i), uint32_t(n)), more[i]};
            const Pair u = path.random.two(), v = path.random.two();
            // A tent over the pixel's neighbours.
            const auto tent = [](float r) {
              return r < 0.5f ? std::sqrt(2 * r) - 1 : 1 - std::sqrt(2 - 2 * r);
            };
            const float px = (float(x) + 0.5f + tent(u.x)) / float(width_) * 2 - 1,
                        py = 1 - (float(y) + 0.5f + tent(u.y)) / float(height_) * 2;
            path.from = view.eye, path.way = view.ray(px, py);
            if (lens > 0) {
              const Vec3f target = view.eye + path.way * (sharp / dot(path.way, view.forward));
              const float r = lens * std::sqrt(v.x);
              path.from += view.right * (r * std::cos(2 * pi * v.y)) + view.up * (r * std::sin(2 * pi * v.y));
              path.way = normalized(target - path.from);
            }
            const Vec3f light = path.follow();
            more[i].light[n & 1] += light, more[i].light_squared += light * light;
            rays[y] += path.rays;
          }
        }
      },
      1);
  if (stopped) return false;
  pixels_ = std::move(more), samples_ += samples;
  for (const uint64_t r : rays) rays_ += r;
  return true;
}

Grainy PathTracer::grainy() const {
  Grainy g{width_, height_};
  const float halves[2] = {float((samples_ + 1) / 2), float(samples_ / 2)}, n = float(samples_);
  for (const Pixel& p : pixels_) {
    for (int k = 0; k < 2; ++k) g.half[k].push_back(p.light[k] / halves[k]);
    const Vec3f light = (p.light[0] + p.light[1]) / n;
    g.variance.push_back(max(Vec3f{}, p.light_squared / n - light * light) / std::max(1.f, n - 1));
    // What lies beyond counts as white.
    const float clear = n - p.met;
    Grainy::Feature f;
    f.color = (p.color + Vec3f{clear, clear, clear}) / n, f.normal = p.normal / n, f.depth = p.depth / n;
    f.color_variance = std::max(0.f, (p.color_squared + 3 * clear) / n - dot(f.color, f.color)) / n;
    f.normal_variance = std::max(0.f, p.met / n - dot(f.normal, f.normal)) / n;
    f.depth_variance = std::max(0.f, p.depth_squared / n - f.depth * f.depth) / n;
    g.features.push_back(f);
  }
  return g;
}

Image PathTracer::picture(bool without_grain) const {
  Image out{width_, height_, std::vector<float>(3 * pixels_.size())};
  if (without_grain && samples_ >= 2) {
    out = denoised(grainy());
  } else {
    for (size_t i = 0; i < pixels_.size(); ++i) {
      const Vec3f l = (pixels_[i].light[0] + pixels_[i].light[1]) / float(std::max(1, samples_));
      for (int c = 0; c < 3; ++c) out.rgb[3 * i + size_t(c)] = l[c];
    }
  }
  const float exposure = float(std::exp2(scene_->set.look.exposure));
  for (float& v : out.rgb) v *= exposure;
  add_halo(out, float(scene_->set.look.halo));
  return out;
}

}  // namespace pour
