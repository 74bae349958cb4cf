#include "shape/shape.h"

#include <array>

#include "base/shelf.h"
#include "shape/seeds.h"

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
  // Only here: it is read by another program, which is not for every model that is made.
  if (auto* model = std::get_if<Model>(&out)) model->file = shipped_model("oddlark-jar.obj");
  return out;
}

const char* sentence_of(const Shape& shape) {
  return std::visit([](const auto& s) { return s.sentence; }, shape);
}

std::shared_ptr<const std::vector<Body>> bodies_of(const Shape& shape, const StopAsked& stop) {
  static Shelf<Shape, std::vector<Body>> shelf(64);
  return shelf.get(shape, [&] {
    std::vector<Body> bodies = std::visit([&](const auto& s) { return s.bodies(stop); }, shape);
    if (std::holds_alternative<Model>(shape))  // which may be of any shape
      for (Body& b : bodies) find_seeds(b);
    return bodies;
  });
}

}  // namespace pour
