#include "trace/bsdf.h"
#include "base/light.h"

#include <cmath>
#include <numbers>

namespace pour {
namespace {

float square(float x) { return x * x; }

/// Density of microfacets with this normal.
float facets(const Vec3f& m, float a) {
  const float d = square(m.x) + square(m.y) + square(a * m.z);
  return m.z > 0 ? square(a) / (pi * square(d)) : 0;
}

/// Smith's Λ.
float hidden(const Vec3f& v, float a) {
  const float z2 = square(v.z);
  if (z2 >= 1) return 0;
  return 0.5f * (std::sqrt(1 + square(a) * (1 - z2) / std::max(z2, 1e-12f)) - 1);
}

/// A microfacet that is seen from `out` (Heitz 2018, "Sampling the GGX distribution of visible normals").
Vec3f visible_facet(const Vec3f& out, float a, Pair u) {
  const Vec3f v = normalized(Vec3f{a * out.x, a * out.y, out.z});
  const float side = square(v.x) + square(v.y);
  const Vec3f t1 = side > 0 ? Vec3f{-v.y, v.x, 0} / std::sqrt(side) : Vec3f{1, 0, 0}, t2 = cross(v, t1);
  const float r = std::sqrt(u.x), angle = 2 * pi * u.y, s = 0.5f * (1 + v.z);
  const float p = r * std::cos(angle), q0 = r * std::sin(angle);
  const float q = (1 - s) * std::sqrt(std::max(0.f, 1 - p * p)) + s * q0;
  const Vec3f n = t1 * p + t2 * q + v * std::sqrt(std::max(0.f, 1 - p * p - q * q));
  return normalized(Vec3f{a * n.x, a * n.y, std::max(1e-6f, n.z)});
}

Vec3f around_normal(Pair u) {  // by cosine
  const float r = std::sqrt(u.x), angle = 2 * pi * u.y;
  return {r * std::cos(angle), r * std::sin(angle), std::sqrt(std::max(0.f, 1 - u.x))};
}

Vec3f mirrored(const Vec3f& v, const Vec3f& m) { return m * (2 * dot(v, m)) - v; }

Vec3f schlick(const Vec3f& f0, float cosine) {
  const float s = std::clamp(1 - cosine, 0.f, 1.f), s5 = s * s * s * s * s;
  return f0 + (Vec3f{1, 1, 1} - f0) * s5;
}

/// Single-scattering albedo for light from `out`, by quadrature.
template <class F>
float seen_again(const F& weight) {
  constexpr uint32_t samples = 512;
  float sum = 0;
  for (uint32_t i = 0; i < samples; ++i) {
    Sampler s(7, i);
    sum += weight(s);
  }
  return sum / samples;
}

}  // namespace

Basis::Basis(const Vec3f& n) : z(n) {
  const float sign = std::copysign(1.f, n.z), a = -1 / (sign + n.z), b = n.x * n.y * a;
  x = {1 + sign * n.x * n.x * a, sign * b, -sign * n.x};
  y = {b, sign + n.y * n.y * a, -n.y};
}

float fresnel(float cosine, float eta) {
  const float s2 = square(eta) * (1 - square(cosine));
  if (s2 >= 1) return 1;
  const float t = std::sqrt(1 - s2);
  return 0.5f *
         (square((eta * cosine - t) / (eta * cosine + t)) + square((cosine - eta * t) / (cosine + eta * t)));
}

Bsdf::Bsdf(Substance s, float roughness, float index, bool thin)
    : substance_(s),
      width_(std::max(square(roughness), s == Substance::glass ? 0.f : 1e-3f)),
      index_(index),
      thin_(thin) {
  if (s == Substance::matte || (s == Substance::glass && width_ == 0)) return;
  for (int i = 0; i <= cosines; ++i) {
    const float z = std::max(1e-3f, float(i) / cosines);
    const Vec3f out{std::sqrt(1 - z * z), 0, z};
    kept_[size_t(i)] = kept_in_[size_t(i)] = 1;
    if (s == Substance::glass) {
      const auto both = [&](float eta) {
        return seen_again([&](Sampler& r) { return luminance(sample_glass(out, {1, 1, 1}, eta, r).weight); });
      };
      const float from_outside = both(1 / index_), from_inside = both(index_);
      kept_[size_t(i)] = from_outside, kept_in_[size_t(i)] = from_inside;
      continue;
    }
    kept_[size_t(i)] = seen_again([&](Sampler& r) {
      const Vec3f m = visible_facet(out, width_, r.two()), in = mirrored(out, m);
      if (in.z <= 0) return 0.f;
      const float f = s == Substance::coated ? fresnel(dot(out, m), 1 / index_) : 1;
      return f * (1 + hidden(out, width_)) / (1 + hidden(out, width_) + hidden(in, width_));
    });
  }
  for (int i = 0; i < cosines; ++i)  // 2 ∫ E(μ) μ dμ, linear between the cosines
    kept_mean_ +=
        2 * ((kept_[size_t(i)] + kept_[size_t(i) + 1]) / 2) * ((float(i) + 0.5f) / cosines) / cosines;
}

float Bsdf::at(const Kept& k, float cosine) {
  const float x = std::clamp(cosine, 0.f, 1.f) * cosines;
  const size_t i = std::min(size_t(x), size_t(cosines - 1));
  const float f = x - float(i);
  return k[i] * (1 - f) + k[i + 1] * f;
}

float Bsdf::mirrored_share(float cosine, const Vec3f& color) const {
  if (substance_ == Substance::matte) return 0;
  const float kept = at(kept_, cosine);
  if (substance_ == Substance::metal) return kept;
  return kept / (kept + (1 - kept) * std::max(0.02f, luminance(color)));
}

Vec3f Bsdf::value(const Vec3f& out, const Vec3f& in, const Vec3f& color, float& density) const {
  density = 0;
  if (out.z <= 0 || in.z <= 0 || only_followed()) return {};
  const float share = mirrored_share(out.z, color);
  density = (1 - share) * in.z / pi;
  if (substance_ == Substance::matte) return color * (in.z / pi);
  const float lost =
      (1 - at(kept_, out.z)) * (1 - at(kept_, in.z)) * in.z / (pi * std::max(1e-6f, 1 - kept_mean_));
  const Vec3f m = normalized(out + in);
  const float d = facets(m, width_), seen_out = 1 / (1 + hidden(out, width_));
  const float both = d / ((1 + hidden(out, width_) + hidden(in, width_)) * 4 * out.z);  // times in.z already
  density += share * d * seen_out / (4 * out.z);
  if (substance_ == Substance::coated) {
    const float f = fresnel(std::min(1.f, dot(out, m)), 1 / index_);
    return Vec3f{1, 1, 1} * (f * both) + color * lost;
  }
  const Vec3f mean = color * (20.f / 21) + Vec3f{1, 1, 1} * (1.f / 21);
  Vec3f again;
  for (int c = 0; c < 3; ++c) again[c] = square(mean[c]) * kept_mean_ / (1 - mean[c] * (1 - kept_mean_));
  return schlick(color, std::min(1.f, dot(out, m))) * both + again * lost;
}

float Bsdf::back(float cosine, float eta) const {
  const float f = fresnel(cosine, eta);
  return thin_ ? 2 * f / (1 + f) : f;  // both sides, and what goes back and forth between them
}

Scattering Bsdf::way_of(const Vec3f& out, const Vec3f& m, const Vec3f& color, float eta, bool through) const {
  Scattering s;
  s.through = through;
  if (thin_) {
    s.in = through ? -out : mirrored(out, m);
    s.weight = through ? color : Vec3f{1, 1, 1};
    return s;
  }
  const float cosine = std::min(1.f, dot(out, m));
  if (through) {
    const float t = std::sqrt(std::max(0.f, 1 - square(eta) * (1 - square(cosine))));
    s.in = m * (eta * cosine - t) - out * eta;
  } else {
    s.in = mirrored(out, m);
  }
  if ((s.in.z < 0) != through) return s;
  const float w =
      width_ > 0 ? (1 + hidden(out, width_)) / (1 + hidden(out, width_) + hidden(s.in, width_)) : 1;
  s.weight = {w, w, w};
  return s;
}

Scattering Bsdf::one_way(const Vec3f& out, const Vec3f& color, float eta, bool through) const {
  Scattering s = way_of(out, {0, 0, 1}, color, eta, through);
  const float part = back(std::min(1.f, out.z), eta);
  s.weight = s.weight * (through ? 1 - part : part);
  return s;
}

Scattering Bsdf::sample_glass(const Vec3f& out, const Vec3f& color, float eta, Sampler& random) const {
  const Vec3f m = width_ > 0 ? visible_facet(out, width_, random.two()) : Vec3f{0, 0, 1};
  const float part = back(std::min(1.f, dot(out, m)), eta);
  return way_of(out, m, color, eta, random.one() >= part);
}

Scattering Bsdf::sample(const Vec3f& out, const Vec3f& color, float eta, Sampler& random) const {
  if (substance_ == Substance::glass) {
    Scattering s = sample_glass(out, color, eta, random);
    if (width_ > 0 && !thin_) s.weight = s.weight / std::max(0.05f, at(eta < 1 ? kept_ : kept_in_, out.z));
    return s;
  }
  Scattering s;
  const float share = mirrored_share(out.z, color);
  const Pair u = random.two();
  s.in = share > 0 && random.one() < share ? mirrored(out, visible_facet(out, width_, u)) : around_normal(u);
  const Vec3f v = value(out, s.in, color, s.density);
  if (s.density > 0) s.weight = v / s.density;
  return s;
}

}  // namespace pour
