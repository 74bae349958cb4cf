// Smoke: one gas, in which the colours of all smokes mix.
#pragma once
#include <string>

#include "shot/setting.h"
#include "world/matter.h"

namespace pour {

struct Smoke {
  Color color{0.55, 0.87, 0.74};
  bool operator==(const Smoke&) const = default;

  static constexpr Option kind{"smoke", "Smoke"};
  static constexpr FlowKind flow = FlowKind::gas;
  static constexpr const char* usual_name = "Smoke";
  static constexpr double usual_patchiness = 0.5;  // of its pours

  std::string sentence() const { return {}; }
  /// As the first of its kind that is added to a shot.
  static Smoke added() { return {{0.95, 0.6, 0.28}}; }

  static Table<Smoke> settings() {
    return TableOf<Smoke>()
        .touching(Touches::flow)
        .add(&Smoke::color, "color", "Colour", "Colour of the fluid. Colours of smoke mix where they meet.")
        .done();
  }
};

}  // namespace pour
