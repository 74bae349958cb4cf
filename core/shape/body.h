// One closed body of a shape: a letter, a ball, a bowl.
#pragma once
#include <array>
#include <memory>
#include <numbers>
#include <optional>
#include <string>
#include <vector>

#include "base/work.h"
#include "shape/mesh.h"

namespace pour {

struct ColorMap;

/// Where in a body the seed sits.
enum class SeedPlace { low, centre, left, right, top, back };
constexpr int seed_places = 6;

/// A flat side of a body from which liquid pours: the rectangle, or ellipse if `round`, spanned by `along`
/// and `across` about `middle`. By default it flows along across × along.
struct Mouth {
  Vec3d middle, along, across;  // m
  bool round = false;
  double area() const { return length(cross(along, across)) * (round ? std::numbers::pi : 4); }
  Vec3d normal() const { return normalized(cross(across, along)); }
};
inline Mouth operator*(const Pose& pose, const Mouth& m) {
  const auto turned = [&](const Vec3d& v) { return pose.turn * v * pose.scale; };
  return {pose * m.middle, turned(m.along), turned(m.across), m.round};
}

struct Body {
  Mesh mesh;          // in the space of its piece, m
  double stroke = 0;  // width of its widest stroke, m
  struct Seed {
    Vec3d place;      // in the space of its piece, m
    double room = 0;  // radius of the largest ball there that fits inside, m
  };
  std::vector<Seed> seeds[seed_places];  // by SeedPlace
  std::optional<Mouth> mouth;            // of a flat body
  /// A hole through the body.
  struct Opening {
    Vec3d end[2];  // of its axis, on the surface, m
    double radius = 0, discharge = 1;
  };
  std::vector<Opening> openings;        // all of one size; the mesh has none of them
  std::shared_ptr<const Mesh> pierced;  // the mesh with its openings; null: it has none
  const Mesh& shown() const { return pierced ? *pierced : mesh; }
  struct Seen {
    Mesh mesh;
    std::vector<Vec3f> colors;             // of its points, linear; empty: the material's
    std::vector<std::array<float, 2>> uv;  // of its points, from the texture's lower left; may be empty
    std::vector<std::shared_ptr<const std::string>> textures;  // bytes of picture files
    std::vector<uint8_t> texture_of;                           // of its triangles, counted from 1; 0: none
    /// Adds another body's surface. Missing colours become grey, missing uv (0, 0).
    void append(const Seen&);
  };
  std::shared_ptr<const Seen> seen;        // shown in pictures in place of the mesh; null: the mesh
  std::shared_ptr<const Mesh> sheet;       // the sheet along which it is a wall, for normals; null: none
  std::shared_ptr<const ColorMap> colors;  // of its front, in its piece's frame of reference; null: none
};

/// A convex body about the origin, with the seeds of an ellipsoid (`round`) or a box of this half size.
inline Body plain_body(Mesh mesh, const Vec3d& half, bool round) {
  Body body;
  body.mesh = std::move(mesh);
  const double room = std::min({half.x, half.y, half.z});
  body.stroke = 2 * room;
  // A seed is at most half as large as the smallest dimension, so that it can sit low or to one side.
  const double seed = room / 2, edge = round ? 0.9 : 1;
  body.seeds[int(SeedPlace::low)] = {{{0, seed - half.y * edge, 0}, seed}};
  body.seeds[int(SeedPlace::centre)] = {{{0, 0, 0}, room}};
  body.seeds[int(SeedPlace::left)] = {{{seed - half.x * edge, 0, 0}, seed}};
  body.seeds[int(SeedPlace::right)] = {{{half.x * edge - seed, 0, 0}, seed}};
  body.seeds[int(SeedPlace::top)] = {{{0, half.y * edge - seed, 0}, seed}};
  body.seeds[int(SeedPlace::back)] = {{{0, 0, seed - half.z * edge}, seed}};
  return body;
}

}  // namespace pour
