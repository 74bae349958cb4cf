// Points sorted into the cells of a sparse lattice, for neighbour searches.
#pragma once
#include <array>
#include <unordered_map>
#include <vector>

#include "base/vec.h"

namespace pour {

class Bins {
 public:
  static constexpr int side = 8;  // cells of a block
  struct Block {
    Vec3i at;  // in blocks
    std::array<uint32_t, side * side * side + 1> start{};
  };

  Bins(const std::vector<Vec3f>& places, float cell);

  float cell() const { return cell_; }
  const std::vector<Block>& blocks() const { return blocks_; }
  /// The points sorted by block and cell, with their original indices.
  const std::vector<Vec3f>& places() const { return places_; }
  const std::vector<uint32_t>& order() const { return order_; }
  int block_at(const Vec3i& at) const {
    const auto found = index_.find(key_of(at));
    return found == index_.end() ? -1 : found->second;
  }
  /// Number of points in a cell.
  uint32_t count(const Vec3i& cell) const;
  /// Calls f(first, end) for runs of sorted points in the cells that a cube around p touches, in a fixed
  /// order.
  template <class F>
  void runs_near(const Vec3f& p, float reach, const F& f) const;
  /// Calls f(i) for each of these points.
  template <class F>
  void near(const Vec3f& p, float reach, const F& f) const {
    runs_near(p, reach, [&](uint32_t first, uint32_t end) {
      for (uint32_t i = first; i < end; ++i) f(size_t(i));
    });
  }
  /// Positions by axis, padded so that eight more may be read.
  const std::array<std::vector<float>, 3>& axes() const { return axes_; }

 private:
  static uint64_t key_of(const Vec3i& b) {
    const auto part = [](int v) { return uint64_t(v + (1 << 20)) & 0x1fffff; };
    return part(b.x) | part(b.y) << 21 | part(b.z) << 42;
  }
  static size_t cell_of(int x, int y, int z) { return size_t((z * side + y) * side + x); }

  float cell_;
  std::vector<Block> blocks_;
  std::unordered_map<uint64_t, int> index_;
  std::vector<Vec3f> places_;
  std::array<std::vector<float>, 3> axes_;
  std::vector<uint32_t> order_;
};

template <class F>
void Bins::runs_near(const Vec3f& p, float reach, const F& f) const {
  Vec3i low, high;
  for (int k = 0; k < 3; ++k)
    low[k] = int(std::floor((p[k] - reach) / cell_)), high[k] = int(std::floor((p[k] + reach) / cell_));
  Vec3i b;
  for (b.z = low.z >> 3; b.z <= high.z >> 3; ++b.z)
    for (b.y = low.y >> 3; b.y <= high.y >> 3; ++b.y)
      for (b.x = low.x >> 3; b.x <= high.x >> 3; ++b.x) {
        const int n = block_at(b);
        if (n < 0) continue;
        const Block& block = blocks_[size_t(n)];
        const Vec3i from = max(low - b * side, {0, 0, 0}), to = min(high - b * side, {7, 7, 7});
        for (int z = from.z; z <= to.z; ++z)
          for (int y = from.y; y <= to.y; ++y)
            f(block.start[cell_of(from.x, y, z)], block.start[cell_of(to.x, y, z) + 1]);
      }
}

}  // namespace pour
