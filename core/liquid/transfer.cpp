// Between particles and faces: momentum one way, velocity and its slope the other.
#include <algorithm>
#include <cmath>
#include <cstring>

#include "base/parallel.h"
#include "base/simd.h"
#include "liquid/liquid.h"
#include "solve/cells.h"

namespace pour {
namespace {

// Values at the lattice points -1 to 8 of a block along each axis.
constexpr int across = 10, points = across * across * across;
constexpr int index_of(int x, int y, int z) { return ((z + 1) * across + y + 1) * across + x + 1; }
constexpr int corner_step[8] = {0,
                                1,
                                across,
                                across + 1,
                                across* across,
                                across* across + 1,
                                across* across + across,
                                across* across + across + 1};

struct Gathered {
  float momentum[points], weight[points];
};
constexpr int all_middles = 3;  // component of the cells' middles, which stands for no velocity

/// The boxes between the lattice points of a component, with what particles leave at the eight corners of
/// each: eight numbers beside each other, so that a particle adds to all of them at once.
struct Boxes {
  static constexpr int across = 9, count = across * across * across;
  alignas(32) float momentum[count][8], weight[count][8];
};

/// Eight values, or as many as there are with more like the last.
v8 read_eight(const float* from, uint32_t there) {
  if (there >= 8) return load(from);
  float few[8];
  for (uint32_t j = 0; j < 8; ++j) few[j] = from[std::min(j, there - 1)];
  return load(few);
}

/// Contributions of a block's particles to the lattice points of a component.
void scatter(const Particles& p, uint32_t first, uint32_t last, const Vec3i& block, int k, Gathered& tile) {
  static thread_local Boxes boxes;
  std::fill_n(&boxes.momentum[0][0], Boxes::count * 8, 0.f);
  std::fill_n(&boxes.weight[0][0], Boxes::count * 8, 0.f);
  const v8 is_x{0, 1, 0, 1, 0, 1, 0, 1}, is_y{0, 0, 1, 1, 0, 0, 1, 1}, is_z{0, 0, 0, 0, 1, 1, 1, 1};
  const v8 one = splat(1), to_x = 2 * is_x - one, to_y = 2 * is_y - one, to_z = 2 * is_z - one;
  // One of a box counts from lattice point -1.
  float shift[3];
  for (int a = 0; a < 3; ++a) shift[a] = (a == k ? 1.f : 0.5f) - float(block[a] * 8);
  const bool velocity = k != all_middles;
  const float* v = velocity ? p.velocity[size_t(k)].data() : nullptr;
  const float *sx = nullptr, *sy = nullptr, *sz = nullptr;
  if (velocity)
    sx = p.slope[size_t(3 * k)].data(), sy = p.slope[size_t(3 * k + 1)].data(),
    sz = p.slope[size_t(3 * k + 2)].data();
  // Of eight particles their boxes, and where in them they are.
  alignas(32) int box_of[8];
  alignas(32) float in_box[3][8];
  for (uint32_t n = first; n < last; ++n) {
    const uint32_t j = (n - first) % 8;
    if (j == 0) {
      v8i boxes_of{};
      for (int a = 2; a >= 0; --a) {
        const v8 x = read_eight(p.place[size_t(a)].data() + n, last - n) + splat(shift[a]);
        const v8 i = vmin(v8(_mm256_round_ps(__m256(x), _MM_FROUND_TO_ZERO | _MM_FROUND_NO_EXC)), splat(8));
        boxes_of = boxes_of * Boxes::across + __builtin_convertvector(i, v8i);
        store(in_box[a], x - i);
      }
      std::memcpy(box_of, &boxes_of, sizeof box_of);
    }
    const v8 fx = splat(in_box[0][j]), fy = splat(in_box[1][j]), fz = splat(in_box[2][j]);
    const int box = box_of[j];
    const v8 w = ((one - is_x) + to_x * fx) * ((one - is_y) + to_y * fy) * ((one - is_z) + to_z * fz);
    float* weight = boxes.weight[box];
    store(weight, load(weight) + w);
    if (!velocity) continue;
    const v8 there = splat(v[n]) + (is_x - fx) * sx[n] + (is_y - fy) * sy[n] + (is_z - fz) * sz[n];
    float* momentum = boxes.momentum[box];
    store(momentum, load(momentum) + w * there);
  }
  std::fill_n(tile.momentum, points, 0.f), std::fill_n(tile.weight, points, 0.f);
  for (int z = 0, box = 0; z < Boxes::across; ++z)
    for (int y = 0; y < Boxes::across; ++y)
      for (int x = 0; x < Boxes::across; ++x, ++box) {
        const int at = index_of(x - 1, y - 1, z - 1);
        for (int q = 0; q < 8; ++q) {
          tile.weight[at + corner_step[q]] += boxes.weight[box][q];
          if (velocity) tile.momentum[at + corner_step[q]] += boxes.momentum[box][q];
        }
      }
}

/// Sums the contributions of a block and its neighbours to its lattice points, in a fixed order.
struct Sum {
  float momentum[block_cells] = {}, weight[block_cells] = {};
  Sum(const std::vector<Gathered>& tiles, const std::vector<uint8_t>& filled, const int* around) {
    for (int n = 0; n < 27; ++n) {
      if (!filled[size_t(around[n])]) continue;
      const Vec3i d{n % 3 - 1, n / 3 % 3 - 1, n / 9 - 1};
      Vec3i from, to;
      for (int a = 0; a < 3; ++a) from[a] = d[a] > 0 ? 7 : 0, to[a] = d[a] < 0 ? 0 : 7;
      const Gathered& tile = tiles[size_t(around[n])];
      for (int z = from.z; z <= to.z; ++z)
        for (int y = from.y; y <= to.y; ++y)
          for (int x = from.x; x <= to.x; ++x) {
            const int c = (z * 8 + y) * 8 + x, t = index_of(x - 8 * d.x, y - 8 * d.y, z - 8 * d.z);
            momentum[c] += tile.momentum[t], weight[c] += tile.weight[t];
          }
    }
  }
};

/// How far a flat surface is from a point around which this part of the space is liquid, in cells, where
/// parts count by trilinear weights: ½ + d - d²/2 at a depth d.
float distance_of(float part) {
  const float off = std::min(std::abs(part - 0.5f), 0.5f), depth = 1 - std::sqrt(1 - 2 * off);
  return part > 0.5f ? -depth : depth;
}

/// Share of the space around each cell centre open to liquid, by trilinear weights.
void find_room(const LiquidState& s, const int* around, float (&room)[block_cells]) {
  float parts[points];
  for (int z = -1; z <= 8; ++z)
    for (int y = -1; y <= 8; ++y)
      for (int x = -1; x <= 8; ++x) {
        const int from = around[((z >> 3) + 1) * 9 + ((y >> 3) + 1) * 3 + (x >> 3) + 1];
        const uint8_t v = from == outside_wall ? uint8_t(0)
                          : from == outside_open
                              ? uint8_t(full_volume)
                              : s.geometry.volume.block(from)[((z & 7) * 8 + (y & 7)) * 8 + (x & 7)];
        parts[index_of(x, y, z)] = v >= full_volume ? 1 : float(v) / full_volume;
      }
  for (int c = 0; c < block_cells; ++c) {
    const int at = index_of(c & 7, c >> 3 & 7, c >> 6);
    float sum = 0;
    for (int n = 0; n < 27; ++n) {
      const int x = n % 3 - 1, y = n / 3 % 3 - 1, z = n / 9 - 1;
      sum += (x ? 0.125f : 0.75f) * (y ? 0.125f : 0.75f) * (z ? 0.125f : 0.75f) *
             parts[at + x + across * y + across * across * z];
    }
    room[c] = sum;
  }
}

}  // namespace

void LiquidSolver::gather(LiquidState& s) {
  const BlockGrid& g = s.grid;
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  std::vector<Gathered> tiles(static_cast<size_t>(g.size()));
  std::vector<uint8_t> filled(size_t(g.size()), 0);
  for (int b = first_block; b < g.size(); ++b)
    filled[size_t(b)] = cells_.begin(b, 0) < cells_.end(b, block_cells - 1);
  const auto each = [&](const auto& f) {
    parallel_for(size_t(g.blocks()), [&](size_t i) { f(int(i) + first_block); });
  };
  for (int k = 0; k <= all_middles; ++k) {
    each([&](int b) {
      if (filled[size_t(b)])
        scatter(s.particles, cells_.begin(b, 0), cells_.end(b, block_cells - 1), g.key(b).at, k,
                tiles[size_t(b)]);
    });
    if (k == all_middles) break;
    known_[k].resize(g.size());
    velocity[k]->resize(g.size(), unset);
    each([&](int b) {
      const Sum sum(tiles, filled, g.around(b));
      for (int c = 0; c < block_cells; ++c) {
        const bool is_known = sum.weight[c] > 1e-4f;
        known_[k].block(b)[c] = is_known;
        velocity[k]->block(b)[c] = is_known ? sum.momentum[c] / sum.weight[c] : 0;
      }
    });
  }
  s.surface.resize(g.size(), unset), s.crowd.resize(g.size(), unset);
  each([&](int b) {
    const Sum sum(tiles, filled, g.around(b));
    float room[block_cells];
    if (near_wall_[size_t(b)])
      find_room(s, g.around(b), room);
    else
      std::fill_n(room, block_cells, 1.f);
    for (int c = 0; c < block_cells; ++c) {
      const float part = room[c] > 0 ? sum.weight[c] / (8 * room[c]) : 0;
      s.surface.block(b)[c] = distance_of(std::min(part, 1.f)), s.crowd.block(b)[c] = part - 1;
    }
  });
  touch_walls(s, s.surface);
  keep_drops(s);
}

void LiquidSolver::touch_walls(const LiquidState& s, Floats& field) const {
  const BlockGrid& g = s.grid;
  const uint8_t* volume = s.geometry.volume.data();
  const auto is_open = [](uint8_t v) { return v > full_volume / 2 && v != outside_volume; };
  std::vector<std::vector<std::pair<int, float>>> cut(size_t(g.blocks()));
  parallel_for(cut.size(), [&](size_t i) {
    const int b = int(i) + first_block;
    if (!near_wall_[size_t(b)]) return;
    const int* around = g.around(b);
    for (int c = 0; c < block_cells; ++c) {
      const uint8_t v = s.geometry.volume.block(b)[c];
      if (!v || v == outside_volume || is_open(v)) continue;
      float sum = 0;
      int count = 0;
      for (int a = 0; a < 3; ++a)
        for (const size_t n : {before(around, b, c, a), after(around, b, c, a)})
          if (n >= size_t(first_block) * block_cells && is_open(volume[n])) sum += field.data()[n], ++count;
      if (count) cut[i].emplace_back(c, sum / float(count));
    }
  });
  parallel_for(cut.size(), [&](size_t i) {
    for (const auto& [c, value] : cut[i]) field.block(int(i) + first_block)[c] = value;
  });
}

void LiquidSolver::keep_drops(LiquidState& s) const {
  constexpr float inside = -0.1f;
  const BlockGrid& g = s.grid;
  std::vector<std::vector<int>> drops(size_t(g.blocks()));
  parallel_for(drops.size(), [&](size_t i) {
    const int b = int(i) + first_block;
    if (cells_.begin(b, 0) == cells_.end(b, block_cells - 1)) return;
    const int* around = g.around(b);
    for (int c = 0; c < block_cells; ++c) {
      if (!cells_.count(b, c) || s.surface.block(b)[c] < 0) continue;
      // Otherwise thicker liquid would drag a film on the floor along.
      const bool on_floor = !s.geometry.fy.block(b)[c];
      bool alone = true;
      for (int a = 0; a < 3; ++a)
        for (const size_t n : {before(around, b, c, a), after(around, b, c, a)})
          alone = alone && (n < size_t(first_block) * block_cells || s.surface.data()[n] >= 0);
      if (alone || on_floor) drops[i].push_back(c);
    }
  });
  parallel_for(drops.size(), [&](size_t i) {
    for (const int c : drops[i]) s.surface.block(int(i) + first_block)[c] = inside;
  });
}

namespace {

/// A block's faces of one component with two more on each side, so that a place up to a cell outside is
/// between them too.
struct Faces {
  static constexpr int across = 12;
  alignas(32) float value[across * across * across];

  Faces(const Floats& f, const int* around) {
    float* to = value;
    for (int z = -2; z < 10; ++z)
      for (int y = -2; y < 10; ++y, to += across) {
        const int at = ((z >> 3) + 1) * 9 + ((y >> 3) + 1) * 3, row = ((z & 7) * 8 + (y & 7)) * 8;
        const float *left = f.block(around[at]) + row, *here = f.block(around[at + 1]) + row,
                    *right = f.block(around[at + 2]) + row;
        to[0] = left[6], to[1] = left[7];
        std::copy_n(here, 8, to + 2);
        to[10] = right[0], to[11] = right[1];
      }
  }
};

/// Eight places in the tile of Faces.
struct Places {
  v8 at[3];
  /// Whether all of them are where values() can read.
  bool are_inside() const {
    v8i all{-1, -1, -1, -1, -1, -1, -1, -1};
    for (const v8& x : at) all &= (x >= splat(0.5f)) & (x < splat(float(Faces::across) - 1));
    return _mm256_movemask_ps(__m256(all)) == 0xff;
  }
};

/// The eight corners of the boxes that begin at eight lattice points: corner x + 2 y + 4 z of each. Plain
/// loads and a transposition take far less time than gathering does.
[[gnu::always_inline]] inline void read_corners(const Faces& faces, v8i first, v8 (&corner)[8]) {
  constexpr int n = Faces::across;
  const auto pair = [](const float* at) {
    return _mm_castsi128_ps(_mm_loadl_epi64(reinterpret_cast<const __m128i*>(at)));
  };
  const auto plane = [&](const float* at) { return _mm_movelh_ps(pair(at), pair(at + n)); };
  __m256 row[8], two[8], four[8];
  for (int j = 0; j < 8; ++j) {
    const float* at = faces.value + first[j];
    row[j] = _mm256_set_m128(plane(at + n * n), plane(at));
  }
  for (int j = 0; j < 4; ++j)
    two[2 * j] = _mm256_unpacklo_ps(row[2 * j], row[2 * j + 1]),
            two[2 * j + 1] = _mm256_unpackhi_ps(row[2 * j], row[2 * j + 1]);
  for (int j = 0; j < 2; ++j)
    for (int k = 0; k < 2; ++k) {
      const __m256 a = two[4 * j + k], b = two[4 * j + 2 + k];
      four[4 * j + 2 * k] = _mm256_shuffle_ps(a, b, 0x44),
                       four[4 * j + 2 * k + 1] = _mm256_shuffle_ps(a, b, 0xee);
    }
  for (int k = 0; k < 4; ++k) {
    corner[k] = v8(_mm256_permute2f128_ps(four[k], four[4 + k], 0x20));
    corner[4 + k] = v8(_mm256_permute2f128_ps(four[k], four[4 + k], 0x31));
  }
}

/// Values of component k at eight places, and where wanted their slopes.
[[gnu::always_inline]] inline v8 values(const Faces& faces, int k, const Places& p, v8* slopes) {
  v8i base[3];
  v8 t[3];
  for (int a = 0; a < 3; ++a) {
    const v8 x = a == k ? p.at[a] : p.at[a] - 0.5f, low = vfloor(x);
    base[a] = __builtin_convertvector(low, v8i), t[a] = x - low;
  }
  constexpr int n = Faces::across;
  const v8i first = (base[2] * n + base[1]) * n + base[0];
  v8 corner[8], x[4], dx[4];
  read_corners(faces, first, corner);
  for (int q = 0; q < 4; ++q) {
    dx[q] = corner[2 * q + 1] - corner[2 * q];
    x[q] = corner[2 * q] + t[0] * dx[q];
  }
  const v8 near = x[0] + t[1] * (x[1] - x[0]), far = x[2] + t[1] * (x[3] - x[2]);
  if (slopes) {
    const v8 dn = dx[0] + t[1] * (dx[1] - dx[0]), df = dx[2] + t[1] * (dx[3] - dx[2]);
    slopes[0] = dn + t[2] * (df - dn);
    const v8 yn = x[1] - x[0], yf = x[3] - x[2];
    slopes[1] = yn + t[2] * (yf - yn);
    slopes[2] = far - near;
  }
  return near + t[2] * (far - near);
}

/// Component k at any place, in cells. Beyond the grid all is still.
float velocity_at(const LiquidState& s, const BlockTable& table, int k, const float (&place)[3]) {
  const Floats& f = k == 0 ? s.u : k == 1 ? s.v : s.w;
  int base[3];
  float part[3];
  for (int a = 0; a < 3; ++a) {
    const float x = place[a] - (a == k ? 0.f : 0.5f), floor = std::floor(x);
    base[a] = int(floor), part[a] = x - floor;
  }
  float sum = 0;
  for (int q = 0; q < 8; ++q) {
    const int x = base[0] + (q & 1), y = base[1] + (q >> 1 & 1), z = base[2] + (q >> 2);
    const int b = table.find({x >> 3, y >> 3, z >> 3});
    if (b < 0) continue;
    sum += (q & 1 ? part[0] : 1 - part[0]) * (q & 2 ? part[1] : 1 - part[1]) *
           (q & 4 ? part[2] : 1 - part[2]) * f.block(b)[((z & 7) * 8 + (y & 7)) * 8 + (x & 7)];
  }
  return sum;
}

constexpr float off_sides = 0.01f;  // of a cell, from a side

/// Whether keep_in_bounds() would leave eight places where they are.
bool are_within(const LiquidWorld& w, const v8 (&place)[3]) {
  v8i all{-1, -1, -1, -1, -1, -1, -1, -1};
  for (int a = 0; a < 3; ++a)
    all &= (place[a] >= splat(float(w.low[a]) + off_sides)) &
           (place[a] <= splat(float(w.low[a] + w.cells[a]) - off_sides));
  return _mm256_movemask_ps(__m256(all)) == 0xff;
}

/// Keeps a position, in cells, inside closed sides; false if it left through an open one.
bool keep_in_bounds(const LiquidWorld& w, float (&place)[3], float (&velocity)[3]) {
  constexpr float least = off_sides;
  for (int a = 0; a < 3; ++a) {
    const float low = float(w.low[a]), high = float(w.low[a] + w.cells[a]);
    if (place[a] < low + least) {
      if (w.open[2 * a] && place[a] < low) return false;
      if (!w.open[2 * a]) place[a] = low + least, velocity[a] = std::max(velocity[a], 0.f);
    }
    if (place[a] > high - least) {
      if (w.open[2 * a + 1] && place[a] > high) return false;
      if (!w.open[2 * a + 1]) place[a] = high - least, velocity[a] = std::min(velocity[a], 0.f);
    }
  }
  return true;
}

/// Out of the solids, on the shortest way, and no longer on the way into them. Who would come deep into one
/// or through it stays where its way from `from` meets it.
void keep_out_of(const NearSolids& solids, double h, double dt, const Vec3d& from, float (&place)[3],
                 float (&velocity)[3]) {
  constexpr double deep = 0.5;  // cells
  const Vec3d whole = Vec3d{place[0], place[1], place[2]} * h;
  const Vec3d way = whole - from;
  const int looks = std::max(1, int(std::ceil(length(way) / h)));
  Vec3d p = whole;
  double d = h;
  for (int i = 1; i <= looks && d >= 0; ++i) {
    p = from + way * (double(i) / looks);
    d = solids.distance(p, h);
    if (d >= -deep * h || solids.distance(from, h) < 0) continue;
    double outside = double(i - 1) / looks, inside = double(i) / looks;
    for (int k = 0; k < 8; ++k) {
      const double middle = (outside + inside) / 2;
      (solids.distance(from + way * middle, h) < 0 ? inside : outside) = middle;
    }
    p = from + way * inside, d = solids.distance(p, h);
  }
  if (d >= 0) return;
  Vec3d out;
  for (int a = 0; a < 3; ++a) {
    Vec3d step;
    step[a] = 0.25 * h;
    out[a] = solids.distance(p + step) - solids.distance(p - step);
  }
  out = normalized(out);
  const Vec3d to = p - out * (d - 0.02 * h), held = solids.velocity(p, h, dt);
  double into = 0;
  for (int a = 0; a < 3; ++a) into += (double(velocity[a]) - held[a]) * out[a];
  for (int a = 0; a < 3; ++a) {
    place[a] = float(to[a] / h);
    velocity[a] -= float(std::min(into, 0.0) * out[a]);
  }
}

}  // namespace

void LiquidSolver::keep_before(const LiquidState& s, const LiquidWorld& world) {
  const bool any =
      std::any_of(world.liveliness.begin(), world.liveliness.end(), [](double x) { return x > 0; });
  const Floats* velocity[3] = {&s.u, &s.v, &s.w};
  for (size_t k = 0; k < 3; ++k)
    if (any)
      before_[k] = *velocity[k];
    else
      before_[k].resize(0);
}

void LiquidSolver::advect(LiquidState& s, const LiquidWorld& world, double dt, Ledger& ledger) {
  const BlockGrid& g = s.grid;
  Particles& p = s.particles;
  const BlockTable table(g);
  const float step = float(dt / world.cell_size);
  std::vector<uint8_t> gone(p.size(), 0);
  const Floats* velocity[3] = {&s.u, &s.v, &s.w};
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const uint32_t first = cells_.begin(b, 0), last = cells_.end(b, block_cells - 1);
    if (first == last) return;
    const Faces faces[3] = {Faces(*velocity[0], g.around(b)), Faces(*velocity[1], g.around(b)),
                            Faces(*velocity[2], g.around(b))};
    std::vector<Faces> shifts;
    if (shift_[0].size() == g.size())
      for (const Floats& f : shift_) shifts.emplace_back(f, g.around(b));
    std::vector<Faces> before;
    if (before_[0].size() == g.size())
      for (const Floats& f : before_) before.emplace_back(f, g.around(b));
    const Vec3i at = g.key(b).at * 8;
    const NearSolids solids(world.solids, world.cell_size, at);
    for (uint32_t n = first; n < last; n += 8) {
      const uint32_t count = std::min(8u, last - n);
      const auto read = [&](const std::vector<float>& from) { return read_eight(from.data() + n, count); };
      const auto write = [&](std::vector<float>& to, v8 v) {
        if (count == 8) return store(to.data() + n, v);
        for (uint32_t j = 0; j < count; ++j) to[n + j] = v[j];
      };
      Places here, mid;
      v8 place[3], speed[3], slopes[3];
      for (int a = 0; a < 3; ++a)
        place[a] = read(p.place[size_t(a)]), here.at[a] = place[a] - float(at[a] - 2);
      for (int k = 0; k < 3; ++k) {
        speed[k] = values(faces[k], k, here, slopes);
        v8 kept = speed[k];
        if (!before.empty()) {
          v8 lively{};
          for (uint32_t j = 0; j < count; ++j) lively[j] = float(world.liveliness[p.liquid[n + j]]);
          kept += lively * (read(p.velocity[size_t(k)]) - values(before[size_t(k)], k, here, nullptr));
        }
        write(p.velocity[size_t(k)], kept);
        for (int a = 0; a < 3; ++a) write(p.slope[size_t(3 * k + a)], slopes[a]);
      }
      for (int a = 0; a < 3; ++a) mid.at[a] = here.at[a] + 0.5f * step * speed[a];
      if (mid.are_inside()) {
        for (int k = 0; k < 3; ++k) speed[k] = values(faces[k], k, mid, nullptr);
      } else {
        for (uint32_t j = 0; j < 8; ++j) {
          float m[3];
          for (int a = 0; a < 3; ++a) m[a] = mid.at[a][j] + float(at[a] - 2);
          for (int k = 0; k < 3; ++k) speed[k][j] = velocity_at(s, table, k, m);
        }
      }
      for (int a = 0; a < 3; ++a) place[a] += step * speed[a];
      if (!shifts.empty())
        for (int a = 0; a < 3; ++a) place[a] += values(shifts[size_t(a)], a, here, nullptr);
      if (holds_.size() == g.size())
        for (uint32_t j = 0; j < count; ++j) {
          const auto cell = [&](int a) { return std::clamp(int(here.at[a][j]) - 2, 0, 7); };
          const int c = (cell(2) * 8 + cell(1)) * 8 + cell(0);
          if (!holds_.block(b)[c]) continue;
          const Vec3f v = cell_velocity(s, b, c);
          for (int a = 0; a < 3; ++a) {
            place[a][j] = p.place[size_t(a)][n + j] + step * v[a], p.velocity[size_t(a)][n + j] = v[a];
            for (int k = 0; k < 3; ++k) p.slope[size_t(3 * a + k)][n + j] = 0;
          }
        }
      if (near_wall_[size_t(b)] && !(solids.empty() && are_within(world, place)))
        for (uint32_t j = 0; j < count; ++j) {
          float end[3] = {place[0][j], place[1][j], place[2][j]}, v[3];
          for (size_t a = 0; a < 3; ++a) v[a] = p.velocity[a][n + j];
          gone[n + j] = keep_in_bounds(world, end, v) ? stays : leaves;
          if (!solids.empty() && !gone[n + j]) {
            const Vec3d from =
                Vec3d{here.at[0][j], here.at[1][j], here.at[2][j]} + to<double>(at - Vec3i{2, 2, 2});
            keep_out_of(solids, world.cell_size, dt, from * world.cell_size, end, v);
          }
          for (size_t a = 0; a < 3; ++a) place[a][j] = end[a], p.velocity[a][n + j] = v[a];
        }
      for (int a = 0; a < 3; ++a) write(p.place[size_t(a)], place[a]);
      write(p.age, read(p.age) + float(dt));
    }
  });
  take_out(s, world, gone, ledger);
}

void LiquidSolver::take_out(LiquidState& s, const LiquidWorld& world, std::vector<uint8_t>& goes,
                            Ledger& ledger) {
  Particles& p = s.particles;
  const auto life = [&](size_t n) {
    return p.liquid[n] < world.longest_life.size() ? world.longest_life[p.liquid[n]] : 0;
  };
  const bool dies =
      std::any_of(world.longest_life.begin(), world.longest_life.end(), [](double t) { return t > 0; });
  if (dies || !world.drains.empty())
    parallel_for(p.size(), [&](size_t n) {
      if (goes[n]) return;
      const Vec3d at = Vec3d{p.place[0][n], p.place[1][n], p.place[2][n]} * world.cell_size;
      if (dies && life(n) > 0 && double(p.age[n]) > life(n))
        goes[n] = decays;
      else if (std::any_of(world.drains.begin(), world.drains.end(),
                           [&](const Solid& drain) { return drain.distance(at) < 0; }))
        goes[n] = drains;
    });
  const size_t first =
      size_t(std::find_if(goes.begin(), goes.end(), [](uint8_t g) { return g; }) - goes.begin());
  if (first == goes.size()) return;
  std::vector<size_t> stay;
  size_t count[decays + 1] = {};
  for (size_t n = first; n < p.size(); ++n) {
    ++count[goes[n]];
    if (!goes[n]) stay.push_back(n);
  }
  p.each([&](auto& v) {
    for (size_t k = 0; k < stay.size(); ++k) v[first + k] = v[stay[k]];
  });
  const double each = particle_volume(world.cell_size);
  ledger.left += double(count[leaves]) * each, ledger.drained += double(count[drains]) * each,
      ledger.decayed += double(count[decays]) * each;
  p.resize(first + stay.size());
}

}  // namespace pour
