// A cache of slow results.
#pragma once
#include <tbb/task_arena.h>

#include <algorithm>
#include <condition_variable>
#include <list>
#include <memory>
#include <mutex>
#include <utility>

namespace pour {

/// Keeps the results of the most recently used keys. Thread-safe.
template <class Key, class Value>
class Shelf {
 public:
  explicit Shelf(size_t most) : most_(most) {}

  /// The result of `make()` for this key, made once. Other threads wait while it is made.
  template <class F>
  std::shared_ptr<const Value> get(const Key& key, const F& make) {
    std::unique_lock lock(mutex_);
    const auto is_made = [&] { return std::find(making_.begin(), making_.end(), key) != making_.end(); };
    for (;; through_.wait(lock)) {
      if (auto found = find(key)) return found;
      if (!is_made()) break;
    }
    const auto mine = making_.insert(making_.end(), key);
    lock.unlock();
    std::shared_ptr<const Value> made;
    const auto end = [&] {
      lock.lock();
      making_.erase(mine);
      if (made) items_.emplace_front(key, made);
      if (items_.size() > most_) items_.pop_back();
      through_.notify_all();
    };
    try {
      // This thread must not take other work meanwhile: it could ask for the same key.
      tbb::this_task_arena::isolate([&] { made = std::make_shared<const Value>(make()); });
    } catch (...) {
      end();
      throw;
    }
    end();
    return made;
  }

 private:
  std::shared_ptr<const Value> find(const Key& key) {
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
  std::list<Key> making_;
  std::condition_variable through_;
};

}  // namespace pour
