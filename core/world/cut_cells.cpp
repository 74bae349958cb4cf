#include "world/cut_cells.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace pour {
namespace {

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

bool reaches(const Solid& solid, double h, const Vec3i& first_node) {
  Vec3i low, high;
  solid.reach(h, low, high);
  for (int i = 0; i < 3; ++i)
    if (first_node[i] > high[i] || first_node[i] + 8 < low[i]) return false;
  return true;
}

/// Distances at the 9³ corners of the block's cells, negative where its room has gas.
/// Returns 1 if all of it is gas, -1 if none is, otherwise 0.
int room_distance(const World& world, const BlockKey& key, std::array<float, 729>& phi) {
  if (key.room == 0 && world.rooms.empty() && world.solids.empty()) return 1;
  const Vec3i node{key.at.x * 8, key.at.y * 8, key.at.z * 8};
  phi.fill(key.room ? 1.f : -1.f);
  std::array<float, 729> one;
  if (key.room) {
    const LevelSet& set = world.rooms[size_t(key.room) - 1].inside;
    if (!reaches(Solid(set), world.cell_size, node)) return -1;
    set.read(node, 9, phi.data());
  } else {
    bool any = false;
    const auto subtract = [&](const Solid& solid) {
      if (!reaches(solid, world.cell_size, node)) return;
      solid.read(node, 9, world.cell_size, one.data());
      for (size_t i = 0; i < 729; ++i) phi[i] = any ? std::max(phi[i], -one[i]) : -one[i];
      any = true;
    };
    for (const Room& r : world.rooms) subtract(r.moves ? Solid(r.inside, r.from, r.to) : Solid(r.inside));
    for (const Solid& s : world.solids) subtract(s);
  }
  bool open = false, solid = false;
  for (const float p : phi) (p < 0 ? open : solid) = true;
  return !solid ? 1 : !open ? -1 : 0;
}

/// Where an index lies: -1 below the bounds, 0 inside, 1 above.
int beyond(const World& w, const BlockKey& key, int axis, int index) {
  if (key.room && w.rooms[size_t(key.room) - 1].moves) return 0;  // it has a space of its own
  return index < w.low[axis] ? -1 : index >= w.low[axis] + w.cells[axis] ? 1 : 0;
}

}  // namespace

bool has_space(const World& world, const BlockKey& key) {
  std::array<float, 729> phi;
  return room_distance(world, key, phi) >= 0;
}

int beyond_grid(const World& world, const BlockKey& k) {
  if (k.room) return outside_wall;
  for (int a = 0; a < 3; ++a) {
    if (k.at[a] * 8 < world.low[a] && !world.open[2 * a]) return outside_wall;
    if (k.at[a] * 8 >= world.low[a] + world.cells[a] && !world.open[2 * a + 1]) return outside_wall;
  }
  return has_space(world, k) ? outside_open : outside_wall;
}

void cut_block(CellGeometry& g, const World& world, const BlockKey& key, int block) {
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
          if (const int s = beyond(world, key, a, index[a]))
            ++outside, open = open && world.open[2 * a + (s > 0)];
        for (int a = 0; a < 3; ++a) {
          const int here = beyond(world, key, a, index[a]), before = beyond(world, key, a, index[a] - 1);
          const bool crosses = here != before;
          const int others = outside - (here != 0);
          // A face is open inside the bounds and where it leads out through one open side.
          if (others || (here && before) || (crosses && !(key.room == 0 && world.open[2 * a + (here > 0)])))
            *face[a] = 0;
        }
        if (outside) volume[c] = outside == 1 && open && volume[c] ? outside_volume : 0;
      }
}

bool is_moved_through(const World& world, const BlockKey& key) {
  if (key.room) return false;
  const Vec3i node = key.at * 8;
  const auto comes_through = [&](const Solid& s) {
    return s.moves &&
           (reaches(s, world.cell_size, node) || reaches(Solid(s.set, s.to, s.from), world.cell_size, node));
  };
  return std::any_of(world.solids.begin(), world.solids.end(), comes_through) ||
         std::any_of(world.rooms.begin(), world.rooms.end(),
                     [&](const Room& r) { return r.moves && comes_through(Solid(r.inside, r.from, r.to)); });
}

}  // namespace pour
