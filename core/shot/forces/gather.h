// Draws fluid into the shape of a piece. (Controlled by drag rather than by a potential, so that it arrives
// without swinging; compare Thürey, Keiser, Pauly & Rüde 2006, from memory.)
#pragma once
#include "shot/setting.h"
#include "world/field.h"

namespace pour {

/// Which part of the target a particle of liquid goes to.
enum class GoesTo { nearest, in_order, by_hand };

struct Gather {
  PieceId piece;
  double fastest = 0.6;    // m/s
  double strength = 30;    // m/s²
  double ease_in = 0.25;   // s
  double ease_out = 0.02;  // m
  double calm = 0.25;      // s
  double gravity = 0;      // share
  GoesTo goes_to = GoesTo::nearest;
  std::string bodies = "1, 2, 3";
  double half_density = 0.0005;  // kg/m³
  bool operator==(const Gather&) const = default;

  static constexpr Option kind{"gather", "Gather"};
  static constexpr const char* sentence = "Draws the fluid into {piece} at up to {fastest_speed} .";
  static constexpr bool moves_liquid = true, goes_inside = false;
  static constexpr Option ways[] = {
      {"nearest", "the nearest"}, {"in_order", "in order"}, {"by_hand", "by hand"}};

  static Table<Gather> settings() {
    using G = Gather;
    return TableOf<G>()
        .add(&G::piece, "piece", "Piece", "Piece whose shape the fluid fills.")
        .fixed()
        .add(&G::fastest, "fastest_speed", "Fastest speed", Unit::speed, {0.001, 100, 0.05, 3},
             "Speed of the fluid on its way, far from the piece.")
        .add(&G::strength, "strength", "Strength", Unit::acceleration, {0.01, 1e4, 1, 100},
             "Acceleration of fluid at rest outside of the piece. Stronger fills corners better.")
        .add(&G::ease_in, "ease_in", "Ease in", Unit::time, {0, 100, 0, 2},
             "Time in which the force comes up when it begins.")
        .zero("at once")
        .more()
        .add(&G::ease_out, "ease_out", "Ease out", Unit::length, {0, 100, 0, 0.3},
             "Distance from the piece within which the fluid slows down.")
        .zero("at full speed")
        .more()
        .add(&G::calm, "calm_time", "Calm time", Unit::time, {0, 1e4, 0, 2},
             "Time in which fluid inside the piece loses 63 % of its speed.")
        .zero_holding("not calmed")
        .more()
        .add(&G::gravity, "gravity_share", "Gravity share", Unit::percent, {0, 1, 0, 1},
             "How much of gravity acts on the fluid meanwhile.")
        .more()
        .add(&G::goes_to, ways, "goes_to", "Goes to",
             "Which letter or other part of the piece liquid goes to: the nearest; from left to right, by "
             "volume; or each body of liquid by hand. All smoke goes to the nearest.")
        .fixed()
        .more()
        .add(&G::bodies, "bodies", "Bodies",
             "Part of the piece for each body of liquid, both from left to right: “1, 2, 2” sends the second "
             "and third body to the second letter.")
        .where([](const G& g) { return g.goes_to == GoesTo::by_hand; })
        .fixed()
        .more()
        .add(&G::half_density, "half_density", "Half density", Unit::density, {1e-9, 10, 1e-5, 0.01},
             "Density at which smoke feels half of the force. Clean air feels none.")
        .more()
        .done();
  }

  const PieceId* goes_by() const { return &piece; }
  void weaken(double by) { strength /= by, fastest /= by; }
  std::shared_ptr<const Field> field(const SetAround&) const;
  std::shared_ptr<const Sharing> sharing(const SetAround&, int number) const;
  /// Parts by body of liquid, from 0.
  std::vector<int> parts_of_bodies() const;
};

}  // namespace pour
