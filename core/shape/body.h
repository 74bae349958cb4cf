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

/// Where in a body smoke starts to fill it.
enum class SeedPlace { low, centre, left, right, top, back };
constexpr int seed_places = 6;

/// A flat side of a body that liquid comes out of: all within `along` and `across` of its middle, or, where
/// it is round, the ellipse that they span. It flows to where across × along points, with nothing else said.
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
  double stroke = 0;  // how thick it is at its widest, m
  struct Seed {
    Vec3d place;      // in the space of its piece, m
    double room = 0;  // radius of the largest ball there that stays inside, m
  };
  std::vector<Seed> seeds[seed_places];  // by SeedPlace
  std::optional<Mouth> mouth;            // of a body that is flat
  struct Seen {
    Mesh mesh;
    std::vector<Vec3f> colors;             // of its points, linear; none: as the material says
    std::vector<std::array<float, 2>> uv;  // of its points, from the texture's lower left; none: it has none
    std::vector<std::shared_ptr<const std::string>> textures;  // files of pictures
    std::vector<uint8_t> texture_of;                           // of its triangles, from 1 on; 0: none
    /// Adds what is seen of another body; what has no colours or uv is grey and at the corner.
    void append(const Seen&);
  };
  std::shared_ptr<const Seen> seen;        // what pictures show in place of its mesh; null: that
  std::shared_ptr<const Mesh> sheet;       // what it is a wall along, whose normals count; null: nothing
  std::shared_ptr<const ColorMap> colors;  // of its front, in the space of its piece; null: it has none
};

/// A body about the origin that is the same to all sides, or nearly so: seeds are where they are in an
/// ellipsoid (`round`) or a box of this half size.
inline Body plain_body(Mesh mesh, const Vec3d& half, bool round) {
  Body body;
  body.mesh = std::move(mesh);
  const double room = std::min({half.x, half.y, half.z});
  body.stroke = 2 * room;
  // A seed keeps half of the smallest room to itself, so that it can sit low or to one side.
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
