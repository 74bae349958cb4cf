#include "shot/fluid.h"

#include <array>

#include "shot/shot.h"

namespace pour {
namespace {

using FluidKinds = std::make_index_sequence<std::variant_size_v<FluidKind>>;

}  // namespace

std::span<const Option> fluid_kinds() {
  static const auto all = []<size_t... i>(std::index_sequence<i...>) {
    return std::array<Option, sizeof...(i)>{std::variant_alternative_t<i, FluidKind>::kind...};
  }
  (FluidKinds());
  return all;
}

Fluid new_fluid(int kind) {
  Fluid out;
  [&]<size_t... i>(std::index_sequence<i...>) {
    (void)((int(i) == kind && (out.what = std::variant_alternative_t<i, FluidKind>::added(), true)) || ...);
  }
  (FluidKinds());
  out.name = std::visit([](const auto& own) { return own.usual_name; }, out.what);
  return out;
}

template <>
const Table<Fluid>& table() {
  static const Table<Fluid> rows = [] {
    TableOf<Fluid> b;
    b.touching(Touches::name).add(&Fluid::name, "name", "Name", "Name of the fluid.");
    b.touching(Touches::layout)
        .add<Choice>(
            "kind", "Kind", "Smoke drifts in the air. Liquid falls, splashes and settles.",
            [](const Fluid& f) { return Choice{int(f.what.index())}; },
            [](Fluid& f, const Choice& c) {
              if (size_t(c.index) == f.what.index()) return;
              const Color color = f.color();
              f.what = new_fluid(c.index).what, f.color() = color;
              drop_lost_tracks(f, settings_of(f));
            })
        .words(fluid_kinds());
    return b.done();
  }();
  return rows;
}

const Table<Fluid>& settings_of(const Fluid& fluid) {
  static const auto all = []<size_t... i>(std::index_sequence<i...>) {
    std::vector<Table<Fluid>> out{as_settings_of<Fluid, std::variant_alternative_t<i, FluidKind>>(
        &Fluid::what, std::variant_alternative_t<i, FluidKind>::settings())...};
    for (Table<Fluid>& rows : out) rows.insert(rows.begin(), table<Fluid>().begin(), table<Fluid>().end());
    return out;
  }
  (FluidKinds());
  return all[fluid.what.index()];
}

}  // namespace pour
