// A plume of warm air against the theory of Morton, Taylor & Turner (Proc. R. Soc. A 234, 1956).
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "core/gas_world.h"

using namespace pour;

namespace {

/// What rises through a level: volume in m³/s, momentum in m⁴/s², buoyancy in m⁴/s³.
struct Fluxes {
  double volume = 0, momentum = 0, buoyancy = 0;
  double radius() const { return volume / std::sqrt(std::numbers::pi * momentum); }  // of a top hat
  double speed() const { return momentum / volume; }
};

void add_fluxes(std::vector<Fluxes>& levels, const GasState& s, double h) {
  for (int b = first_block; b < s.grid.size(); ++b)
    for (int c = 0; c < block_cells; ++c) {
      const double w = s.v.block(b)[c];
      const int y = s.grid.key(b).at.y * 8 + (c >> 3 & 7);
      if (w <= 0 || y >= int(levels.size())) continue;
      Fluxes& f = levels[size_t(y)];
      f.volume += w * h * h, f.momentum += w * w * h * h;
      f.buoyancy += w * 9.81 * s.heat.block(b)[c] / 293 * h * h;
    }
}

}  // namespace

TEST(Plume, DrawsInAirAsMortonTaylorAndTurnerSay) {
  constexpr int across = 96, up = 120;
  constexpr double h = 1.6 / up;
  GasWorld w;
  w.cell_size = h;
  w.cells = {across - 1, up - 1, across - 1};
  w.open[side_bottom] = false;
  w.turbulences = {{.speed = 0.05, .size = 0.1, .rate = 2}};  // enough to make it turbulent
  Source source = ball_source({0.64, 0.06, 0.64}, 0.06, 0);
  source.heat = 60;
  w.sources = {source};
  GasState s;
  GasSolver solver;
  Ledger ledger;
  std::vector<Fluxes> levels(up);
  int steps = 0;
  while (s.time < 8) {
    solver.step(s, w, longest_step(s, w, 2, 0.02), ledger);
    if (s.time > 4) add_fluxes(levels, s, h), ++steps;
  }
  const auto level = [&](double z) {
    const Fluxes& f = levels[size_t(std::lround(z / h))];
    return Fluxes{f.volume / steps, f.momentum / steps, f.buoyancy / steps};
  };

  // It turns turbulent half way up. From there on the radius grows by 6/5 of the entrainment coefficient:
  // 0.093 in the paper's bell-shaped profiles, so 0.13 for top hats; 0.10 to 0.16 in what was measured since
  // (values from memory). Here 0.097 and 0.082: the radius is but eight cells.
  const double low = 0.85, high = 1.5;
  const double by_radius = 5.0 / 6 * (level(high).radius() - level(low).radius()) / (high - low);
  EXPECT_GT(by_radius, 0.08);
  EXPECT_LT(by_radius, 0.16);
  // The same from the volume that is drawn in: dQ/dz = 2 π α b w.
  const Fluxes middle = level((low + high) / 2);
  const double by_volume = (level(high).volume - level(low).volume) / (high - low) /
                           (2 * std::numbers::pi * middle.radius() * middle.speed());
  EXPECT_GT(by_volume, 0.07);
  EXPECT_LT(by_volume, 0.16);
  // It slows down on its way while its buoyancy is kept.
  EXPECT_LT(level(high).speed(), 0.85 * level(low).speed());
  EXPECT_NEAR(level(high).buoyancy / level(low).buoyancy, 1, 0.1);
}
