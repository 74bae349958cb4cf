// One closed body of a shape: a letter, a ball, a bowl.
#pragma once
#include <vector>

#include "base/work.h"
#include "shape/mesh.h"

namespace pour {

/// Where in a body smoke starts to fill it.
enum class SeedPlace { low, centre, one_side };

struct Body {
  Mesh mesh;          // in the space of its piece, m
  double stroke = 0;  // how thick it is at its widest, m
  struct Seed {
    Vec3d place;      // in the space of its piece, m
    double room = 0;  // radius of the largest ball there that stays inside, m
  };
  std::vector<Seed> seeds[3];  // by SeedPlace
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
  body.seeds[int(SeedPlace::one_side)] = {{{seed - half.x * edge, 0, 0}, seed}};
  return body;
}

}  // namespace pour
