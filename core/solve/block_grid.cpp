#include "solve/block_grid.h"

#include <sys/mman.h>

#include <algorithm>
#include <array>
#include <cstdlib>
#include <mutex>
#include <new>

#include "base/parallel.h"

namespace pour {

namespace {

constexpr size_t large = size_t(1) << 20;

/// What large pieces of memory really hold: few different sizes, so that one that was given back serves
/// again.
size_t rounded(size_t bytes) {
  size_t step = large / 8;
  while (step * 16 < bytes) step *= 2;
  return (bytes + step - 1) / step * step;
}

void taken(size_t bytes) {
  FieldMemory& use = field_memory_use();
  const size_t now = use.now += bytes;
  size_t most = use.most;
  while (most < now && !use.most.compare_exchange_weak(most, now)) {
  }
}
void unmap(void* at, size_t bytes) {
  munmap(at, bytes);
  field_memory_use().now -= bytes;
}

/// The last large pieces given back. The parts of a step take turns with the same memory, and when the grid
/// changes a little, every field moves to memory like that which the one before it has left; fresh pages from
/// the system would cost more than the move.
class Spare {
 public:
  void* take(size_t bytes) {
    const std::lock_guard lock(mutex_);
    for (Piece& p : pieces_)
      if (p.bytes == bytes) {
        void* found = p.at;
        p = {};
        return found;
      }
    return nullptr;
  }
  void keep(void* at, size_t bytes) {
    Piece old{at, bytes};
    {
      const std::lock_guard lock(mutex_);
      for (Piece& p : pieces_)
        if (!p.at) {
          p = old;
          return;
        }
      std::swap(old, pieces_[next_]);
      next_ = (next_ + 1) % pieces_.size();
    }
    if (old.at) unmap(old.at, old.bytes);
  }
  void release() {
    const std::lock_guard lock(mutex_);
    for (Piece& p : pieces_)
      if (p.at) unmap(p.at, p.bytes);
    pieces_ = {};
  }

 private:
  struct Piece {
    void* at = nullptr;
    size_t bytes = 0;
  };
  std::mutex mutex_;
  std::array<Piece, 16> pieces_;
  size_t next_ = 0;
};
Spare spare;

}  // namespace

void* field_memory(size_t bytes) {
  if (bytes >= large) {
    const size_t all = rounded(bytes);
    if (void* p = spare.take(all)) return p;
    void* p = mmap(nullptr, all, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);
    if (p == MAP_FAILED) throw std::bad_alloc();
    madvise(p, all, MADV_HUGEPAGE);
    taken(all);
    return p;
  }
  void* p = std::aligned_alloc(64, (bytes + 63) / 64 * 64);
  if (!p) throw std::bad_alloc();
  taken((bytes + 63) / 64 * 64);
  return p;
}

void free_field_memory(void* p, size_t bytes) {
  if (!p) return;
  if (bytes >= large)
    spare.keep(p, rounded(bytes));
  else
    std::free(p), field_memory_use().now -= (bytes + 63) / 64 * 64;
}

FieldMemory& field_memory_use() {
  static FieldMemory use;
  return use;
}

void release_field_memory() { spare.release(); }

BlockGrid::BlockGrid(std::vector<BlockKey> keys, const std::function<int(const BlockKey&)>& outside)
    : keys_(std::move(keys)) {
  std::sort(keys_.begin(), keys_.end());
  keys_.erase(std::unique(keys_.begin(), keys_.end()), keys_.end());
  around_.assign(size_t(size()) * 27, outside_open);
  std::fill_n(around_.begin() + 27 * outside_wall, 27, outside_wall);
  parallel_for(keys_.size(), [&](size_t i) {
    const BlockKey& k = keys_[i];
    int* out = &around_[(i + first_block) * 27];
    for (int dz = -1; dz <= 1; ++dz)
      for (int dy = -1; dy <= 1; ++dy)
        for (int dx = -1; dx <= 1; ++dx, ++out) {
          const BlockKey n{k.room, {k.at.x + dx, k.at.y + dy, k.at.z + dz}};
          const int found = find(n);
          *out = found >= 0 ? found : outside(n);
        }
  });
}

int BlockGrid::find(const BlockKey& k) const {
  const auto it = std::lower_bound(keys_.begin(), keys_.end(), k);
  return it != keys_.end() && *it == k ? int(it - keys_.begin()) + first_block : -1;
}

}  // namespace pour
