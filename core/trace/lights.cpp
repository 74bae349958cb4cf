#include "trace/lights.h"
#include "base/light.h"

#include <cmath>
#include <numbers>

#include "base/error.h"
#include "base/text.h"
#include "picture/camera.h"

namespace pour {
namespace {

constexpr float soft = 0.16f;           // of a box's half width, where it fades
constexpr float usual = 2.2f;           // irradiance by π of a light of full strength
constexpr float small_light = 0.0154f;  // sr: within 4° around its middle
constexpr float sun_angle = 0.00465f;   // rad, from its middle to its rim
constexpr float rim_of_cone = 0.25f;    // of a spot's cone, where its light fades

float smooth(float t) {
  t = std::clamp(t, 0.f, 1.f);
  return t * t * (3 - 2 * t);
}

float fading(float x) { return smooth((1 - std::abs(x)) / soft); }  // 1 in the middle, 0 from 1 on

/// A direction within a cone around z, evenly.
Vec3f in_cone(Pair u, float least_cosine) {
  const float z = 1 - u.x * (1 - least_cosine), r = std::sqrt(std::max(0.f, 1 - z * z));
  return {r * std::cos(2 * pi * u.y), r * std::sin(2 * pi * u.y), z};
}

}  // namespace

SoftBox::SoftBox(const Vec3f& d, float wide, float high, const Vec3f& light)
    : basis_(d), wide_(wide), high_(high), small_(4 * wide * high < small_light) {
  irradiance = light, toward = d;
  const Vec3f up{0, 1, 0}, side = cross(up, d);
  if (length(side) > 1e-3f) basis_.x = normalized(side), basis_.y = cross(d, basis_.x);
  // Irradiance of a facing surface for a radiance of 1: ∫ cosine dω = ∫ dA / (1 + u² + v²)².
  constexpr int n = 64;
  double sum = 0;
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < n; ++j) {
      const float u = 2 * (float(i) + 0.5f) / n - 1, v = 2 * (float(j) + 0.5f) / n - 1;
      const double r2 = 1 + double(u * wide) * double(u * wide) + double(v * high) * double(v * high);
      sum += double(fading(u) * fading(v)) / (r2 * r2);
    }
  const float facing = float(sum * 4 * double(wide) * double(high) / (n * n));
  radiance_ = light * (pi / facing);
  power_ = luminance(light);
}

Vec3f SoftBox::radiance(const Vec3f&, const Vec3f& d) const {
  const Vec3f l = basis_.into(d);
  if (l.z <= 1e-4f) return {};
  return radiance_ * (fading(l.x / (l.z * wide_)) * fading(l.y / (l.z * high_)));
}

float SoftBox::density(const Vec3f&, const Vec3f& d) const {
  const Vec3f l = basis_.into(d);
  if (l.z <= 1e-4f || std::abs(l.x) > l.z * wide_ || std::abs(l.y) > l.z * high_) return 0;
  return 1 / (4 * wide_ * high_ * l.z * l.z * l.z);
}

Vec3f SoftBox::sample(const Vec3f&, Pair u, float& density) const {
  const Vec3f d = normalized(Vec3f{(2 * u.x - 1) * wide_, (2 * u.y - 1) * high_, 1});
  density = 1 / (4 * wide_ * high_ * d.z * d.z * d.z);
  return basis_.from(d);
}

FarDisc::FarDisc(const Vec3f& d, float angle, const Vec3f& light)
    : basis_(d), least_cosine_(std::cos(angle)), power_(luminance(light)) {
  irradiance = light, toward = d;
  // 1 - cos by its half angle: floats would lose small ones.
  const double cap = 4 * std::numbers::pi * std::pow(std::sin(double(angle) / 2), 2);
  density_ = float(1 / cap), small_ = cap < double(small_light);
  // ∫ cosine dω over the disc is π sin².
  radiance_ = light * float(1 / std::pow(std::sin(double(angle)), 2));
}

Vec3f FarDisc::radiance(const Vec3f&, const Vec3f& d) const {
  return dot(d, basis_.z) >= least_cosine_ ? radiance_ : Vec3f{};
}

float FarDisc::density(const Vec3f&, const Vec3f& d) const {
  return dot(d, basis_.z) >= least_cosine_ ? density_ : 0;
}

Vec3f FarDisc::sample(const Vec3f&, Pair u, float& density) const {
  density = density_;
  return normalized(basis_.from(in_cone(u, least_cosine_)));
}

Bulb::Bulb(const Vec3f& position, const Vec3f& aim, float cone, float radius, const Vec3f& light)
    : position_(position), radius_(radius), cone_cosine_(std::cos(cone)), power_(luminance(light)) {
  const Vec3f way = aim - position;
  const float away = std::max(length(way), 1.0001f * radius);
  axis_ = length(way) > 0 ? normalized(way) : Vec3f{0, -1, 0};
  irradiance = light, toward = -axis_;
  // A surface facing a ball at this distance receives π (radius / away)² of its radiance.
  radiance_ = light * (away * away / (radius * radius));
  power_ *= away * away;
}

float Bulb::share(const Vec3f& from) const {
  const float cosine = dot(normalized(from - position_), axis_);
  return smooth((cosine - cone_cosine_) / std::max(1e-6f, rim_of_cone * (1 - cone_cosine_)));
}

float Bulb::least_cosine(const Vec3f& from, float& away) const {
  away = std::max(length(position_ - from), 1.0001f * radius_);
  const float s = radius_ / away;
  return std::sqrt(std::max(0.f, 1 - s * s));
}

float Bulb::distance(const Vec3f& from, const Vec3f& d) const {
  const Vec3f to = position_ - from;
  const float middle = dot(to, d), off = dot(to, to) - middle * middle;
  if (middle <= 0 || off > radius_ * radius_) return 1e30f;
  return std::max(0.f, middle - std::sqrt(radius_ * radius_ - off));
}

Vec3f Bulb::radiance(const Vec3f& from, const Vec3f& d) const {
  return distance(from, d) < 1e30f ? radiance_ * share(from) : Vec3f{};
}

float Bulb::density(const Vec3f& from, const Vec3f& d) const {
  if (distance(from, d) >= 1e30f) return 0;
  float away = 0;
  return 1 / (2 * pi * std::max(1e-9f, 1 - least_cosine(from, away)));
}

Vec3f Bulb::sample(const Vec3f& from, Pair u, float& density) const {
  float away = 0;
  const float least = least_cosine(from, away);
  density = share(from) > 0 ? 1 / (2 * pi * std::max(1e-9f, 1 - least)) : 0;
  return normalized(Basis(normalized(position_ - from)).from(in_cone(u, least)));
}

float Bulb::power(const Vec3f& from) const {
  const Vec3f to = position_ - from;
  return power_ * share(from) / std::max(radius_ * radius_, dot(to, to));
}

PicturedRoom::PicturedRoom(std::shared_ptr<const Pixels> picture, float turn, const Vec3f& mean)
    : picture_(std::move(picture)),
      turn_(turn),
      columns_(std::min(picture_->width, 512)),
      rows_(std::min(picture_->height, 256)) {
  in_row_.assign(size_t(columns_ + 1) * size_t(rows_), 0), of_rows_.assign(size_t(rows_) + 1, 0);
  const auto sine = [&](int y) { return std::sin(pi * (float(y) + 0.5f) / float(rows_)); };
  Vec3f sum{};
  double weights = 0;
  std::vector<float> bright(size_t(columns_) * size_t(rows_));
  for (int y = 0; y < rows_; ++y)
    for (int x = 0; x < columns_; ++x) {
      // All pixels of the cell, so that no small light is missed.
      Vec3f light{};
      int n = 0;
      for (int j = y * picture_->height / rows_; j < (y + 1) * picture_->height / rows_; ++j)
        for (int i = x * picture_->width / columns_; i < (x + 1) * picture_->width / columns_; ++i, ++n)
          for (int c = 0; c < 3; ++c) light[c] += picture_->at(i, j)[c];
      light = light / float(std::max(1, n));
      sum += light * sine(y), weights += double(sine(y));
      bright[size_t(y) * size_t(columns_) + size_t(x)] = luminance(light) + 1e-4f;
    }
  for (int y = 0; y < rows_; ++y) {
    float* row = &in_row_[size_t(columns_ + 1) * size_t(y)];
    for (int x = 0; x < columns_; ++x) {
      // Between pixels a bright one shines into the cells around its own: they are asked for, too.
      float near = 0;
      for (int j = std::max(0, y - 1); j <= std::min(rows_ - 1, y + 1); ++j)
        for (int i = x - 1; i <= x + 1; ++i)
          near += bright[size_t(j) * size_t(columns_) + size_t((i + columns_) % columns_)] / 9;
      row[x + 1] = row[x] + (0.5f * bright[size_t(y) * size_t(columns_) + size_t(x)] + 0.5f * near) * sine(y);
    }
    of_rows_[size_t(y) + 1] = of_rows_[size_t(y)] + row[columns_];
  }
  const float average = std::max(1e-6f, luminance(sum) / float(weights));
  scale_ = mean / average;
  irradiance = mean, power_ = luminance(mean);
}

Vec3f PicturedRoom::direction_at(float u, float v) const {
  const float around = turn_ + 2 * pi * (u - 0.5f), down = pi * v;
  return {std::sin(down) * std::sin(around), std::cos(down), std::sin(down) * std::cos(around)};
}

namespace {

/// Where in the picture of a room a direction is.
Pair place_in_room(const Vec3f& d, float turn) {
  const float around = (std::atan2(d.x, d.z) - turn) / (2 * pi) + 0.5f;
  return {around - std::floor(around), std::acos(std::clamp(d.y, -1.f, 1.f)) / pi};
}

/// The cell of a running sum in which `at` is, and how far along it.
int cell_of(const float* sums, int count, float at, float& along) {
  const int i = std::clamp(int(std::upper_bound(sums, sums + count + 1, at) - sums) - 1, 0, count - 1);
  along = std::clamp((at - sums[i]) / std::max(1e-12f, sums[i + 1] - sums[i]), 0.f, 1.f);
  return i;
}

}  // namespace

Vec3f PicturedRoom::radiance(const Vec3f&, const Vec3f& d) const {
  const Pair p = place_in_room(d, turn_);
  float rgba[4];
  picture_->sample(p.x, p.y, true, rgba);
  return Vec3f{rgba[0], rgba[1], rgba[2]} * scale_;
}

Vec3f PicturedRoom::sample(const Vec3f& from, Pair u, float& density) const {
  float v = 0, w = 0;
  const int y = cell_of(of_rows_.data(), rows_, u.y * of_rows_.back(), v);
  const float* row = &in_row_[size_t(columns_ + 1) * size_t(y)];
  const int x = cell_of(row, columns_, u.x * row[columns_], w);
  const Vec3f d = direction_at((float(x) + w) / float(columns_), (float(y) + v) / float(rows_));
  density = this->density(from, d);
  return d;
}

float PicturedRoom::density(const Vec3f&, const Vec3f& d) const {
  const Pair p = place_in_room(d, turn_);
  const int x = std::clamp(int(p.x * float(columns_)), 0, columns_ - 1),
            y = std::clamp(int(p.y * float(rows_)), 0, rows_ - 1);
  const float* row = &in_row_[size_t(columns_ + 1) * size_t(y)];
  const float share = (row[x + 1] - row[x]) / of_rows_.back() * float(columns_) * float(rows_);
  return share / (2 * pi * pi * std::max(1e-4f, std::sqrt(std::max(0.f, 1 - d.y * d.y))));
}

std::shared_ptr<const Pixels> drawn_room(RoomStyle style) {
  constexpr int wide = 512, high = 256;
  auto out = std::make_shared<Pixels>();
  out->width = wide, out->height = high;
  const auto band = [](float x, float middle, float half) {  // 1 within, 0 beyond, soft by a degree
    return smooth((half - std::abs(x - middle)) + 0.5f);
  };
  for (int y = 0; y < high; ++y)
    for (int x = 0; x < wide; ++x) {
      const float around = (float(x) + 0.5f) / wide * 360 - 180, up = 90 - (float(y) + 0.5f) / high * 180;
      const float sky = std::sin(up * pi / 180);
      Vec3f light = Vec3f{1, 1, 1} * (0.3f + 0.22f * sky);
      if (style == RoomStyle::strips) {
        for (const float side : {-72.f, 72.f})
          light += Vec3f{1, 1, 1} * (9 * band(around, side, 6) * band(up, 24, 38));
        light += Vec3f{1, 0.98f, 0.95f} * (2.5f * smooth((up - 64) / 6));
      } else if (style == RoomStyle::window) {
        const float panes = band(around, -84, 26) * band(up, 26, 20) * (1 - band(around, -84, 1.2f)) *
                            (1 - band(up, 26, 1.2f));
        light += Vec3f{0.92f, 0.97f, 1.05f} * (11 * panes);
        light += Vec3f{0.5f, 0.42f, 0.33f} * (0.6f * std::max(0.f, -sky));  // a wooden floor
      }
      for (const float v : {light.x, light.y, light.z, 1.f}) out->rgba.push_back(v);
    }
  return out;
}

namespace {

std::unique_ptr<TracedLight> light_of(const Light& l) {
  const Vec3f light = rgb(color_of(l)) * (float(l.strength) * usual),
              toward = direction_to(l.azimuth, l.elevation);
  const auto half = [](double angle) { return float(std::tan(angle / 2)); };
  switch (l.kind) {
    case LightKind::soft_box:
      return std::make_unique<SoftBox>(toward, half(l.width), half(l.height), light);
    case LightKind::disc:
      return std::make_unique<FarDisc>(toward, float(l.width / 2), light);
    case LightKind::sun:
      return std::make_unique<FarDisc>(toward, sun_angle, light);
    case LightKind::spot:
      return std::make_unique<Bulb>(to<float>(l.position), to<float>(l.aim), float(l.cone / 2),
                                    float(l.size / 2), light);
    case LightKind::room:
      break;
  }
  if (l.room == RoomStyle::even) return nullptr;
  return std::make_unique<PicturedRoom>(
      l.room == RoomStyle::picture
          ? unpack_picture(l.picture.bytes, filled("Light “{name}”: picture", {{"name", l.name}}))
          : drawn_room(l.room),
      float(l.azimuth), light);
}

}  // namespace

StudioLights::StudioLights(const Look& look, const Camera& camera, const View& view)
    : studio(look, camera, view), backdrop_(look.backdrop), below_(rgb(look.below)) {
  if (look.lights.size() > size_t(most_lights))
    throw shot_fault("Lights", filled("are more than {most}.", {{"most", std::to_string(most_lights)}}),
                     "Remove some.");
  for (size_t i = 0; i < look.lights.size(); ++i) {
    const Light& l = look.lights[i];
    if (l.strength <= 0) continue;
    if (auto light = light_of(l))
      light->number = int(i), lights.push_back(std::move(light));
    else
      fills.push_back({rgb(color_of(l)) * (float(l.strength) * usual), int(i)});
  }
  strength_.assign(look.lights.size() + 1, 1);
  const auto is_as_strong = [&](int number, const Vec3f& light) {
    strength_[size_t(number) + 1] = std::max({light.x, light.y, light.z});
  };
  for (const auto& l : lights) is_as_strong(l->number, l->irradiance);
  for (const Fill& f : fills) is_as_strong(f.number, f.light);
  if (backdrop_ == Backdrop::picture)
    picture_ = unpack_picture(look.backdrop_picture.bytes, "Picture behind");
  const auto is_near = [](const auto& l) { return dynamic_cast<const Bulb*>(l.get()) != nullptr; };
  if (std::none_of(lights.begin(), lights.end(), is_near))
    for (const auto& l : lights) power_.push_back(l->power({}));
  // The floor is as bright under these lights as the backdrop is.
  Vec3f light;
  for (const Fill& f : fills) light += f.light;
  for (const auto& l : lights) light += l->irradiance * std::max(0.f, l->toward.y);
  for (int c = 0; c < 3; ++c)
    floor_color[c] = std::min(
        0.85f, studio.back[c] * (studio::ground_low + studio::ground_high) / std::max(1e-4f, light[c]));
}

Vec3f StudioLights::backdrop(const Vec3f& d, const View& view) const {
  const float away = std::max(1e-3f, dot(d, view.forward));
  const float x = dot(d, view.right) / (away * view.half_width),
              y = dot(d, view.up) / (away * view.half_height);
  switch (backdrop_) {
    case Backdrop::studio:
      return studio.backdrop(d);
    case Backdrop::plain:
      return studio.back;
    case Backdrop::gradient: {
      const float up = smooth(0.5f + 0.5f * y);
      return studio.back * up + below_ * (1 - up);
    }
    case Backdrop::picture: {
      // As large as fills the frame, its middle in the middle.
      const float frame = view.half_width / view.half_height,
                  own = float(picture_->width) / float(picture_->height);
      float rgba[4];
      picture_->sample(0.5f + 0.5f * x * std::min(1.f, frame / own),
                       0.5f - 0.5f * y * std::min(1.f, own / frame), false, rgba);
      return {rgba[0], rgba[1], rgba[2]};
    }
    case Backdrop::room: {
      Vec3f sum;
      for (const Fill& f : fills) sum += of_fill(f, d);
      for (const auto& l : lights)
        if (dynamic_cast<const PicturedRoom*>(l.get())) sum += l->radiance({}, d);
      return sum;
    }
    case Backdrop::transparent:
      break;
  }
  return {};
}

float StudioLights::shares(const Vec3f& from, LightBits lit_by, bool small_only, float out[]) const {
  float all = 0;
  for (size_t i = 0; i < lights.size(); ++i) {
    const TracedLight& l = *lights[i];
    const bool asked = (lit_by >> l.number & 1) && (!small_only || l.small());
    out[i] = !asked ? 0 : power_.empty() ? l.power(from) : power_[i];
    all += out[i];
  }
  return all;
}

StudioLights::Asked StudioLights::sample(const Vec3f& from, LightBits lit_by, bool small_only,
                                         Sampler& random) const {
  const Pair u = random.two();
  float share[most_lights], pick = random.one();
  const float all = shares(from, lit_by, small_only, share);
  if (all <= 0) return {};
  size_t chosen = lights.size();
  for (size_t i = 0; i < lights.size(); ++i) {
    if (share[i] <= 0) continue;
    chosen = i, pick -= share[i] / all;
    if (pick < 0) break;
  }
  Asked a;
  a.light = lights[chosen].get();
  a.toward = a.light->sample(from, u, a.density);
  if (a.light->small()) {
    a.density *= share[chosen] / all;
    return a;
  }
  if (a.density <= 0) return a;
  a.density = 0;
  for (size_t i = 0; i < lights.size(); ++i)
    if (share[i] > 0 && !lights[i]->small()) a.density += share[i] / all * lights[i]->density(from, a.toward);
  return a;
}

float StudioLights::density(const Vec3f& from, LightBits lit_by, const Vec3f& d) const {
  float share[most_lights], sum = 0;
  const float all = shares(from, lit_by, false, share);
  for (size_t i = 0; i < lights.size(); ++i)
    if (share[i] > 0 && !lights[i]->small()) sum += share[i] / all * lights[i]->density(from, d);
  return sum;
}

}  // namespace pour
