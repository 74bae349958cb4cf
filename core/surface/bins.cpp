#include "surface/bins.h"

namespace pour {

Bins::Bins(const std::vector<Vec3f>& places, float cell) : cell_(cell) {
  const size_t n = places.size();
  std::vector<uint32_t> block(n);
  std::vector<uint16_t> inside(n);
  uint64_t last = ~uint64_t(0);
  int of_last = -1;
  for (size_t i = 0; i < n; ++i) {
    Vec3i c;
    for (int k = 0; k < 3; ++k) c[k] = int(std::floor(places[i][k] / cell));
    const Vec3i b{c.x >> 3, c.y >> 3, c.z >> 3};
    if (const uint64_t key = key_of(b); key != last) {
      const auto [found, fresh] = index_.try_emplace(key, int(blocks_.size()));
      if (fresh) blocks_.push_back({b, {}});
      last = key, of_last = found->second;
    }
    block[i] = uint32_t(of_last), inside[i] = uint16_t(cell_of(c.x & 7, c.y & 7, c.z & 7));
    ++blocks_[block[i]].start[inside[i] + 1u];
  }
  uint32_t sum = 0;
  for (Block& b : blocks_) {
    b.start[0] = sum;
    for (size_t c = 1; c < b.start.size(); ++c) sum += b.start[c], b.start[c] = sum;
  }
  places_.resize(n), order_.resize(n);
  for (auto& axis : axes_) axis.resize(n + 8);
  std::vector<std::array<uint32_t, side * side * side>> next(blocks_.size());
  for (size_t b = 0; b < blocks_.size(); ++b)
    std::copy_n(blocks_[b].start.begin(), next[b].size(), next[b].begin());
  for (size_t i = 0; i < n; ++i) {
    const uint32_t to = next[block[i]][inside[i]]++;
    places_[to] = places[i], order_[to] = uint32_t(i);
    for (int k = 0; k < 3; ++k) axes_[size_t(k)][to] = places[i][k];
  }
}

uint32_t Bins::count(const Vec3i& cell) const {
  const int n = block_at({cell.x >> 3, cell.y >> 3, cell.z >> 3});
  if (n < 0) return 0;
  const size_t c = cell_of(cell.x & 7, cell.y & 7, cell.z & 7);
  return blocks_[size_t(n)].start[c + 1] - blocks_[size_t(n)].start[c];
}

}  // namespace pour
