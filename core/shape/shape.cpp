#include "shape/shape.h"

#include <array>
#include <list>
#include <mutex>

namespace pour {
namespace {

constexpr size_t kind_count = std::variant_size_v<Shape>;
using Kinds = std::make_index_sequence<kind_count>;

/// Shapes whose bodies were asked for last, the newest first.
class Shelf {
 public:
  std::shared_ptr<const std::vector<Body>> find(const Shape& shape) {
    const std::lock_guard lock(mutex_);
    for (auto i = items_.begin(); i != items_.end(); ++i)
      if (i->first == shape) {
        items_.splice(items_.begin(), items_, i);
        return items_.front().second;
      }
    return nullptr;
  }
  void put(const Shape& shape, std::shared_ptr<const std::vector<Body>> bodies) {
    const std::lock_guard lock(mutex_);
    items_.emplace_front(shape, std::move(bodies));
    if (items_.size() > most) items_.pop_back();
  }

 private:
  static constexpr size_t most = 64;
  std::mutex mutex_;
  std::list<std::pair<Shape, std::shared_ptr<const std::vector<Body>>>> items_;
};

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
  static Shelf shelf;
  if (auto found = shelf.find(shape)) return found;
  auto made = std::make_shared<const std::vector<Body>>(
      std::visit([&](const auto& s) { return s.bodies(stop); }, shape));
  shelf.put(shape, made);
  return made;
}

}  // namespace pour
