// What a fluid is to the solvers.
#pragma once

namespace pour {

/// The solver that computes a fluid.
enum class FlowKind { gas, liquid };

/// Properties of a liquid, SI. Shear stress is yield + viscosity · rate^exponent, with the rate in 1/s (Herschel & Bulkley 1926).
/// Newtonian liquids have no yield stress and an exponent of 1.
struct Matter {
  double density = 998.2;       // kg/m³
  double viscosity = 1.002e-3;  // Pa·s, or Pa·s^exponent
  double yield = 0;             // Pa
  double exponent = 1;
  double tension = 0.0728;  // of the surface against air, N/m
  bool operator==(const Matter&) const = default;
};

}  // namespace pour
