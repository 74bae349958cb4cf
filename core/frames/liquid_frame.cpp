#include "frames/liquid_frame.h"

#include <openvdb/io/File.h>
#include <openvdb/points/PointConversion.h>

#include "base/error.h"
#include "frames/frame_grids.h"

namespace pour {
namespace {

namespace points = openvdb::points;

/// One of the arrays of the particles to points, each by its number.
template <class T>
struct List {
  using value_type = T;
  using PosType = T;
  std::vector<T> values;
  size_t size() const { return values.size(); }
  void getPos(size_t i, T& out) const { out = values[i]; }
  template <class V>
  void get(V& out, size_t i) const {
    out = V(values[i]);
  }
  template <class V>
  void get(V& out, size_t i, openvdb::Index) const {
    out = V(values[i]);
  }
};

template <class T, class Codec = points::NullCodec>
void append(points::PointDataGrid& grid, const openvdb::tools::PointIndexGrid& index, const char* name,
            const List<T>& list) {
  points::TypedAttributeArray<T, Codec>::registerType();
  points::appendAttribute<T, Codec>(grid.tree(), name);
  points::populateAttribute<points::PointDataTree, openvdb::tools::PointIndexTree, List<T>>(
      grid.tree(), index.tree(), name, list);
}

}  // namespace

void add_liquid(FrameGrids& out, const Particles& p, double h, const std::vector<Vec3f>& colors) {
  const size_t n = p.size();
  List<openvdb::Vec3f> place, velocity, color;
  List<float> age;
  List<int32_t> id, liquid;
  for (size_t i = 0; i < n; ++i) {
    const auto three = [&](const auto& v) { return openvdb::Vec3f(v[0][i], v[1][i], v[2][i]); };
    place.values.push_back(three(p.place) * float(h));
    velocity.values.push_back(three(p.velocity));
    const Vec3f c = p.liquid[i] < colors.size() ? colors[p.liquid[i]] : Vec3f{1, 1, 1};
    color.values.emplace_back(c.x, c.y, c.z);
    age.values.push_back(p.age[i]), id.values.push_back(int32_t(p.id[i]));
    liquid.values.push_back(p.liquid[i]);
  }
  // A voxel of a point grid is around its lattice point.
  auto transform = openvdb::math::Transform::createLinearTransform(h);
  transform->postTranslate(openvdb::Vec3d(h / 2));
  const auto index = openvdb::tools::createPointIndexGrid<openvdb::tools::PointIndexGrid>(place, *transform);
  const auto grid =
      points::createPointDataGrid<points::NullCodec, points::PointDataGrid>(*index, place, *transform);
  append(*grid, *index, "velocity", velocity);
  append(*grid, *index, "color", color);
  append(*grid, *index, "age", age);
  append(*grid, *index, "id", id);
  append(*grid, *index, "liquid", liquid);
  grid->setName("liquid");
  out.all.push_back(grid);
}

LiquidPoints read_liquid(const StoredFrame& frame) {
  openvdb::initialize();
  LiquidPoints out;
  try {
    openvdb::io::File in(frame.file.string());
    in.setCopyMaxBytes(0);
    in.open(false);
    if (!in.hasGrid("liquid")) return out;
    const auto grid = openvdb::gridPtrCast<points::PointDataGrid>(in.readGrid("liquid"));
    if (!grid) throw torn_frame(frame.file, "its liquid is no grid of points");
    out.cell_size = grid->voxelSize().x();
    if (frame.cell_size > 0 && std::abs(out.cell_size - frame.cell_size) > 1e-6 * frame.cell_size)
      throw torn_frame(frame.file, "its cells are not as large as the run's");
    for (auto leaf = grid->tree().cbeginLeaf(); leaf; ++leaf) {
      const points::AttributeHandle<openvdb::Vec3f> p(leaf->constAttributeArray("P")),
          v(leaf->constAttributeArray("velocity")), c(leaf->constAttributeArray("color"));
      for (auto i = leaf->beginIndexOn(); i; ++i) {
        const openvdb::Vec3d at = grid->indexToWorld(openvdb::Vec3d(p.get(*i)) + i.getCoord().asVec3d());
        const auto three = [](const auto& x) { return Vec3f{float(x[0]), float(x[1]), float(x[2])}; };
        out.place.push_back(three(at));
        out.velocity.push_back(three(v.get(*i))), out.color.push_back(three(c.get(*i)));
      }
    }
    return out;
  } catch (const Fault&) {
    throw;
  } catch (const std::bad_alloc&) {
    throw fault_in_flight(frame.file.string());
  } catch (const std::exception&) {
    throw torn_frame(frame.file, "OpenVDB finds no liquid in it");
  }
}

}  // namespace pour
