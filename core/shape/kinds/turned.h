// A solid of revolution from a drawn profile: a bowl, a cup, a bottle. It is a wall open at the rim, or full,
// as a pear.
#pragma once
#include "shape/body.h"
#include "shape/turned_mesh.h"
#include "shot/setting.h"

namespace pour {

struct Turned {
  Points profile{{{0, 0, 0}, {0.035, 0.002, 0}, {0.06, 0.025, 0}, {0.07, 0.06, 0}}};
  double wall = 0.006;
  bool full = false;
  bool operator==(const Turned&) const = default;

  static constexpr Option kind{"turned", "Turned shape"};
  static constexpr const char* sentence = "A turned shape with walls of {wall} .";

  static Table<Turned> settings() {
    return TableOf<Turned>()
        .touching(Touches::shape)
        .add(&Turned::profile, "profile", "Profile", Unit::length, {0, 1e3, 0, 0.3},
             "Outline that is turned about the upright axis, as distances from the axis and heights. An SVG "
             "path is read in millimetres.")
        .dimensions(2)
        .add(&Turned::wall, "wall", "Wall", Unit::length, {1e-4, 10, 0.001, 0.03},
             "Wall thickness, half of it on either side of the profile.")
        .where([](const Turned& t) { return !t.full; })
        .add(&Turned::full, "full", "Full",
             "Makes everything inside the profile solid instead of a wall along it.")
        .done();
  }

  std::vector<Body> bodies(const StopAsked&) const {
    Body body;
    body.mesh = full ? full_mesh(profile.list) : vessel_mesh(profile.list, wall);
    const Vec3d middle = Curve(profile.list, false).at(0.5);
    body.stroke = full ? 2 * middle.x : wall;
    for (auto& seeds : body.seeds)
      seeds = {full ? Body::Seed{{0, middle.y, 0}, middle.x} : Body::Seed{middle, wall / 2}};
    return {std::move(body)};
  }
};

}  // namespace pour
