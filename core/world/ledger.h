// Conservation: the amounts that a flow gained and lost.
#pragma once

namespace pour {

/// Amounts since the start of the run: smoke in kg, liquid in m³.
struct Ledger {
  double poured = 0, decayed = 0, left = 0, drained = 0, numeric = 0, in_shot = 0;
  Ledger& operator+=(const Ledger& o) {
    poured += o.poured, decayed += o.decayed, left += o.left, drained += o.drained, numeric += o.numeric,
        in_shot += o.in_shot;
    return *this;
  }
  /// poured - decayed - left - drained + numeric - in_shot: zero up to rounding.
  double gap() const { return poured - decayed - left - drained + numeric - in_shot; }
};

}  // namespace pour
