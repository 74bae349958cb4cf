#include "shape/level_set.h"

#include <openvdb/openvdb.h>
#include <openvdb/tools/Interpolation.h>
#include <openvdb/tools/MeshToVolume.h>

namespace pour {

struct LevelSet::Data {
  openvdb::FloatGrid::Ptr grid;
  Vec3i first, count;  // asked for often, and slow to find out
};

LevelSet::LevelSet(const Mesh& mesh, double cell_size) {
  openvdb::initialize();
  std::vector<openvdb::Vec3s> points;
  points.reserve(mesh.points.size());
  for (const Vec3f& p : mesh.points) points.emplace_back(p.x, p.y, p.z);
  std::vector<openvdb::Vec3I> triangles;
  triangles.reserve(mesh.triangles.size());
  for (const auto& t : mesh.triangles) triangles.emplace_back(unsigned(t[0]), unsigned(t[1]), unsigned(t[2]));
  const auto transform = openvdb::math::Transform::createLinearTransform(cell_size);
  auto grid = openvdb::tools::meshToLevelSet<openvdb::FloatGrid>(*transform, points, triangles, 3.0f);
  const auto box = grid->evalActiveVoxelBoundingBox();
  const auto low = box.min(), size = box.dim();
  data_ = std::make_shared<Data>(
      Data{std::move(grid), {low.x(), low.y(), low.z()}, {size.x(), size.y(), size.z()}});
}

Vec3i LevelSet::first() const { return data_->first; }
Vec3i LevelSet::count() const { return data_->count; }

void LevelSet::read(const Vec3i& first, int n, float* out) const {
  auto accessor = data_->grid->getConstAccessor();
  for (int z = 0; z < n; ++z)
    for (int y = 0; y < n; ++y)
      for (int x = 0; x < n; ++x) *out++ = accessor.getValue({first.x + x, first.y + y, first.z + z});
}

double LevelSet::distance(const Vec3d& p) const {
  return openvdb::tools::BoxSampler::sample(data_->grid->tree(), data_->grid->worldToIndex({p.x, p.y, p.z}));
}

}  // namespace pour
