// What light does where it meets a surface, in the surface's own frame: z is its normal, on the side of
// `out`.
#pragma once
#include <array>

#include "base/vec.h"
#include "shot/materials.h"
#include "trace/sampler.h"

namespace pour {

/// Three directions at right angles, z as given (Duff et al. 2017, "Building an orthonormal basis,
/// revisited").
struct Basis {
  Vec3f x, y, z;
  explicit Basis(const Vec3f& n);
  Vec3f from(const Vec3f& v) const { return x * v.x + y * v.y + z * v.z; }
  Vec3f into(const Vec3f& v) const { return {dot(v, x), dot(v, y), dot(v, z)}; }
};

/// Part of the light that is mirrored at a smooth surface where it comes in at this cosine, 0 to 1; `eta` is
/// the index on its side by that on the other one (Fresnel's equations, light that is not polarised).
float fresnel(float cosine, float eta);

/// How light leaves a surface. `weight` is value times cosine by density.
struct Scattering {
  Vec3f in{};      // where light comes from
  Vec3f weight{};  // zero: nothing comes from there
  float density = 0;
  bool through = false;  // it comes from the other side
};

/// A surface of one kind. Microfacets are those of Walter et al. 2007 (GGX) with Smith's masking of both
/// directions, sampled by what is visible of them (Heitz 2018). What they lose because light meets several of
/// them is given back (Kulla & Conty 2017), so that a white surface is as bright as its surroundings.
class Bsdf {
 public:
  /// `roughness` squared is the width of the microfacets; glass of roughness 0 is smooth. `thin` glass has
  /// air on both sides and lets light go on straight.
  Bsdf(Substance, float roughness, float index, bool thin = false);

  Substance substance() const { return substance_; }
  bool thin() const { return thin_; }
  float index() const { return index_; }
  /// Whether light comes from single directions alone, or from the other side: what lights send to it can't
  /// be asked for.
  bool only_followed() const { return substance_ == Substance::glass; }

  /// Of the colour of the surface. `eta` is the index on the side of `out` by that on the other one, for
  /// glass.
  Scattering sample(const Vec3f& out, const Vec3f& color, float eta, Sampler&) const;
  /// The same of smooth glass, one of its two ways by choice: its weight has its part of the light.
  Scattering one_way(const Vec3f& out, const Vec3f& color, float eta, bool through) const;
  bool smooth_glass() const { return substance_ == Substance::glass && width_ == 0; }
  /// Value times cosine for light from `in`, both above the surface, and the density of sample() there.
  Vec3f value(const Vec3f& out, const Vec3f& in, const Vec3f& color, float& density) const;

 private:
  static constexpr int cosines = 32;
  using Kept = std::array<float, cosines + 1>;  // part of the light that microfacets send back, by its cosine
  static float at(const Kept&, float cosine);
  float mirrored_share(float cosine, const Vec3f& color) const;
  Scattering way_of(const Vec3f& out, const Vec3f& facet, const Vec3f& color, float eta, bool through) const;
  float back(float cosine, float eta) const;  // part of light that glass mirrors
  Scattering sample_glass(const Vec3f& out, const Vec3f& color, float eta, Sampler&) const;

  Substance substance_;
  float width_, index_;
  bool thin_;
  Kept kept_{}, kept_in_{};  // of glass: from outside and from inside
  float kept_mean_ = 0;
};

}  // namespace pour
