// A box, with sharp or with round edges.
#pragma once
#include "shape/body.h"
#include "shot/setting.h"

namespace pour {

struct Block {
  Vec3d size{0.2, 0.05, 0.2};
  double rounding = 0;
  bool operator==(const Block&) const = default;

  static constexpr Option kind{"box", "Box"};
  static constexpr const char* sentence = "A box of {size} .";

  static Table<Block> settings() {
    return TableOf<Block>()
        .touching(Touches::shape)
        .add(&Block::size, "size", "Size", Unit::length, {1e-4, 100, 0.01, 1},
             "Width, height and depth of the box.")
        .add(&Block::rounding, "edge_radius", "Edge radius", Unit::length, {0, 50, 0, 0.05},
             "Radius of the rounded edges, at most half of the shortest side.")
        .formerly("rounding")
        .zero("sharp")
        .done();
  }

  std::vector<Body> bodies(const StopAsked&) const {
    const double most = std::min({size.x, size.y, size.z}) / 2;
    const double r = std::min(rounding, most * (1 - 1e-9));
    return {plain_body(r > 0 ? rounded_box_mesh(size, r) : box_mesh(size), size * 0.5, false)};
  }
};

}  // namespace pour
