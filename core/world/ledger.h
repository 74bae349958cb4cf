// The books of a flow.
#pragma once

namespace pour {

/// Amounts from the start of the run: of smoke in kg, of liquid in m³.
struct Ledger {
  double poured = 0, decayed = 0, left = 0, drained = 0, numeric = 0, in_shot = 0;
  /// poured - decayed - left - drained + numeric - in_shot: zero but for rounding.
  double gap() const { return poured - decayed - left - drained + numeric - in_shot; }
};

}  // namespace pour
