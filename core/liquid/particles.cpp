#include "liquid/particles.h"

#include <cmath>
#include <memory>
#include <tuple>

#include "base/parallel.h"
#include "base/srgb.h"

namespace pour {

void Particles::resize(size_t n) {
  each([n](auto& v) { v.resize(n); });
}

uint32_t pack_tint(const Vec3d& linear) {
  uint32_t out = 1;
  for (int k = 0; k < 3; ++k)
    out = out << 8 | uint32_t(std::lround(255 * to_srgb(std::clamp(linear[k], 0.0, 1.0))));
  return out;
}

Vec3f unpack_tint(uint32_t tint) {
  Vec3f out;
  for (int k = 0; k < 3; ++k) out[k] = from_srgb(float(tint >> (16 - 8 * k) & 255) / 255);
  return out;
}

BlockTable::BlockTable(const BlockGrid& g) {
  if (!g.blocks()) return;
  Vec3i high = g.keys().front().at;
  low_ = high;
  for (const BlockKey& k : g.keys())
    if (!k.room) low_ = min(low_, k.at), high = max(high, k.at);
  count_ = high - low_ + Vec3i{1, 1, 1};
  blocks_.assign(size_t(count_.x) * size_t(count_.y) * size_t(count_.z), -1);
  for (int b = first_block; b < g.size(); ++b) {
    if (g.key(b).room) continue;
    const Vec3i p = g.key(b).at - low_;
    blocks_[(size_t(p.z) * size_t(count_.y) + size_t(p.y)) * size_t(count_.x) + size_t(p.x)] = b;
  }
}

ParticleCells sort_particles(Particles& p, const BlockGrid& g) {
  constexpr size_t chunk = 16384;
  const size_t n = p.size(), chunks = (n + chunk - 1) / chunk, blocks = size_t(g.blocks());
  const BlockTable table(g);
  // Of each particle its cell, numbered through all blocks; those outside come behind all others.
  const size_t outside = blocks;
  const auto cell = std::make_unique_for_overwrite<uint32_t[]>(n);
  std::vector<std::vector<uint32_t>> count(chunks, std::vector<uint32_t>(blocks + 1, 0));
  parallel_for(
      chunks,
      [&](size_t k) {
        for (size_t i = k * chunk; i < std::min(n, (k + 1) * chunk); ++i) {
          Vec3i at;
          for (int a = 0; a < 3; ++a) at[a] = int(std::floor(p.place[size_t(a)][i]));
          const int b = table.find({at.x >> 3, at.y >> 3, at.z >> 3});
          const size_t block = b < 0 ? outside : size_t(b - first_block);
          cell[i] = uint32_t(block * block_cells) +
                    uint32_t(b < 0 ? 0 : ((at.z & 7) * 8 + (at.y & 7)) * 8 + (at.x & 7));
          ++count[k][block];
        }
      },
      1);
  std::vector<uint32_t> first(blocks + 2, 0);
  uint32_t sum = 0;
  for (size_t b = 0; b <= blocks; ++b) {
    first[b] = sum;
    for (auto& of_chunk : count) {
      const uint32_t here = of_chunk[b];
      of_chunk[b] = sum, sum += here;
    }
  }
  first[blocks + 1] = sum;
  const auto by_block = std::make_unique_for_overwrite<uint32_t[]>(n);
  parallel_for(
      chunks,
      [&](size_t k) {
        for (size_t i = k * chunk; i < std::min(n, (k + 1) * chunk); ++i)
          by_block[count[k][cell[i] / block_cells]++] = uint32_t(i);
      },
      1);
  ParticleCells out;
  const size_t kept = first[outside];
  out.cell_start.assign(blocks * block_cells + 1, uint32_t(kept));
  const auto order = std::make_unique_for_overwrite<uint32_t[]>(kept);
  parallel_for(blocks, [&](size_t b) {
    std::array<uint32_t, block_cells> at{};
    for (uint32_t i = first[b]; i < first[b + 1]; ++i) ++at[cell[by_block[i]] % block_cells];
    uint32_t next = first[b];
    for (size_t c = 0; c < block_cells; ++c) {
      out.cell_start[b * block_cells + c] = next;
      next += std::exchange(at[c], next);
    }
    for (uint32_t i = first[b]; i < first[b + 1]; ++i)
      order[at[cell[by_block[i]] % block_cells]++] = by_block[i];
  });
  // Each array takes the place of the one before, so that none has to be made empty first.
  std::tuple<std::vector<float>, std::vector<uint32_t>, std::vector<uint8_t>, std::vector<uint16_t>> spare;
  p.each([&](auto& values) {
    auto& sorted = std::get<std::remove_reference_t<decltype(values)>>(spare);
    sorted.resize(kept);
    parallel_for(
        kept, [&](size_t i) { sorted[i] = values[order[i]]; }, 4096);
    std::swap(values, sorted);
  });
  return out;
}

}  // namespace pour
