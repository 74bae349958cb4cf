// What a liquid is made of, as solvers need it.
#pragma once

namespace pour {

/// SI. Shear stress after Herschel and Bulkley (1926): yield + viscosity · rate^exponent with the rate in
/// 1/s; water and all that flow like it have no yield stress and an exponent of 1.
struct Matter {
  double density = 998.2;       // kg/m³
  double viscosity = 1.002e-3;  // Pa·s, or Pa·s^exponent
  double yield = 0;             // Pa
  double exponent = 1;
  double tension = 0.0728;  // of the surface against air, N/m
  bool operator==(const Matter&) const = default;
};

}  // namespace pour
