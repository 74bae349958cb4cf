// Viscosity of liquid, implicit and variational with the full stress, so that a free surface feels no pull
// and syrup folds and coils (Batty & Bridson, Accurate viscous free surfaces for buckling, coiling, and
// rotating liquids, 2008).
#pragma once
#include "liquid/liquid.h"

namespace pour {

/// The velocity after dt seconds of viscosity: the one of all that loses least. It clings to solids and to
/// the closed bottom of the bounds, and slips along their other sides.
class Viscosity {
 public:
  /// `viscosity` by cell, Pa·s; `density` in kg/m³. Faces that solids close keep their velocity, and so do
  /// those that are `kept`; fields of no size: none.
  Viscosity(const LiquidState&, const Floats& viscosity, double density, const World&, const Bytes (&kept)[3],
            double dt);
  /// Changes u, v, w of the state; returns how many iterations of conjugate gradients it took.
  int solve(LiquidState&);

 private:
  static constexpr int pair(int a, int b) { return a + b == 1 ? 0 : a + b == 3 ? 1 : 2; }  // xy, yz, zx
  void weigh(const LiquidState&, const Floats& viscosity, const World&, const Bytes (&kept)[3], float k);
  void find_diagonal();
  void apply(const Floats* const (&in)[3], Floats (&out)[3]);

  const BlockGrid& grid_;
  std::vector<int> active_;           // blocks with anything viscous
  Floats mass_[3], diagonal_[3];      // of the faces, 0 where nothing is to be found out
  Floats stretch_, shear_[3];         // weights: of cells and of edges
  Floats stretched_[3], sheared_[3];  // stress of the last apply()
};

}  // namespace pour
