// A thin round disc that lies level.
#pragma once
#include <cmath>

#include "shape/pierced.h"
#include "shape/turned_mesh.h"
#include "shot/setting.h"

namespace pour {

struct Disc {
  double radius = 0.05, thickness = 0.004;
  Piercing holes;
  bool operator==(const Disc&) const = default;

  static constexpr Option kind{"disc", "Disc"};
  static constexpr const char* sentence = "A disc of {radius} radius.";

  static Table<Disc> settings() {
    TableOf<Disc> table;
    table.touching(Touches::shape)
        .add(&Disc::radius, "radius", "Radius", Unit::length, {1e-4, 100, 0.005, 0.3}, "Radius of the disc.")
        .add(&Disc::thickness, "thickness", "Thickness", Unit::length, {1e-4, 10, 0.001, 0.05},
             "Thickness from the lower to the upper side.")
        .more();
    return add_piercing(table).done();
  }

  std::vector<Body> bodies(const StopAsked&) const {
    Body body = plain_body(cylinder_mesh(radius, thickness), {radius, thickness / 2, radius}, false);
    body.mouth = Mouth{{}, {radius, 0, 0}, {0, 0, radius}, true};
    Outline::Ring rim;
    constexpr int corners = 96;
    const double turn = 2 * std::numbers::pi / corners, wide = radius * std::sqrt(turn / std::sin(turn));
    for (int k = 0; k < corners; ++k)
      rim.points.push_back({wide * std::cos(k * turn), wide * std::sin(k * turn), 0});
    pierce(body, holes, rim, thickness,
           [&](const Vec3d& at, double room) { return length(at) + room <= radius; });
    return {std::move(body)};
  }
};

}  // namespace pour
