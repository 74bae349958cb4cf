#include "shape/shape.h"

#include <array>

#include "base/shelf.h"

namespace pour {
namespace {

constexpr size_t kind_count = std::variant_size_v<Shape>;
using Kinds = std::make_index_sequence<kind_count>;

}  // namespace

std::span<const Option> kinds() {
  static const auto all = []<size_t... i>(std::index_sequence<i...>) {
    return std::array<Option, kind_count>{std::variant_alternative_t<i, Shape>::kind...};
  }
  (Kinds());
  return all;
}

Shape new_shape(int kind) {
  Shape out;
  [&]<size_t... i>(std::index_sequence<i...>) { (void)((int(i) == kind && (out.emplace<i>(), true)) || ...); }
  (Kinds());
  return out;
}

const char* sentence_of(const Shape& shape) {
  return std::visit([](const auto& s) { return s.sentence; }, shape);
}

std::shared_ptr<const std::vector<Body>> bodies_of(const Shape& shape, const StopAsked& stop) {
  static Shelf<Shape, std::vector<Body>> shelf(64);
  return shelf.get(shape, [&] { return std::visit([&](const auto& s) { return s.bodies(stop); }, shape); });
}

}  // namespace pour
