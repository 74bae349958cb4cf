#include "trace/path_tracer.h"
#include "base/light.h"

#include <atomic>
#include <cmath>
#include <cstring>
#include <numbers>
#include <type_traits>

#include "base/parallel.h"
#include "trace/given_back.h"
#include "trace/path.h"

namespace pour {
namespace {

/// From -1 to 1, as a tent over a pixel's neighbours.
float tent(float r) { return r < 0.5f ? std::sqrt(2 * r) - 1 : 1 - std::sqrt(2 - 2 * r); }

}  // namespace

Vec3f TracedLabel::over(const Vec3f& under, const Vec3f& at, const Vec3f& normal,
                        const std::array<float, 2>& uv) const {
  if (place == LabelPlace::uv) return picture->texture(uv[0], uv[1]).over(under);
  const float wide = height * float(picture->width) / float(picture->height);
  float x = at.x * std::cos(turn) - at.z * std::sin(turn);  // to the right of the side that it is on
  const float toward = at.x * std::sin(turn) + at.z * std::cos(turn);
  if (place == LabelPlace::around)
    x = radius * std::atan2(x, toward);
  else if (normal.x * std::sin(turn) + normal.z * std::cos(turn) <= 0.05f)
    return under;
  const float u = 0.5f + x / wide, v = 0.5f - (at.y - middle) / height;
  if (u < 0 || u > 1 || v < 0 || v > 1) return under;
  Paint paint;
  picture->sample(u, v, false, paint.rgba);
  return paint.over(under);
}

PathTracer::PathTracer(TracedSet set, int width, int height, bool each_light)
    : scene_(std::make_unique<Scene>(std::move(set), double(width) / height)),
      width_(width),
      height_(height),
      pixels_(size_t(width) * size_t(height)) {
  if (!each_light) return;
  kept_lights_ = 1 + scene_->set.look.lights.size();
  of_lights_.resize(2 * kept_lights_ * pixels_.size());
}
PathTracer::~PathTracer() = default;
PathTracer::PathTracer(PathTracer&&) noexcept = default;

void PathTracer::trace(int x, int y, int sample, Pixel& pixel, Vec3f* of_lights, uint64_t& rays) const {
  const Camera& camera = scene_->set.camera;
  const uint32_t number = uint32_t(y) * uint32_t(width_) + uint32_t(x);
  Path path{*scene_, Sampler(number, uint32_t(sample)), pixel, of_lights};
  const Pair u = path.random.two(), v = path.random.two();
  const float px = (float(x) + 0.5f + tent(u.x)) / float(width_) * 2 - 1,
              py = 1 - (float(y) + 0.5f + tent(u.y)) / float(height_) * 2;
  if (scene_->set.blurs) path.time = path.random.one();
  View view = scene_->view;
  if (scene_->set.camera_moves && scene_->set.blurs) {
    const View &a = scene_->opened, &b = scene_->closed;
    const auto between = [t = path.time](const Vec3f& p, const Vec3f& q) { return p * (1 - t) + q * t; };
    view.eye = between(a.eye, b.eye), view.forward = normalized(between(a.forward, b.forward));
    view.right = between(a.right, b.right), view.up = between(a.up, b.up);
    view.half_width = a.half_width + (b.half_width - a.half_width) * path.time;
    view.half_height = a.half_height + (b.half_height - a.half_height) * path.time;
  }
  path.from = view.eye, path.way = view.ray(px, py), path.inside = scene_->around_eye;
  if (camera.f_number > 0) {
    const float lens = float(camera.focal / (2 * camera.f_number));
    const float sharp = float(camera.focus > 0 ? camera.focus : camera.distance);
    const Vec3f target = view.eye + path.way * (sharp / dot(path.way, view.forward));
    const float r = lens * std::sqrt(v.x);
    path.from += view.right * (r * std::cos(2 * pi * v.y)) + view.up * (r * std::sin(2 * pi * v.y));
    path.way = normalized(target - path.from);
  }
  const Vec3f light = path.follow();
  pixel.light[sample & 1] += light, pixel.light_squared += light * light;
  pixel.through += path.through;
  rays += path.rays;
}

bool PathTracer::add(int samples, const std::function<bool()>& keep_going) {
  std::vector<Pixel> more = pixels_;
  std::vector<Vec3f> of_lights = of_lights_;
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
        for (int x = 0; x < width_ && !stopped; ++x) {
          // Asked within a row, too: it may take seconds through fine smoke.
          constexpr int often = 32;  // pixels
          if (x % often == often - 1 && keep_going && !keep_going()) stopped = true;
          const size_t i = y * size_t(width_) + size_t(x);
          Vec3f* kept = kept_lights_ ? &of_lights[i * 2 * kept_lights_] : nullptr;
          for (int n = samples_; n < samples_ + samples; ++n) trace(x, int(y), n, more[i], kept, rays[y]);
        }
      },
      1);
  if (stopped) return false;
  pixels_ = std::move(more), of_lights_ = std::move(of_lights), samples_ += samples;
  for (const uint64_t r : rays) rays_ += r;
  return true;
}

std::string PathTracer::paths() const {
  static_assert(std::is_trivially_copyable_v<Pixel>);
  const uint64_t head[] = {uint64_t(samples_), rays_, pixels_.size(), of_lights_.size()};
  std::string out(reinterpret_cast<const char*>(head), sizeof head);
  out.append(reinterpret_cast<const char*>(pixels_.data()), pixels_.size() * sizeof(Pixel));
  out.append(reinterpret_cast<const char*>(of_lights_.data()), of_lights_.size() * sizeof(Vec3f));
  return out;
}

bool PathTracer::set_paths(const std::string& bytes) {
  uint64_t head[4];
  const size_t pixels = pixels_.size() * sizeof(Pixel), lights = of_lights_.size() * sizeof(Vec3f);
  if (bytes.size() != sizeof head + pixels + lights) return false;
  std::memcpy(head, bytes.data(), sizeof head);
  if (head[2] != pixels_.size() || head[3] != of_lights_.size()) return false;
  samples_ = int(head[0]), rays_ = head[1];
  std::memcpy(pixels_.data(), bytes.data() + sizeof head, pixels);
  if (lights) std::memcpy(of_lights_.data(), bytes.data() + sizeof head + pixels, lights);
  return true;
}

Grainy PathTracer::grainy() const {
  Grainy g{width_, height_};
  const float halves[2] = {float((samples_ + 1) / 2), float(samples_ / 2)}, n = float(samples_);
  for (const Pixel& p : pixels_) {
    for (int k = 0; k < 2; ++k) g.half[k].push_back(p.light[k] / halves[k]);
    const Vec3f light = (p.light[0] + p.light[1]) / n;
    g.variance.push_back(max(Vec3f{}, p.light_squared / n - light * light) / std::max(1.f, n - 1));
    // Brighter values count as white.
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

std::vector<float> PathTracer::receiving() const {
  std::vector<float> out;
  out.reserve(pixels_.size());
  for (const Pixel& p : pixels_) out.push_back(p.receives);
  return out;
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
  std::vector<Vec3f> cut;
  for (const Pixel& p : pixels_) cut.push_back(p.cut / float(std::max(1, samples_)));
  cut = given_back(cut, receiving(), width_, height_);
  for (size_t i = 0; i < pixels_.size(); ++i)
    for (int c = 0; c < 3; ++c) out.rgb[3 * i + size_t(c)] += cut[i][c];
  const Look& look = scene_->set.look;
  const float exposure = float(std::exp2(look.exposure));
  for (float& v : out.rgb) v *= exposure;
  add_halo(out, float(look.halo));
  out.contrast = float(look.contrast);
  if (scene_->lights.transparent()) out.alpha = alpha();
  return out;
}

std::vector<float> PathTracer::alpha() const {
  std::vector<float> out(pixels_.size(), 1.f);
  if (scene_->lights.transparent())
    for (size_t i = 0; i < pixels_.size(); ++i)
      out[i] = std::clamp(1 - pixels_[i].through / float(std::max(1, samples_)), 0.f, 1.f);
  return out;
}

float PathTracer::noise() const {
  double deviation = 0, all = 0;
  const float n = float(samples_), exposure = float(std::exp2(scene_->set.look.exposure));
  for (const Pixel& p : pixels_) {
    const Vec3f light = (p.light[0] + p.light[1]) / n;
    const Vec3f variance = max(Vec3f{}, p.light_squared / n - light * light) / std::max(1.f, n - 1);
    // Values brighter than white are shown as white.
    deviation += std::sqrt(double(luminance(variance))) *
                 double(std::min(exposure, 1 / std::max(1e-6f, luminance(light))));
    all += double(std::min(1.f, exposure * luminance(light)));
  }
  return all > 0 ? float(deviation / all) : 0;
}

std::vector<Image> PathTracer::of_lights(bool without_grain) const {
  const size_t n = pixels_.size();
  std::vector<std::vector<Vec3f>> mean(kept_lights_, std::vector<Vec3f>(n)), cut = mean;
  for (size_t k = 0; k < kept_lights_; ++k)
    for (size_t i = 0; i < n; ++i)
      for (auto* part : {&mean, &cut})
        (*part)[k][i] =
            of_lights_[(2 * i + (part == &cut)) * kept_lights_ + k] / float(std::max(1, samples_));
  std::vector<Image> out;
  if (without_grain && samples_ >= 2 && kept_lights_) {
    out = denoised_alike(grainy(), std::move(mean));
  } else {
    for (const std::vector<Vec3f>& one : mean) {
      Image image{width_, height_, {}};
      for (const Vec3f& v : one) image.rgb.insert(image.rgb.end(), {v.x, v.y, v.z});
      out.push_back(std::move(image));
    }
  }
  const std::vector<float> weight = receiving();
  for (size_t k = 0; k < kept_lights_; ++k) {
    const std::vector<Vec3f> back = given_back(cut[k], weight, width_, height_);
    for (size_t i = 0; i < n; ++i)
      for (int c = 0; c < 3; ++c) out[k].rgb[3 * i + size_t(c)] += back[i][c];
  }
  const float exposure = float(std::exp2(scene_->set.look.exposure));
  for (Image& image : out)
    for (float& v : image.rgb) v *= exposure;
  return out;
}

DataPasses PathTracer::data() const {
  const size_t n = pixels_.size();
  DataPasses out;
  out.depth.resize(n), out.normal.resize(n), out.position.resize(n), out.velocity.resize(n);
  out.piece.resize(n), out.fluid.resize(n);
  parallel_for(size_t(height_), [&](size_t y) {
    for (int x = 0; x < width_; ++x) {
      const View& view = scene_->view;
      const Vec3f way =
          view.ray((float(x) + 0.5f) / float(width_) * 2 - 1, 1 - (float(y) + 0.5f) / float(height_) * 2);
      const auto hit = scene_->meet(view.eye, way, 1e30f);
      if (!hit) continue;
      const size_t i = y * size_t(width_) + size_t(x);
      out.depth[i] = dot(hit->at - view.eye, view.forward), out.position[i] = hit->at;
      out.normal[i] = hit->normal;
      if (hit->body < 0) continue;
      const TracedBody& b = scene_->set.bodies[size_t(hit->body)];
      out.piece[i] = float(b.piece), out.fluid[i] = float(b.fluid);
      if (!b.velocity.empty()) {
        const auto& t = b.surface->mesh.triangles[hit->triangle];
        out.velocity[i] = b.velocity[size_t(t[0])] * (1 - hit->u - hit->v) +
                          b.velocity[size_t(t[1])] * hit->u + b.velocity[size_t(t[2])] * hit->v;
      } else if (b.moves && scene_->set.span > 0) {
        const Vec3d own = b.pose.inverse(to<double>(hit->at));
        out.velocity[i] = to<float>(b.after_it * own - b.before_it * own) / float(scene_->set.span);
      }
    }
  });
  return out;
}

}  // namespace pour
