// The sparse grid: who is next to whom, what lies outside, and fields on it.
#include "solve/block_grid.h"

#include <gtest/gtest.h>

#include <cstdint>
#include <cstring>

using namespace pour;

namespace {

BlockGrid grid_of(std::vector<BlockKey> keys) {
  // Open above the floor, a wall below it.
  return BlockGrid(std::move(keys),
                   [](const BlockKey& k) { return k.at.y < 0 ? outside_wall : outside_open; });
}

}  // namespace

TEST(BlockGrid, SortsByRoomThenZThenYThenX) {
  const BlockGrid g =
      grid_of({{1, {0, 0, 0}}, {0, {1, 0, 0}}, {0, {0, 0, 1}}, {0, {0, 1, 0}}, {0, {0, 0, 0}}});
  ASSERT_EQ(g.blocks(), 5);
  EXPECT_EQ(g.size(), 5 + first_block);
  const std::vector<BlockKey> wanted{
      {0, {0, 0, 0}}, {0, {1, 0, 0}}, {0, {0, 1, 0}}, {0, {0, 0, 1}}, {1, {0, 0, 0}}};
  EXPECT_EQ(g.keys(), wanted);
  for (int b = first_block; b < g.size(); ++b) EXPECT_EQ(g.find(g.key(b)), b);
  EXPECT_EQ(g.find({0, {5, 5, 5}}), -1);
  EXPECT_EQ(g.find({2, {0, 0, 0}}), -1);
}

TEST(BlockGrid, NeighboursAreThoseOfTheSameRoom) {
  std::vector<BlockKey> keys;
  for (int room = 0; room < 2; ++room)
    for (int z = -1; z <= 1; ++z)
      for (int y = 0; y <= 2; ++y)
        for (int x = -2; x <= 0; ++x) keys.push_back({room, {x, y, z}});
  const BlockGrid g = grid_of(keys);
  for (int b = first_block; b < g.size(); ++b) {
    const BlockKey& k = g.key(b);
    const int* around = g.around(b);
    EXPECT_EQ(around[13], b);
    for (int n = 0; n < 27; ++n) {
      const BlockKey next{k.room, k.at + Vec3i{n % 3 - 1, n / 3 % 3 - 1, n / 9 - 1}};
      const int found = g.find(next);
      EXPECT_EQ(around[n], found >= 0 ? found : next.at.y < 0 ? outside_wall : outside_open);
    }
    EXPECT_EQ(around[x_minus], around[12]);
    EXPECT_EQ(around[y_plus], around[16]);
    EXPECT_EQ(around[z_plus], around[22]);
  }
}

TEST(BlockGrid, AnEmptyGridHasOnlyItsOutside) {
  const BlockGrid g = grid_of({});
  EXPECT_EQ(g.blocks(), 0);
  EXPECT_EQ(g.size(), first_block);
  EXPECT_EQ(g.find({0, {0, 0, 0}}), -1);
}

TEST(BlockField, IsZeroAlignedAndCopiesByValue) {
  Floats a(7);
  EXPECT_EQ(a.count(), 7u * block_cells);
  EXPECT_EQ(a.bytes(), a.count() * sizeof(float));
  EXPECT_EQ(reinterpret_cast<uintptr_t>(a.data()) % 64, 0u);
  for (size_t i = 0; i < a.count(); ++i) ASSERT_EQ(a.data()[i], 0.f);
  a.block(3)[5] = 2;
  Floats b = a;
  b.block(3)[5] = 4;
  EXPECT_EQ(a.block(3)[5], 2.f);
  Floats c = std::move(b);
  EXPECT_EQ(c.block(3)[5], 4.f);
  EXPECT_EQ(b.size(), 0) << "moved from";
  a = c;
  EXPECT_EQ(a.block(3)[5], 4.f);
  a.resize(2);
  for (size_t i = 0; i < a.count(); ++i) ASSERT_EQ(a.data()[i], 0.f) << "a new size starts from zero";
  a.resize(0);
  EXPECT_EQ(a.data(), nullptr);
}

TEST(BlockField, LargeFieldsAreZeroToo) {
  Bytes large(20000);  // 10 MB: from another kind of memory
  for (size_t i = 0; i < large.count(); i += 97) ASSERT_EQ(large.data()[i], 0);
  EXPECT_EQ(reinterpret_cast<uintptr_t>(large.data()) % 64, 0u);
}

TEST(BlockField, MemoryThatServesAgainIsZero) {
  // Large fields come from memory that was given back; nothing of what stood there may be seen.
  for (int round = 0; round < 6; ++round) {
    Floats field(600 + round);  // more than a megabyte
    for (size_t i = 0; i < field.count(); ++i) ASSERT_EQ(field.data()[i], 0.f) << round << ", " << i;
    std::fill_n(field.data(), field.count(), 7.f);
  }
}

TEST(BlockField, IsCopiedAndMovedWhole) {
  Floats a(700);
  for (size_t i = 0; i < a.count(); ++i) a.data()[i] = float(i % 1000);
  Floats b = a, c;
  EXPECT_EQ(std::memcmp(a.data(), b.data(), a.bytes()), 0);
  const float* place = b.data();
  c = std::move(b);
  EXPECT_EQ(c.data(), place) << "moved, not copied";
  EXPECT_EQ(b.size(), 0);
  c.resize(2);
  EXPECT_EQ(c.count(), size_t(2 * block_cells));
  EXPECT_EQ(c.data()[5], 0.f);
}
