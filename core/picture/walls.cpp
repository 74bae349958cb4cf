#include "picture/walls.h"

#include <algorithm>
#include <cmath>

#include "base/parallel.h"
#include "shape/vessels.h"

namespace pour {
namespace {

constexpr double most_points = 48e6;  // of a mask; beyond, it is as coarse as the cells
constexpr int layers = 2;             // of cells behind the wall

enum Kind : uint8_t { known, behind };

std::shared_ptr<const WallMask> make_mask(const std::vector<Mesh>& meshes, double cell) {
  Box box;
  for (const Mesh& m : meshes) box.add(m.bounds());
  const auto points = [&](double f) {
    const Vec3d s = box.size();
    return (s.x / f + 6) * (s.y / f + 6) * (s.z / f + 6);
  };
  const double f = points(cell / 2) < most_points ? cell / 2 : cell;
  if (points(f) > 8 * most_points) return nullptr;
  auto mask = std::make_shared<WallMask>();
  Vec3i first;
  for (int a = 0; a < 3; ++a) {
    first[a] = int(std::floor(box.low[a] / f)) - 2;
    mask->count[a] = int(std::ceil(box.high[a] / f)) + 3 - first[a];
  }
  mask->spacing = float(f);
  mask->low = to<float>(to<double>(first) * f);
  const Vec3i n = mask->count;
  mask->level.assign(size_t(n.x) * size_t(n.y) * size_t(n.z), 0);
  for (const Mesh& m : meshes) {
    const LevelSet set(m, f);
    const Vec3i from = set.first(), size = set.count();
    parallel_for(
        size_t((size.z + 7) / 8),
        [&](size_t slab) {
          float d[512];
          const int z0 = from.z + 8 * int(slab);
          for (int y0 = from.y; y0 < from.y + size.y; y0 += 8)
            for (int x0 = from.x; x0 < from.x + size.x; x0 += 8) {
              set.read({x0, y0, z0}, 8, d);
              for (int c = 0; c < 512; ++c) {
                const int x = x0 + (c & 7) - first.x, y = y0 + (c >> 3 & 7) - first.y,
                          z = z0 + (c >> 6) - first.z;
                if (x < 0 || y < 0 || z < 0 || x >= n.x || y >= n.y || z >= n.z) continue;
                const float v = std::clamp(128 - d[c] * float(64 / f), 0.f, 255.f);
                uint8_t& level = mask->level[(size_t(z) * size_t(n.y) + size_t(y)) * size_t(n.x) + size_t(x)];
                level = std::max(level, uint8_t(std::lround(v)));
              }
            }
        },
        1);
  }
  return mask;
}

}  // namespace

float WallMask::inside(const Vec3f& p) const {
  const Vec3f q = (p - low) * (1 / spacing);
  const int x = int(std::floor(q.x)), y = int(std::floor(q.y)), z = int(std::floor(q.z));
  if (x < 0 || y < 0 || z < 0 || x + 1 >= count.x || y + 1 >= count.y || z + 1 >= count.z) return 0;
  const float fx = q.x - float(x), fy = q.y - float(y), fz = q.z - float(z);
  const uint8_t* c = &level[(size_t(z) * size_t(count.y) + size_t(y)) * size_t(count.x) + size_t(x)];
  const size_t dy = size_t(count.x), dz = dy * size_t(count.y);
  const auto row = [&](size_t at) { return float(c[at]) * (1 - fx) + float(c[at + 1]) * fx; };
  const float v =
      (row(0) * (1 - fy) + row(dy) * fy) * (1 - fz) + (row(dz) * (1 - fy) + row(dz + dy) * fy) * fz;
  return std::clamp((v - 128) / 255 * sharpness + 0.5f, 0.f, 1.f);
}

SmokeWalls::SmokeWalls(const Shot& shot, double cell_size)
    : cell_size_(cell_size), motion_(std::make_shared<const Motion>(shot)) {
  const Shot& first = motion_->first();
  std::vector<Mesh> still;
  std::vector<std::vector<Body>> bodies(shot.pieces.size());
  for (size_t i = 0; i < shot.pieces.size(); ++i) {
    const Piece& p = first.pieces[i];
    if (p.holds)
      bodies[i] = placed_bodies(first, p);
    else if (p.blocks)
      blockers_.push_back({LevelSet(motion_->own(i, piece_mesh(first, p)), cell_size), i});
  }
  int room = 0;
  for (const Vessel& vessel : vessels_of(first, bodies)) {
    ++room;
    std::vector<Mesh> meshes;
    for (const Vessel::Part& part : vessel.parts)
      meshes.push_back(motion_->own(vessel.piece(), bodies[part.piece][part.body].mesh));
    if (motion_->moves(vessel.piece()))
      masks_[room] = make_mask(meshes, cell_size);
    else
      still.insert(still.end(), meshes.begin(), meshes.end());
  }
  if (!still.empty()) masks_[0] = make_mask(still, cell_size);
}

SmokeWalls::Sealed SmokeWalls::seal(SmokeVolume v, double time) const {
  const auto own_mask = masks_.find(v.room);
  std::shared_ptr<const WallMask> mask = own_mask == masks_.end() ? nullptr : own_mask->second;
  struct There {
    const Blocker* blocker;
    Pose back;  // from the world to its space
  };
  std::vector<There> there;
  if (!blockers_.empty() && v.room == 0) {
    const Shot& first = motion_->first();
    const std::optional<Shot> now = motion_->any() ? std::optional(motion_->at(time)) : std::nullopt;
    for (const Blocker& b : blockers_)
      if (!has_turned(first, first.pieces[b.piece], time))
        there.push_back({&b, now ? motion_->pose(b.piece, *now).inverse() : Pose()});
  }
  const bool blocked = !there.empty();
  if ((!mask && !blocked) || v.density.empty()) return {std::move(v), {}, nullptr};
  const float h = float(v.cell_size);
  const auto middle = [&](const Vec3i& cell) {
    return (to<float>(v.low + cell) + Vec3f{0.5f, 0.5f, 0.5f}) * h;
  };
  const Vec3i old = v.count;
  const auto at = [](const Vec3i& n, int x, int y, int z) {
    return (size_t(z) * size_t(n.y) + size_t(y)) * size_t(n.x) + size_t(x);
  };
  // Smoke well outside of vessels flows freely: then nothing may be cut off.
  if (mask && v.room == 0) {
    const float most = *std::max_element(v.density.begin(), v.density.end());
    std::vector<uint8_t> outside(size_t(old.z), 0);
    parallel_for(size_t(old.z), [&](size_t z) {
      for (int y = 0; y < old.y && !outside[z]; ++y)
        for (int x = 0; x < old.x; ++x) {
          if (v.density[at(old, x, y, int(z))] < 0.01f * most) continue;
          const Vec3f p = middle({x, y, int(z)});
          bool near = false;
          for (int k = 0; k < 27 && !near; ++k)
            near = mask->inside(p + Vec3f{float(k % 3 - 1), float(k / 3 % 3 - 1), float(k / 9 - 1)} * h) > 0;
          if (!near) {
            outside[z] = 1;
            break;
          }
        }
    });
    if (std::find(outside.begin(), outside.end(), 1) != outside.end()) mask.reset();
  }
  if (!mask && !blocked) return {std::move(v), {}, nullptr};

  Sealed out;
  out.mask = mask;
  SmokeVolume& w = out.smoke;
  const int pad = layers;
  w.cell_size = v.cell_size, w.room = v.room, w.pose = v.pose;
  w.low = v.low - Vec3i{pad, pad, pad};
  w.count = v.count + Vec3i{2 * pad, 2 * pad, 2 * pad};
  const Vec3i n = w.count;
  const size_t cells = size_t(n.x) * size_t(n.y) * size_t(n.z);
  w.density.assign(cells, 0), w.color.assign(3 * cells, 0);
  const bool flow = !v.velocity.empty();
  if (flow) w.warmth.assign(cells, 0), w.velocity.assign(cells, {});
  out.coverage.assign(cells, 1);
  std::vector<uint8_t> kind(cells, known);
  parallel_for(size_t(n.z), [&](size_t z) {
    for (int y = 0; y < n.y; ++y)
      for (int x = 0; x < n.x; ++x) {
        const size_t i = at(n, x, y, int(z));
        const Vec3i cell{x - pad, y - pad, int(z) - pad};
        const Vec3f p = middle(cell);
        if (mask) out.coverage[i] = mask->inside(p);
        if (mask && out.coverage[i] < 0.5f) kind[i] = behind;
        for (const There& t : there)
          if (t.blocker->set.distance(t.back * to<double>(p)) < 0) kind[i] = behind, out.coverage[i] = 0;
        if (kind[i] == behind) continue;
        if (cell.x < 0 || cell.y < 0 || cell.z < 0 || cell.x >= old.x || cell.y >= old.y || cell.z >= old.z)
          continue;
        const size_t from = at(old, cell.x, cell.y, cell.z);
        w.density[i] = v.density[from];
        for (size_t c = 0; c < 3; ++c) w.color[3 * i + c] = v.color[3 * from + c];
        if (flow) w.warmth[i] = v.warmth[from], w.velocity[i] = v.velocity[from];
      }
  });
  for (int layer = 0; layer < layers; ++layer) {
    const std::vector<uint8_t> before = kind;
    parallel_for(size_t(n.z), [&](size_t z) {
      for (int y = 0; y < n.y; ++y)
        for (int x = 0; x < n.x; ++x) {
          const size_t i = at(n, x, y, int(z));
          if (before[i] != behind) continue;
          float sum = 0, color[3] = {0, 0, 0}, warmth = 0;
          Vec3f velocity;
          int count = 0;
          for (int k = 0; k < 27; ++k) {
            const int nx = x + k % 3 - 1, ny = y + k / 3 % 3 - 1, nz = int(z) + k / 9 - 1;
            if (nx < 0 || ny < 0 || nz < 0 || nx >= n.x || ny >= n.y || nz >= n.z) continue;
            const size_t j = at(n, nx, ny, nz);
            if (before[j] != known) continue;
            ++count, sum += w.density[j];
            for (size_t c = 0; c < 3; ++c) color[c] += w.density[j] * w.color[3 * j + c];
            if (flow) warmth += w.density[j] * w.warmth[j], velocity += w.velocity[j] * w.density[j];
          }
          if (!count) continue;
          out.coverage[i] = std::min(out.coverage[i], 0.5f);
          if (sum > 0)
            for (size_t c = 0; c < 3; ++c) w.color[3 * i + c] = color[c] / sum;
          if (sum > 0 && flow) w.warmth[i] = warmth / sum, w.velocity[i] = velocity / sum;
          w.density[i] = sum / float(count);
          kind[i] = known;
        }
    });
  }
  return out;
}

}  // namespace pour
