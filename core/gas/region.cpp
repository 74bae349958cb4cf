// Which blocks are computed, and how much of their cells and faces is open.
#include <array>
#include <atomic>
#include <cmath>

#include "base/parallel.h"
#include "gas/gas.h"
#include "solve/rows.h"

namespace pour {
namespace {

// Cells around smoke that are computed, beyond what it crosses in a step: as many must be there, and as many
// are made at a time, so that not every step brings a new grid.
constexpr double least_margin = 1, new_margin = 2;
constexpr float smoke_share = 3e-4f;  // of the densest smoke: where there is less, nothing is computed

/// Part of the unit square in which the bilinear corner values are negative, by clipping its outline.
float square_inside(float a, float b, float c, float d) {
  const float phi[4] = {a, b, c, d};
  static const float px[4] = {0, 1, 1, 0}, py[4] = {0, 0, 1, 1};
  int inside = 0;
  for (const float p : phi) inside += p < 0;
  if (inside == 0) return 0;
  if (inside == 4) return 1;
  float x[8], y[8];
  int n = 0;
  for (int i = 0; i < 4; ++i) {
    const int j = (i + 1) & 3;
    if (phi[i] < 0) x[n] = px[i], y[n] = py[i], ++n;
    if ((phi[i] < 0) != (phi[j] < 0)) {
      const float t = phi[i] / (phi[i] - phi[j]);
      x[n] = px[i] + t * (px[j] - px[i]), y[n] = py[i] + t * (py[j] - py[i]), ++n;
    }
  }
  float twice = 0;
  for (int i = 0; i < n; ++i) {
    const int j = (i + 1) % n;
    twice += x[i] * y[j] - x[j] * y[i];
  }
  return std::clamp(twice / 2, 0.f, 1.f);
}

uint8_t face_byte(float fraction) {
  const int q = int(std::lround(255 * fraction));
  return uint8_t(q < 6 ? 0 : q);  // slivers only make the system stiff
}

bool reaches(const LevelSet& set, const Vec3i& first_node) {
  const Vec3i low = set.first(), count = set.count();
  for (int i = 0; i < 3; ++i)
    if (first_node[i] > low[i] + count[i] || first_node[i] + 8 < low[i]) return false;
  return true;
}

/// Distances at the 9³ corners of the block's cells, negative where its room has gas.
/// Returns 1 where all of it is gas, -1 where none is, else 0.
int room_distance(const GasWorld& world, const BlockKey& key, std::array<float, 729>& phi) {
  if (key.room == 0 && world.rooms.empty() && world.blockers.empty()) return 1;
  const Vec3i node{key.at.x * 8, key.at.y * 8, key.at.z * 8};
  phi.fill(key.room ? 1.f : -1.f);
  std::array<float, 729> one;
  if (key.room) {
    const LevelSet& set = world.rooms[size_t(key.room) - 1].inside;
    if (!reaches(set, node)) return -1;
    set.read(node, 9, phi.data());
  } else {
    bool any = false;
    const auto subtract = [&](const LevelSet& set) {
      if (!reaches(set, node)) return;
      set.read(node, 9, one.data());
      for (size_t i = 0; i < 729; ++i) phi[i] = any ? std::max(phi[i], -one[i]) : -one[i];
      any = true;
    };
    for (const GasRoom& r : world.rooms) subtract(r.inside);
    for (const LevelSet& b : world.blockers) subtract(b);
  }
  bool gas = false, solid = false;
  for (const float p : phi) (p < 0 ? gas : solid) = true;
  return !solid ? 1 : !gas ? -1 : 0;
}

/// Where an index lies: -1 below the bounds, 0 inside, 1 above.
int beyond(const GasWorld& w, int axis, int index) {
  return index < w.low[axis] ? -1 : index >= w.low[axis] + w.cells[axis] ? 1 : 0;
}

bool has_gas(const GasWorld& world, const BlockKey& key) {
  std::array<float, 729> phi;
  return room_distance(world, key, phi) >= 0;
}

/// What is at a block that is not computed: a wall or open air.
int beyond_grid(const GasWorld& world, const BlockKey& k) {
  if (k.room) return outside_wall;
  for (int a = 0; a < 3; ++a) {
    if (k.at[a] * 8 < world.low[a] && !world.open[2 * a]) return outside_wall;
    if (k.at[a] * 8 >= world.low[a] + world.cells[a] && !world.open[2 * a + 1]) return outside_wall;
  }
  return has_gas(world, k) ? outside_open : outside_wall;
}

void make_geometry(GasGeometry& g, const GasWorld& world, const BlockKey& key, int block) {
  std::array<float, 729> phi;
  const int all = room_distance(world, key, phi);
  uint8_t *fx = g.fx.block(block), *fy = g.fy.block(block), *fz = g.fz.block(block),
          *volume = g.volume.block(block);
  const auto at = [&](int x, int y, int z) { return phi[size_t((z * 9 + y) * 9 + x)]; };
  for (int z = 0; z < 8; ++z)
    for (int y = 0; y < 8; ++y)
      for (int x = 0; x < 8; ++x) {
        const int c = (z * 8 + y) * 8 + x;
        if (all > 0) {
          fx[c] = fy[c] = fz[c] = 255, volume[c] = full_volume;
        } else if (all < 0) {
          fx[c] = fy[c] = fz[c] = volume[c] = 0;
        } else {
          const float p000 = at(x, y, z), p100 = at(x + 1, y, z), p010 = at(x, y + 1, z),
                      p110 = at(x + 1, y + 1, z), p001 = at(x, y, z + 1), p101 = at(x + 1, y, z + 1),
                      p011 = at(x, y + 1, z + 1), p111 = at(x + 1, y + 1, z + 1);
          fx[c] = face_byte(square_inside(p000, p010, p011, p001));
          fy[c] = face_byte(square_inside(p000, p100, p101, p001));
          fz[c] = face_byte(square_inside(p000, p100, p110, p010));
          const int inside = (p000 < 0) + (p100 < 0) + (p010 < 0) + (p110 < 0) + (p001 < 0) + (p101 < 0) +
                             (p011 < 0) + (p111 < 0);
          if (inside == 0 || inside == 8) {
            volume[c] = inside ? full_volume : 0;
          } else {
            // Eight sub-cells, each cut by the plane through its middle.
            float sum = 0;
            for (int s = 0; s < 8; ++s) {
              const float u = s & 1 ? 0.75f : 0.25f, v = s & 2 ? 0.75f : 0.25f, w = s & 4 ? 0.75f : 0.25f;
              const float y0 = (p000 * (1 - u) + p100 * u) * (1 - v) + (p010 * (1 - u) + p110 * u) * v;
              const float y1 = (p001 * (1 - u) + p101 * u) * (1 - v) + (p011 * (1 - u) + p111 * u) * v;
              sum += std::clamp(0.5f - (y0 * (1 - w) + y1 * w) / float(world.cell_size) * 2, 0.f, 1.f);
            }
            // A cell with a corner in the gas is never quite solid: its open faces need a cell behind them.
            volume[c] = uint8_t(std::clamp(int(std::lround(full_volume * sum / 8)), 8, full_volume));
          }
        }
        const int index[3] = {key.at.x * 8 + x, key.at.y * 8 + y, key.at.z * 8 + z};
        uint8_t* face[3] = {&fx[c], &fy[c], &fz[c]};
        int outside = 0;
        bool open = key.room == 0;
        for (int a = 0; a < 3; ++a)
          if (const int s = beyond(world, a, index[a])) ++outside, open = open && world.open[2 * a + (s > 0)];
        for (int a = 0; a < 3; ++a) {
          const int here = beyond(world, a, index[a]), before = beyond(world, a, index[a] - 1);
          const bool crosses = here != before;
          const int others = outside - (here != 0);
          // A face stays open inside the bounds and where it leads out through one open side.
          if (others || (here && before) || (crosses && !(key.room == 0 && world.open[2 * a + (here > 0)])))
            *face[a] = 0;
        }
        if (outside) volume[c] = outside == 1 && open && volume[c] ? outside_volume : 0;
      }
}

template <class T>
void move_blocks(BlockField<T>& field, const BlockGrid& from, const BlockGrid& to) {
  BlockField<T> moved(to.size());
  parallel_for(size_t(to.blocks()), [&](size_t i) {
    const int b = int(i) + first_block, old = from.find(to.key(b));
    if (old >= 0) std::copy_n(field.block(old), block_cells, moved.block(b));
  });
  field = std::move(moved);
}

uint64_t next_id() {
  static std::atomic<uint64_t> id{0};
  return ++id;
}

/// Adds the blocks of room 0 that what is present can come near to in a step of dt seconds: those that are
/// required, and those that are wanted beside them.
void add_blocks_near_smoke(const GasState& s, const GasSolver::Presence& present, double dt, double h,
                           std::vector<BlockKey>& required, std::vector<BlockKey>& wanted) {
  const size_t n = size_t(s.grid.blocks());
  // Which of the 27 blocks around each come within the margins of what an eighth of it holds.
  struct Near {
    uint32_t required = 0, wanted = 0;
  };
  std::vector<Near> near(n);
  parallel_for(n, [&](size_t i) {
    const int block = int(i) + first_block;
    if (s.grid.key(block).room || !present.here[size_t(block)]) return;
    const float *smoke = s.density.block(block), *heat = s.heat.block(block);
    float fastest = 0, lift = 0;
    for (int k = 0; k < 27; ++k)
      if (const int other = s.grid.around(block)[k]; other >= first_block)
        fastest = std::max(fastest, present.most_speed[size_t(other - first_block)]),
        lift = std::max(lift, present.most_lift[size_t(other - first_block)]);
    // A cell of what buoyancy adds is in the margin.
    const double added = std::max(0.0, double(lift) * dt * dt / h - 1);
    const double crossed = std::min(most_crossed, double(fastest) * dt / h + added);
    const double least = crossed + least_margin, most = crossed + new_margin;
    for (int eighth = 0; eighth < 8; ++eighth) {
      const Vec3i corner{eighth & 1 ? 4 : 0, eighth & 2 ? 4 : 0, eighth & 4 ? 4 : 0};
      Vec3i from{8, 8, 8}, to{-1, -1, -1};
      for (int z = corner.z; z < corner.z + 4; ++z)
        for (int y = corner.y; y < corner.y + 4; ++y)
          for (int x = corner.x; x < corner.x + 4; ++x) {
            const int c = (z * 8 + y) * 8 + x;
            if (smoke[c] > present.least_smoke || std::abs(heat[c]) > present.least_heat)
              from = min(from, {x, y, z}), to = max(to, {x, y, z});
          }
      if (to.x < 0) continue;
      for (int k = 0; k < 27; ++k) {
        const Vec3i first{(k % 3 - 1) * 8, (k / 3 % 3 - 1) * 8, (k / 9 - 1) * 8};
        int away = 0;  // squared, in cells
        for (int a = 0; a < 3; ++a) {
          const int gap = std::max({first[a] - to[a], from[a] - (first[a] + 7), 0});
          away += gap * gap;
        }
        if (away <= least * least) near[i].required |= 1u << k;
        if (away <= most * most) near[i].wanted |= 1u << k;
      }
    }
  });
  for (size_t i = 0; i < n; ++i)
    for (int k = 0; k < 27; ++k) {
      const Vec3i block = s.grid.key(int(i) + first_block).at + Vec3i{k % 3 - 1, k / 3 % 3 - 1, k / 9 - 1};
      if (near[i].wanted >> k & 1) wanted.push_back({0, block});
      if (near[i].required >> k & 1) required.push_back({0, block});
    }
}

}  // namespace

GasSolver::Presence GasSolver::find_presence(const GasState& s, const GasWorld& world) {
  const size_t n = size_t(s.grid.blocks());
  std::vector<float> most_smoke(n, 0), most_heat(n, 0);
  Presence out;
  out.most_speed.assign(n, 0), out.most_lift.assign(n, 0);
  parallel_for(n, [&](size_t i) {
    const int b = int(i) + first_block;
    if (s.grid.key(b).room) return;
    const auto most = [&](const Floats& f) {
      v8 m{};
      for (int c = 0; c < block_cells; c += 8) {
        const v8 v = load(f.block(b) + c);
        m = vmax(m, vmax(v, -v));
      }
      float out = 0;
      for (int k = 0; k < 8; ++k) out = std::max(out, m[k]);
      return out;
    };
    most_smoke[i] = most(s.density), most_heat[i] = most(s.heat);
    out.most_speed[i] = std::max({most(s.u), most(s.v), most(s.w)});
    out.most_lift[i] = float(pour::most_lift(world, double(most_heat[i]), double(most_smoke[i])));
  });
  float densest = 0, hottest = 0;
  for (size_t i = 0; i < n; ++i)
    densest = std::max(densest, most_smoke[i]), hottest = std::max(hottest, most_heat[i]);
  out.least_smoke = densest * smoke_share, out.least_heat = std::max(0.02f * hottest, 0.1f);
  out.here.assign(n + first_block, 0);
  for (size_t i = 0; i < n; ++i)
    out.here[i + first_block] = s.grid.key(int(i) + first_block).room || most_smoke[i] > out.least_smoke ||
                                most_heat[i] > out.least_heat;
  return out;
}

void GasSolver::restore(GasState& s, const GasWorld& world) {
  s.grid = BlockGrid(s.grid.keys(), [&](const BlockKey& k) { return beyond_grid(world, k); });
  GasGeometry& g = s.geometry;
  for (Bytes* f : {&g.fx, &g.fy, &g.fz, &g.volume}) f->resize(s.grid.size());
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    make_geometry(g, world, s.grid.key(int(i) + first_block), int(i) + first_block);
  });
  std::fill_n(g.volume.block(outside_open), block_cells, uint8_t(outside_volume));
  s.geometry_id = next_id();
}

void GasSolver::update_region(GasState& s, const GasWorld& world, double dt, Ledger& ledger) {
  const double h = world.cell_size;
  const int n = s.grid.blocks();
  const Presence present = find_presence(s, world);
  trace_of_smoke_ = 1e-3f * present.least_smoke, trace_of_heat_ = 1e-3f * present.least_heat;
  Vec3i low, high;  // blocks of the bounds, high excluded
  for (int a = 0; a < 3; ++a)
    low[a] = world.low[a] >> 3, high[a] = (world.low[a] + world.cells[a] + 1 + 7) >> 3;
  const auto within = [&](const Vec3i& b) {
    for (int a = 0; a < 3; ++a)
      if (b[a] < low[a] || b[a] >= high[a]) return false;
    return true;
  };
  std::vector<BlockKey> wanted;
  std::vector<uint8_t> room_active(world.rooms.size() + 1, 0);
  for (const GasSource& source : world.sources) {
    if (source.room) {
      room_active[size_t(source.room)] = 1;
      continue;
    }
    double fastest = 0;
    for (int a = 0; a < 3; ++a) fastest = std::max(fastest, std::abs(source.velocity[a]));
    const int margin = int(std::ceil(std::min(most_crossed, fastest * dt / h) + new_margin));
    Vec3i from, to;  // blocks
    for (int a = 0; a < 3; ++a)
      from[a] = std::max((int(std::floor(source.bounds.low[a] / h)) - margin) >> 3, low[a]),
      to[a] = std::min((int(std::floor(source.bounds.high[a] / h)) + margin) >> 3, high[a] - 1);
    const double block_reach = (4 * std::sqrt(3.0) + margin) * h;  // from the block's middle
    for (int z = from.z; z <= to.z; ++z)
      for (int y = from.y; y <= to.y; ++y)
        for (int x = from.x; x <= to.x; ++x)
          if (source.distance(Vec3d{x * 8 + 4.0, y * 8 + 4.0, z * 8 + 4.0} * h) <= block_reach)
            wanted.push_back({0, {x, y, z}});
  }
  // Whole rooms: a vessel is closed, so all of it moves at once.
  std::vector<BlockKey> rooms_keys;
  for (const BlockKey& k : s.grid.keys())
    if (k.room) rooms_keys.push_back(k), room_active[size_t(k.room)] = 2;
  for (int room = 1; room <= int(world.rooms.size()); ++room) {
    if (room_active[size_t(room)] != 1) continue;
    const LevelSet& set = world.rooms[size_t(room) - 1].inside;
    const Vec3i first = set.first(), count = set.count();
    for (int z = first.z >> 3; z <= (first.z + count.z) >> 3; ++z)
      for (int y = first.y >> 3; y <= (first.y + count.y) >> 3; ++y)
        for (int x = first.x >> 3; x <= (first.x + count.x) >> 3; ++x)
          if (within({x, y, z}) && has_gas(world, {room, {x, y, z}})) rooms_keys.push_back({room, {x, y, z}});
  }
  std::vector<BlockKey> required = wanted;
  add_blocks_near_smoke(s, present, dt, h, required, wanted);
  for (auto* keys : {&wanted, &required}) {
    std::erase_if(*keys, [&](const BlockKey& k) { return !within(k.at); });
    std::sort(keys->begin(), keys->end());
    keys->erase(std::unique(keys->begin(), keys->end()), keys->end());
  }
  const auto missing = [&](const std::vector<BlockKey>& keys) {
    std::vector<BlockKey> absent;
    for (const BlockKey& k : keys)
      if (s.grid.find(k) < 0) absent.push_back(k);
    std::vector<uint8_t> gas(absent.size());
    parallel_for(absent.size(), [&](size_t i) { gas[i] = has_gas(world, absent[i]); });
    std::vector<BlockKey> out;
    for (size_t i = 0; i < absent.size(); ++i)
      if (gas[i]) out.push_back(absent[i]);
    return out;
  };
  size_t have = 0, around_now = 0;
  for (const BlockKey& k : s.grid.keys()) around_now += k.room == 0;
  for (const BlockKey& k : wanted) have += s.grid.find(k) >= 0;
  const bool same_rooms = rooms_keys.size() + around_now == size_t(n);
  // A few blocks too many are cheaper than a new grid in every step.
  if (n && same_rooms && double(around_now) <= 1.1 * double(have) + 8 && missing(required).empty()) return;

  const std::vector<BlockKey> fresh = missing(wanted);
  std::vector<BlockKey> keys = rooms_keys;
  for (const BlockKey& k : wanted)
    if (s.grid.find(k) >= 0) keys.push_back(k);
  keys.insert(keys.end(), fresh.begin(), fresh.end());
  BlockGrid next(keys, [&](const BlockKey& k) { return beyond_grid(world, k); });

  const double before = n ? smoke_mass(s, h) : 0;
  for (Floats* f : {&s.u, &s.v, &s.w, &s.density, &s.heat, &s.red, &s.green, &s.blue, &s.pressure})
    move_blocks(*f, s.grid, next);
  GasGeometry& g = s.geometry;
  for (Bytes* f : {&g.fx, &g.fy, &g.fz, &g.volume}) move_blocks(*f, s.grid, next);
  parallel_for(size_t(next.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    if (s.grid.find(next.key(b)) < 0) make_geometry(g, world, next.key(b), b);
  });
  std::fill_n(g.volume.block(outside_open), block_cells, uint8_t(outside_volume));
  s.grid = std::move(next);
  s.geometry_id = next_id();
  // Wisps too thin to follow are gone with the blocks that held them.
  if (before > 0) ledger.numeric += smoke_mass(s, h) - before;
}

}  // namespace pour
