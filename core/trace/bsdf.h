// Surface scattering, in the local frame of the surface: z is the normal on the side of `out`.
#pragma once
#include <array>

#include "base/vec.h"
#include "shot/materials.h"
#include "trace/sampler.h"

namespace pour {

/// An orthonormal basis for a given z (Duff et al. 2017, "Building an orthonormal basis,
/// revisited").
struct Basis {
  Vec3f x, y, z;
  explicit Basis(const Vec3f& n);
  Vec3f from(const Vec3f& v) const { return x * v.x + y * v.y + z * v.z; }
  Vec3f into(const Vec3f& v) const { return {dot(v, x), dot(v, y), dot(v, z)}; }
};

/// Fresnel reflectance of a smooth dielectric for a cosine from 0 to 1, unpolarised; `eta` is the incident
/// index divided by the other.
float fresnel(float cosine, float eta);

/// A sampled direction. `weight` is value times cosine divided by density.
struct Scattering {
  Vec3f in{};      // direction to the incoming light
  Vec3f weight{};  // zero: no light
  float density = 0;
  bool through = false;  // transmitted
};

/// A surface of one kind. GGX microfacets (Walter et al. 2007) with Smith masking of both directions, sampled
/// by visible normals (Heitz 2018). Energy lost to multiple scattering is restored (Kulla & Conty 2017), so
/// that a white surface passes the furnace test.
class Bsdf {
 public:
  /// `roughness` squared is the GGX width; glass of roughness 0 is smooth. `thin` glass has air on both sides
  /// and does not bend light.
  Bsdf(Substance, float roughness, float index, bool thin = false);

  Substance substance() const { return substance_; }
  bool thin() const { return thin_; }
  float index() const { return index_; }
  /// Whether lights cannot be sampled directly: the surface is specular or transmits.
  bool only_followed() const { return substance_ == Substance::glass; }

  /// Samples a direction, for the surface's colour. `eta`, for glass, is the index on the side of `out`
  /// divided by the other.
  Scattering sample(const Vec3f& out, const Vec3f& color, float eta, Sampler&) const;
  /// Reflects or refracts at smooth glass, as chosen; the weight includes the Fresnel share.
  Scattering one_way(const Vec3f& out, const Vec3f& color, float eta, bool through) const;
  bool smooth_glass() const { return substance_ == Substance::glass && width_ == 0; }
  /// Value times cosine for light from `in`, both above the surface, and the density of sample().
  Vec3f value(const Vec3f& out, const Vec3f& in, const Vec3f& color, float& density) const;

 private:
  static constexpr int cosines = 32;
  using Kept = std::array<float, cosines + 1>;  // albedo of the microfacets by cosine
  static float at(const Kept&, float cosine);
  float mirrored_share(float cosine, const Vec3f& color) const;
  Scattering way_of(const Vec3f& out, const Vec3f& facet, const Vec3f& color, float eta, bool through) const;
  float back(float cosine, float eta) const;  // albedo of rough glass by cosine
  Scattering sample_glass(const Vec3f& out, const Vec3f& color, float eta, Sampler&) const;

  Substance substance_;
  float width_, index_;
  bool thin_;
  Kept kept_{}, kept_in_{};  // for glass, from outside and from inside
  float kept_mean_ = 0;
};

}  // namespace pour
