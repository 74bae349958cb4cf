// A sparse grid of 8³-cell blocks in separate rooms, and fields on it.
//
// Blocks are sorted by room, then z, y, x. Rooms are never adjacent, even where they share a block
// coordinate, so two letters a cell apart cannot leak into each other on any level of coarsening. Indices 0
// and 1 are the outside: 0 open air, 1 wall. Fields are zero there unless their owner writes other values.
// Cell (x, y, z) of a block is at (z · 8 + y) · 8 + x, so a row along x is one vector of eight floats.
#pragma once
#include <algorithm>
#include <atomic>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <vector>

#include "base/vec.h"

namespace pour {

constexpr int block_edge = 8;
constexpr int block_cells = 512;
constexpr int outside_open = 0, outside_wall = 1, first_block = 2;

struct BlockKey {
  int room = 0;
  Vec3i at;  // in blocks
  bool operator==(const BlockKey&) const = default;
  bool operator<(const BlockKey& o) const {
    return room != o.room   ? room < o.room
           : at.z != o.at.z ? at.z < o.at.z
           : at.y != o.at.y ? at.y < o.at.y
                            : at.x < o.at.x;
  }
};

class BlockGrid {
 public:
  BlockGrid() = default;
  /// Keys need not be sorted. `outside` classifies a key that is not in the grid:
  /// outside_open or outside_wall.
  BlockGrid(std::vector<BlockKey> keys, const std::function<int(const BlockKey&)>& outside);

  /// Number of entries a field needs: blocks plus the two outside ones.
  int size() const { return int(keys_.size()) + first_block; }
  int blocks() const { return int(keys_.size()); }
  const BlockKey& key(int block) const { return keys_[size_t(block - first_block)]; }
  const std::vector<BlockKey>& keys() const { return keys_; }
  /// The 27 blocks around and including `block`; index (dz + 1) · 9 + (dy + 1) · 3 + dx + 1.
  const int* around(int block) const { return &around_[size_t(block) * 27]; }
  /// Index of a key, or -1.
  int find(const BlockKey&) const;

 private:
  std::vector<BlockKey> keys_;
  std::vector<int> around_;
};

// Indices of the six neighbours in around().
constexpr int x_minus = 12, x_plus = 14, y_minus = 10, y_plus = 16, z_minus = 4, z_plus = 22;

/// Uninitialised memory for fields, aligned to 64 bytes, with large pages for large fields. Freed memory is
/// kept for the next field of its size until released.
void* field_memory(size_t bytes);
void free_field_memory(void*, size_t bytes);
void release_field_memory();
/// Bytes taken from the system, and their peak since `most` was reset.
struct FieldMemory {
  std::atomic<size_t> now{0}, most{0};
};
FieldMemory& field_memory_use();

struct Unset {};
constexpr Unset unset{};  // makes a field with uninitialised blocks; the outside is still zero

/// Values for all cells of a grid, zero when made.
template <class T>
class BlockField {
 public:
  BlockField() = default;
  explicit BlockField(int size) { resize(size); }
  BlockField(int size, Unset) { resize(size, unset); }
  BlockField(const BlockField& o) : BlockField(o.size_, unset) {
    if (size_) std::copy_n(o.data_, count(), data_);
  }
  BlockField(BlockField&& o) noexcept : data_(o.data_), size_(o.size_) { o.data_ = nullptr, o.size_ = 0; }
  BlockField& operator=(BlockField o) noexcept {
    std::swap(data_, o.data_), std::swap(size_, o.size_);
    return *this;
  }
  ~BlockField() { free_field_memory(data_, bytes()); }

  /// Discards the old contents.
  void resize(int size) {
    resize(size, unset);
    std::fill_n(data_, count(), T{});
  }
  void resize(int size, Unset) {
    free_field_memory(data_, bytes());
    data_ = nullptr, size_ = size;
    if (size) data_ = static_cast<T*>(field_memory(bytes()));
    clear_outside();
  }
  void clear_outside() { std::fill_n(data_, size_t(std::min(size_, first_block)) * block_cells, T{}); }
  int size() const { return size_; }
  T* block(int i) { return data_ + size_t(i) * block_cells; }
  const T* block(int i) const { return data_ + size_t(i) * block_cells; }
  T* data() { return data_; }
  const T* data() const { return data_; }
  size_t count() const { return size_t(size_) * block_cells; }
  size_t bytes() const { return count() * sizeof(T); }

 private:
  T* data_ = nullptr;
  int size_ = 0;
};

using Floats = BlockField<float>;
using Bytes = BlockField<uint8_t>;

}  // namespace pour
