#include "surface/skin.h"

#include <openvdb/points/PointConversion.h>
#include <openvdb/points/PointRasterizeSDF.h>
#include <openvdb/tools/Interpolation.h>
#include <openvdb/tools/LevelSetFilter.h>
#include <openvdb/tools/LevelSetMeasure.h>

#include <cmath>
#include <numbers>

#include "base/parallel.h"
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

points::PointDataGrid::Ptr grid_of(const LiquidPoints& p, const std::vector<Vec3f>& colors, double cell) {
  const auto transform = openvdb::math::Transform::createLinearTransform(cell);
  const List place{p.place};
  const auto index = openvdb::tools::createPointIndexGrid<openvdb::tools::PointIndexGrid>(place, *transform);
  auto grid =
      points::createPointDataGrid<points::NullCodec, points::PointDataGrid>(*index, place, *transform);
  points::TypedAttributeArray<openvdb::Vec3f>::registerType();
  const std::pair<const char*, List> carried[] = {{"color", {colors}}, {"velocity", {p.velocity}}};
  for (const auto& [name, list] : carried) {
    points::appendAttribute<openvdb::Vec3f>(grid->tree(), name);
    points::populateAttribute<points::PointDataTree, openvdb::tools::PointIndexTree, List>(
        grid->tree(), index->tree(), name, list);
  }
  return grid;
}

/// Over so much length, with its volume as it was.
void smooth(openvdb::FloatGrid& set, double length) {
  constexpr double of_pass = 2.0 / 3;  // variance of a mean over three voxels
  constexpr int most = 100;
  const double voxel = set.voxelSize().x();
  const int passes = int(std::lround(std::min<double>(most, std::pow(length / voxel, 2) / of_pass)));
  const double volume = openvdb::tools::LevelSetMeasure<openvdb::FloatGrid>(set).volume();
  openvdb::tools::LevelSetFilter<openvdb::FloatGrid> filter(set);
  filter.setNormCount(1);  // means of a distance are nearly one
  for (int i = 1; i <= passes; ++i) {
    filter.mean(1);
    if (i % 4 && i < passes) continue;
    filter.setNormCount(3), filter.normalize(), filter.setNormCount(1);  // to be measured
    openvdb::tools::LevelSetMeasure<openvdb::FloatGrid> measure(set);
    const double area = measure.area(), less = volume - measure.volume();
    if (area > 0) filter.offset(float(std::clamp(-less / area, -voxel, voxel)));
  }
}

/// Leaves out the bodies that have less volume than a ball of this size.
void drop_small(Mesh& mesh, double across) {
  std::vector<int> root(mesh.points.size());
  for (size_t i = 0; i < root.size(); ++i) root[i] = int(i);
  const auto find = [&](int i) {
    while (root[size_t(i)] != i) i = root[size_t(i)] = root[size_t(root[size_t(i)])];
    return i;
  };
  for (const auto& t : mesh.triangles)
    for (const int k : {1, 2}) root[size_t(find(t[size_t(k)]))] = find(t[0]);
  std::vector<double> volume(mesh.points.size(), 0);
  for (const auto& t : mesh.triangles)
    volume[size_t(find(t[0]))] +=
        double(dot(mesh.points[size_t(t[0])], cross(mesh.points[size_t(t[1])], mesh.points[size_t(t[2])]))) /
        6;
  const double least = std::numbers::pi / 6 * across * across * across;
  std::erase_if(mesh.triangles, [&](const auto& t) { return std::abs(volume[size_t(find(t[0]))]) < least; });
}

/// Of each point of a mesh the mean of what is known around it.
std::vector<Vec3f> around(const Mesh& mesh, const openvdb::Vec3SGrid& known) {
  std::vector<Vec3f> out(mesh.points.size());
  parallel_for(mesh.points.size() / 1024 + 1, [&](size_t chunk) {
    auto values = known.getConstAccessor();
    for (size_t i = chunk * 1024; i < std::min(mesh.points.size(), (chunk + 1) * 1024); ++i) {
      const Vec3f& at = mesh.points[i];
      const openvdb::Coord near = openvdb::Coord::round(known.worldToIndex(openvdb::Vec3d(at.x, at.y, at.z)));
      openvdb::Vec3s sum(0.f);
      int count = 0;
      for (int n = 0; n < 27; ++n) {
        openvdb::Vec3s c;
        if (values.probeValue(near.offsetBy(n % 3 - 1, n / 3 % 3 - 1, n / 9 - 1), c)) sum += c, ++count;
      }
      if (count) sum /= float(count);
      out[i] = {sum.x(), sum.y(), sum.z()};
    }
  });
  return out;
}

}  // namespace

Skin skin_of(const LiquidPoints& p, const std::vector<Vec3f>& colors, const SkinSettings& settings,
             bool with_depth) {
  Skin skin;
  if (p.place.empty()) return skin;
  openvdb::initialize();
  const double h = p.cell_size;
  constexpr double radius = 0.42, search = 1.3;  // cells
  const double voxel = settings.cell > 0 ? settings.cell : h / 2;
  const auto grid = grid_of(p, colors, h);
  const auto transform = openvdb::math::Transform::createLinearTransform(voxel);
  const auto made = points::rasterizeSmoothSpheres<points::PointDataGrid, openvdb::TypeList<openvdb::Vec3f>>(
      *grid, radius * h, search * h, std::vector<std::string>{"color", "velocity"}, 3.f, transform);
  const auto set = openvdb::gridPtrCast<openvdb::FloatGrid>(made.at(0));
  if (set->activeVoxelCount() == 0) return skin;
  smooth(*set, settings.smoothing > 0 ? settings.smoothing : 0.8 * h);
  if (settings.grow != 0)
    openvdb::tools::LevelSetFilter<openvdb::FloatGrid>(*set).offset(float(-settings.grow));
  skin.mesh = mesh_of(*set);
  if (settings.smallest > 0) drop_small(skin.mesh, settings.smallest);
  skin.colors = around(skin.mesh, *openvdb::gridPtrCast<openvdb::Vec3SGrid>(made.at(1)));
  skin.velocity = around(skin.mesh, *openvdb::gridPtrCast<openvdb::Vec3SGrid>(made.at(2)));
  if (!with_depth) return skin;
  skin.depth.resize(p.place.size());
  parallel_for(p.place.size() / 1024 + 1, [&](size_t chunk) {
    auto values = set->getConstAccessor();
    for (size_t i = chunk * 1024; i < std::min(p.place.size(), (chunk + 1) * 1024); ++i) {
      const openvdb::Vec3d at = set->worldToIndex(openvdb::Vec3d(p.place[i].x, p.place[i].y, p.place[i].z));
      skin.depth[i] = -openvdb::tools::BoxSampler::sample(values, at);
    }
  });
  return skin;
}

}  // namespace pour
