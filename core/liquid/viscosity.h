// Implicit, variational viscosity with the full stress, so that free surfaces are traction-free and syrup
// folds and coils (Batty & Bridson, Accurate viscous free surfaces for buckling, coiling, and rotating
// liquids, 2008).
#pragma once
#include "liquid/liquid.h"

namespace pour {

/// Velocity after dt seconds of viscosity. It sticks to solids and the closed bottom of the bounds, and slips
/// along the other sides.
class Viscosity {
 public:
  /// `viscosity` by cell, Pa·s; `density` in kg/m³. Faces closed by solids and faces in `kept` keep their
  /// velocity; empty fields: none.
  Viscosity(const LiquidState&, const Floats& viscosity, double density, const World&, const Bytes (&kept)[3],
            double dt);
  /// Changes u, v, w of the state. Returns the number of conjugate gradient iterations.
  int solve(LiquidState&);

 private:
  static constexpr int pair(int a, int b) { return a + b == 1 ? 0 : a + b == 3 ? 1 : 2; }  // xy, yz, zx
  void weigh(const LiquidState&, const Floats& viscosity, const World&, const Bytes (&kept)[3], float k);
  void find_diagonal();
  void apply(const Floats* const (&in)[3], Floats (&out)[3]);

  const BlockGrid& grid_;
  std::vector<int> active_;           // blocks with viscous liquid
  Floats mass_[3], diagonal_[3];      // by face; 0: not an unknown
  Floats stretch_, shear_[3];         // weights by cell and by edge
  Floats stretched_[3], sheared_[3];  // stress of the last apply()
};

}  // namespace pour
