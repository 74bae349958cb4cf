#include "shape/level_set.h"

#include <openvdb/tools/Composite.h>

#include <array>
#include <deque>

#include "base/parallel.h"
#include "shape/grid_mesh.h"

namespace pour {

/// The leaves of the grid by their place, eight lattice points a side, in groups of 16³: points are asked for
/// by the million. Groups that the surface is far from are all inside or all outside.
struct LevelSet::Data {
  openvdb::FloatGrid::Ptr grid;
  double cell_size = 0;
  Vec3i first, count;                            // lattice points
  using Group = std::array<const float*, 4096>;  // values of each leaf, z fastest
  Vec3i low, groups;
  std::vector<const Group*> group_at;
  std::deque<Group> own;
  std::vector<float> inside, outside;
  Group all_inside, all_outside;

  explicit Data(openvdb::FloatGrid::Ptr g) : grid(std::move(g)), cell_size(grid->voxelSize().x()) {
    const auto box = grid->evalActiveVoxelBoundingBox();
    for (int a = 0; a < 3; ++a) {
      first[a] = box.min()[a], count[a] = box.dim()[a];
      low[a] = first[a] >> 7, groups[a] = ((first[a] + count[a] - 1) >> 7) + 1 - low[a];
    }
    outside.assign(512, grid->background()), inside.assign(512, -grid->background());
    all_inside.fill(inside.data()), all_outside.fill(outside.data());
    auto accessor = grid->getConstAccessor();
    for (int z = 0; z < groups.z; ++z)
      for (int y = 0; y < groups.y; ++y)
        for (int x = 0; x < groups.x; ++x) {
          const openvdb::Coord at((low.x + x) * 128, (low.y + y) * 128, (low.z + z) * 128);
          const bool near =
              accessor.probeConstNode<openvdb::FloatTree::RootNodeType::ChildNodeType::ChildNodeType>(at);
          group_at.push_back(near ? &group(at) : accessor.getValue(at) < 0 ? &all_inside : &all_outside);
        }
  }
  Data(const Data&) = delete;

  const Group& group(const openvdb::Coord& at) {
    auto accessor = grid->getConstAccessor();
    Group& to = own.emplace_back();
    for (int i = 0; i < 4096; ++i) {
      const openvdb::Coord c = at + openvdb::Coord((i & 15) * 8, (i >> 4 & 15) * 8, (i >> 8) * 8);
      const auto* leaf = accessor.probeConstLeaf(c);
      to[size_t(i)] = leaf                       ? leaf->buffer().data()
                      : accessor.getValue(c) < 0 ? inside.data()
                                                 : outside.data();
    }
    return to;
  }

  static int offset(const Vec3i& p) { return (p.x & 7) * 64 + (p.y & 7) * 8 + (p.z & 7); }
  const float* leaf_at(const Vec3i& p) const {
    const Vec3i g{(p.x >> 7) - low.x, (p.y >> 7) - low.y, (p.z >> 7) - low.z};
    if (g.x < 0 || g.y < 0 || g.z < 0 || g.x >= groups.x || g.y >= groups.y || g.z >= groups.z)
      return outside.data();
    const Group& group =
        *group_at[(size_t(g.z) * size_t(groups.y) + size_t(g.y)) * size_t(groups.x) + size_t(g.x)];
    return group[size_t((p.z >> 3 & 15) * 256 + (p.y >> 3 & 15) * 16 + (p.x >> 3 & 15))];
  }
  float at(const Vec3i& p) const { return leaf_at(p)[offset(p)]; }
  double between(const Vec3d& p) const {
    const double s = 1 / cell_size;
    Vec3i low_corner;
    double part[3];
    for (int a = 0; a < 3; ++a) {
      const double floor = std::floor(p[a] * s);
      low_corner[a] = int(std::clamp(floor, -1e9, 1e9)), part[a] = p[a] * s - floor;
    }
    double v[4];
    const Vec3i& l = low_corner;
    const bool in_one = (l.x & 7) < 7 && (l.y & 7) < 7 && (l.z & 7) < 7;
    const float* leaf = in_one ? leaf_at(l) + offset(l) : nullptr;
    for (int i = 0; i < 4; ++i) {
      const Vec3i c = l + Vec3i{0, i & 1, i >> 1};
      const int to = (i & 1) * 8 + (i >> 1);
      const double here = double(in_one ? leaf[to] : at(c)),
                   next = double(in_one ? leaf[to + 64] : at(c + Vec3i{1, 0, 0}));
      v[i] = here + part[0] * (next - here);
    }
    const double back = v[0] + part[1] * (v[1] - v[0]), front = v[2] + part[1] * (v[3] - v[2]);
    return back + part[2] * (front - back);
  }
};

namespace {

/// The scan conversion gives a few points beside slender triangles the wrong sign. A distance changes by at
/// most a cell from one cell to the next, and these don't.
void mend_signs(openvdb::FloatGrid& grid) {
  const float cell = float(grid.voxelSize().x());
  std::vector<const openvdb::FloatTree::LeafNodeType*> leaves;
  for (auto leaf = grid.tree().cbeginLeaf(); leaf; ++leaf) leaves.push_back(leaf.getLeaf());
  std::vector<std::vector<std::pair<openvdb::Coord, float>>> wrong(leaves.size());
  parallel_for(
      leaves.size(),
      [&](size_t k) {
        const auto accessor = grid.getConstUnsafeAccessor();
        for (auto i = leaves[k]->cbeginValueOn(); i; ++i) {
          const float d = *i;
          if (std::abs(d) > cell) continue;
          float as_is = 0, turned = 0;
          for (int n = 0; n < 6; ++n) {
            openvdb::Coord c = i.getCoord();
            c[n / 2] += n % 2 ? 1 : -1;
            const float next = accessor.getValue(c);
            as_is += std::max(0.f, std::abs(d - next) - cell),
                turned += std::max(0.f, std::abs(-d - next) - cell);
          }
          if (turned < as_is) wrong[k].emplace_back(i.getCoord(), -d);
        }
      },
      64);
  auto accessor = grid.getAccessor();
  for (const auto& of_leaf : wrong)
    for (const auto& [at, d] : of_leaf) accessor.setValue(at, d);
}

}  // namespace

LevelSet::LevelSet(const Mesh& mesh, double cell_size) {
  auto grid = grid_of(mesh, cell_size, 3, true);
  mend_signs(*grid);
  data_ = std::make_shared<Data>(std::move(grid));
}

LevelSet LevelSet::joined(const LevelSet& other) const {
  LevelSet out;
  out.data_ = std::make_shared<Data>(openvdb::tools::csgUnionCopy(*data_->grid, *other.data_->grid));
  return out;
}

Vec3i LevelSet::first() const { return data_->first; }
Vec3i LevelSet::count() const { return data_->count; }

void LevelSet::read(const Vec3i& first, int n, float* out) const {
  for (int z = 0; z < n; ++z)
    for (int y = 0; y < n; ++y)
      for (int x = 0; x < n; ++x) *out++ = data_->at({first.x + x, first.y + y, first.z + z});
}

Mesh LevelSet::surface() const { return data_ ? mesh_of(*data_->grid) : Mesh(); }

double LevelSet::cell_size() const { return data_->cell_size; }

double LevelSet::distance(const Vec3d& p) const { return data_->between(p); }

}  // namespace pour
