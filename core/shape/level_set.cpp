#include "shape/level_set.h"

#include <openvdb/openvdb.h>
#include <openvdb/tools/Interpolation.h>
#include <openvdb/tools/MeshToVolume.h>

namespace pour {

struct LevelSet::Data {
  openvdb::FloatGrid::Ptr grid;
  Vec3i first, count;  // asked for often, and slow to find out
};

namespace {

/// The scan conversion gives a few points beside slender triangles the wrong sign. A distance changes by at
/// most a cell from one cell to the next, and these don't.
void mend_signs(openvdb::FloatGrid& grid) {
  const float cell = float(grid.voxelSize().x());
  auto accessor = grid.getAccessor();
  std::vector<std::pair<openvdb::Coord, float>> wrong;
  for (auto i = grid.cbeginValueOn(); i; ++i) {
    const float d = *i;
    if (std::abs(d) > cell) continue;
    float as_is = 0, turned = 0;
    for (int n = 0; n < 6; ++n) {
      openvdb::Coord c = i.getCoord();
      c[n / 2] += n % 2 ? 1 : -1;
      const float next = accessor.getValue(c);
      as_is += std::max(0.f, std::abs(d - next) - cell), turned += std::max(0.f, std::abs(-d - next) - cell);
    }
    if (turned < as_is) wrong.emplace_back(i.getCoord(), -d);
  }
  for (const auto& [at, d] : wrong) accessor.setValue(at, d);
}

}  // namespace

LevelSet::LevelSet(const Mesh& mesh, double cell_size) {
  openvdb::initialize();
  std::vector<openvdb::Vec3s> points;
  points.reserve(mesh.points.size());
  for (const Vec3f& p : mesh.points) points.emplace_back(p.x, p.y, p.z);
  std::vector<openvdb::Vec3I> triangles;
  triangles.reserve(mesh.triangles.size());
  for (const auto& t : mesh.triangles) triangles.emplace_back(unsigned(t[0]), unsigned(t[1]), unsigned(t[2]));
  const auto transform = openvdb::math::Transform::createLinearTransform(cell_size);
  for (openvdb::Vec3s& p : points) p = openvdb::Vec3s(transform->worldToIndex(p));
  const openvdb::tools::QuadAndTriangleDataAdapter<openvdb::Vec3s, openvdb::Vec3I> mesh_in_cells(points,
                                                                                                 triangles);
  // Without the renormalization, which would move the surface by up to a third of a cell.
  auto grid = openvdb::tools::meshToVolume<openvdb::FloatGrid>(mesh_in_cells, *transform, 3.0f, 3.0f,
                                                               openvdb::tools::DISABLE_RENORMALIZATION);
  mend_signs(*grid);
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

double LevelSet::cell_size() const { return data_->grid->voxelSize().x(); }

struct LevelSet::Sampler::Reader {
  openvdb::FloatGrid::ConstAccessor accessor;
  double cells_a_metre;
};
LevelSet::Sampler::Sampler(const LevelSet& set)
    : reader_(new Reader{set.data_->grid->getConstAccessor(), 1 / set.cell_size()}) {}
LevelSet::Sampler::~Sampler() = default;
double LevelSet::Sampler::operator()(const Vec3d& p) {
  const double s = reader_->cells_a_metre;
  return openvdb::tools::BoxSampler::sample(reader_->accessor, openvdb::Vec3d(p.x * s, p.y * s, p.z * s));
}

double LevelSet::distance(const Vec3d& p) const {
  return openvdb::tools::BoxSampler::sample(data_->grid->tree(), data_->grid->worldToIndex({p.x, p.y, p.z}));
}

}  // namespace pour
