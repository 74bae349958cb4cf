#include "surface/skin.h"

#include <openvdb/points/PointConversion.h>
#include <openvdb/points/PointRasterizeSDF.h>
#include <openvdb/tools/Interpolation.h>
#include <openvdb/tools/LevelSetFilter.h>

#include "shape/grid_mesh.h"

namespace pour {
namespace {

namespace points = openvdb::points;

/// Arrays of vectors as OpenVDB's points read them.
struct List {
  using value_type = openvdb::Vec3f;
  using PosType = openvdb::Vec3f;
  const std::vector<Vec3f>& values;
  size_t size() const { return values.size(); }
  openvdb::Vec3f at(size_t i) const { return {values[i].x, values[i].y, values[i].z}; }
  void getPos(size_t i, openvdb::Vec3f& out) const { out = at(i); }
  template <class V>
  void get(V& out, size_t i) const {
    out = V(at(i));
  }
  template <class V>
  void get(V& out, size_t i, openvdb::Index) const {
    out = V(at(i));
  }
};

points::PointDataGrid::Ptr grid_of(const LiquidPoints& p, const std::vector<Vec3f>& colors) {
  const auto transform = openvdb::math::Transform::createLinearTransform(p.cell_size);
  const List place{p.place}, color{colors};
  const auto index = openvdb::tools::createPointIndexGrid<openvdb::tools::PointIndexGrid>(place, *transform);
  auto grid =
      points::createPointDataGrid<points::NullCodec, points::PointDataGrid>(*index, place, *transform);
  points::TypedAttributeArray<openvdb::Vec3f>::registerType();
  points::appendAttribute<openvdb::Vec3f>(grid->tree(), "color");
  points::populateAttribute<points::PointDataTree, openvdb::tools::PointIndexTree, List>(
      grid->tree(), index->tree(), "color", color);
  return grid;
}

}  // namespace

Skin skin_of(const LiquidPoints& p, const std::vector<Vec3f>& colors) {
  Skin skin;
  if (p.place.empty()) return skin;
  openvdb::initialize();
  const double h = p.cell_size;
  constexpr double radius = 0.42, search = 1.3, voxel = 0.5;  // cells
  const auto grid = grid_of(p, colors);
  const auto transform = openvdb::math::Transform::createLinearTransform(voxel * h);
  const auto made = points::rasterizeSmoothSpheres<points::PointDataGrid, openvdb::TypeList<openvdb::Vec3f>>(
      *grid, radius * h, search * h, std::vector<std::string>{"color"}, 3.f, transform);
  const auto set = openvdb::gridPtrCast<openvdb::FloatGrid>(made.at(0));
  const auto tone = openvdb::gridPtrCast<openvdb::Vec3SGrid>(made.at(1));
  if (set->activeVoxelCount() == 0) return skin;
  openvdb::tools::LevelSetFilter<openvdb::FloatGrid>(*set).gaussian(1);
  skin.mesh = mesh_of(*set);
  auto tones = tone->getConstAccessor();
  for (const Vec3f& at : skin.mesh.points) {
    const openvdb::Coord near = openvdb::Coord::round(tone->worldToIndex(openvdb::Vec3d(at.x, at.y, at.z)));
    openvdb::Vec3s sum(0.f);
    int count = 0;
    for (int n = 0; n < 27; ++n) {
      openvdb::Vec3s c;
      if (tones.probeValue(near.offsetBy(n % 3 - 1, n / 3 % 3 - 1, n / 9 - 1), c)) sum += c, ++count;
    }
    if (count) sum /= float(count);
    skin.colors.push_back({sum.x(), sum.y(), sum.z()});
  }
  return skin;
}

}  // namespace pour
