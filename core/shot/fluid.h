// What is poured. A new kind of fluid is a file in fluids/ and its name in this list.
#pragma once
#include <span>
#include <string>
#include <variant>

#include "shot/fluids/liquid.h"
#include "shot/fluids/smoke.h"
#include "shot/track.h"

namespace pour {

using FluidKind = std::variant<Smoke, Liquid>;

struct Fluid {
  std::string id, name;
  FluidKind what;
  Tracks tracks;
  bool operator==(const Fluid&) const = default;

  template <class Kind>
  const Kind* as() const {
    return std::get_if<Kind>(&what);
  }
  template <class Kind>
  Kind* as() {
    return std::get_if<Kind>(&what);
  }
  /// The solver that computes it.
  FlowKind flow() const {
    return std::visit([](const auto& kind) { return kind.flow; }, what);
  }
  const Color& color() const {
    return std::visit([](const auto& kind) -> const Color& { return kind.color; }, what);
  }
  Color& color() {
    return std::visit([](auto& kind) -> Color& { return kind.color; }, what);
  }
};

/// Key and name of each kind, by its index in FluidKind.
std::span<const Option> fluid_kinds();
/// A fluid of this kind as it is added to a shot, with its usual name and without an id.
Fluid new_fluid(int kind);

}  // namespace pour
