// Results that took long to make, kept for as long as they are asked for now and then.
#pragma once
#include <list>
#include <memory>
#include <mutex>
#include <utility>

namespace pour {

/// The results of the keys that were asked for last. Safe to use from many threads.
template <class Key, class Value>
class Shelf {
 public:
  explicit Shelf(size_t most) : most_(most) {}

  /// What `make()` gives for this key, now or the last time.
  template <class F>
  std::shared_ptr<const Value> get(const Key& key, const F& make) {
    if (auto found = find(key)) return found;
    auto made = std::make_shared<const Value>(make());
    const std::lock_guard lock(mutex_);
    items_.emplace_front(key, made);
    if (items_.size() > most_) items_.pop_back();
    return made;
  }

 private:
  std::shared_ptr<const Value> find(const Key& key) {
    const std::lock_guard lock(mutex_);
    for (auto i = items_.begin(); i != items_.end(); ++i)
      if (i->first == key) {
        items_.splice(items_.begin(), items_, i);
        return items_.front().second;
      }
    return nullptr;
  }

  const size_t most_;
  std::mutex mutex_;
  std::list<std::pair<Key, std::shared_ptr<const Value>>> items_;
};

}  // namespace pour
