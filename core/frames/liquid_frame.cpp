#include "frames/liquid_frame.h"

#include <openvdb/io/File.h>
#include <openvdb/points/PointConversion.h>

#include <optional>

#include "base/error.h"
#include "base/openvdb_trees.h"
#include "frames/frame_grids.h"

namespace openvdb {
POUR_TREE_IS_COMPILED(points::PointDataTree);
POUR_TREE_IS_COMPILED(tools::PointIndexTree);
// The package lacks these.
template void points::PointDataTree::RootNodeType::ChildNodeType::getNodeLog2Dims(std::vector<Index>&);
template void points::PointDataTree::RootNodeType::ChildNodeType::ChildNodeType::getNodeLog2Dims(
    std::vector<Index>&);
template void tools::PointIndexTree::RootNodeType::ChildNodeType::getNodeLog2Dims(std::vector<Index>&);
template void tools::PointIndexTree::RootNodeType::ChildNodeType::ChildNodeType::getNodeLog2Dims(
    std::vector<Index>&);
}  // namespace openvdb

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
  List<int32_t> id, liquid, tint;
  for (size_t i = 0; i < n; ++i) {
    const auto three = [&](const auto& v) { return openvdb::Vec3f(v[0][i], v[1][i], v[2][i]); };
    place.values.push_back(three(p.place) * float(h));
    velocity.values.push_back(three(p.velocity));
    const Vec3f c = p.tint[i]                     ? unpack_tint(p.tint[i])
                    : p.liquid[i] < colors.size() ? colors[p.liquid[i]]
                                                  : Vec3f{1, 1, 1};
    color.values.emplace_back(c.x, c.y, c.z);
    age.values.push_back(p.age[i]), id.values.push_back(int32_t(p.id[i]));
    liquid.values.push_back(p.liquid[i]), tint.values.push_back(int32_t(p.tint[i]));
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
  if (std::any_of(p.tint.begin(), p.tint.end(), [](uint32_t t) { return t != 0; }))
    append(*grid, *index, "tint", tint);
  grid->setName("liquid");
  out.all.push_back(grid);
}

namespace {

/// Calls f with each leaf of a frame's points and their transform; not at all where it has none. Returns the
/// cell size.
template <class F>
double each_leaf(const StoredFrame& frame, const F& f) {
  openvdb::initialize();
  try {
    openvdb::io::File in(frame.file.string());
    in.setCopyMaxBytes(0);
    in.open(false);
    if (!in.hasGrid("liquid")) return 0;
    const auto grid = openvdb::gridPtrCast<points::PointDataGrid>(in.readGrid("liquid"));
    if (!grid) throw torn_frame(frame.file, "its liquid is no grid of points");
    const double h = grid->voxelSize().x();
    if (frame.cell_size > 0 && std::abs(h - frame.cell_size) > 1e-6 * frame.cell_size)
      throw torn_frame(frame.file, "its cells are not as large as the run's");
    for (auto leaf = grid->tree().cbeginLeaf(); leaf; ++leaf) f(*leaf, *grid);
    return h;
  } catch (const Fault&) {
    throw;
  } catch (const std::bad_alloc&) {
    throw fault_in_flight(frame.file.string());
  } catch (const std::exception&) {
    throw torn_frame(frame.file, "OpenVDB finds no liquid in it");
  }
}

using Leaf = points::PointDataTree::LeafNodeType;

template <class T>
points::AttributeHandle<T> attribute(const Leaf& leaf, const char* name) {
  return points::AttributeHandle<T>(leaf.constAttributeArray(name));
}

}  // namespace

LiquidPoints read_liquid(const StoredFrame& frame) {
  LiquidPoints out;
  out.cell_size = each_leaf(frame, [&](const Leaf& leaf, const points::PointDataGrid& grid) {
    const auto p = attribute<openvdb::Vec3f>(leaf, "P"), v = attribute<openvdb::Vec3f>(leaf, "velocity"),
               c = attribute<openvdb::Vec3f>(leaf, "color");
    const auto age = attribute<float>(leaf, "age");
    const auto liquid = attribute<int32_t>(leaf, "liquid"), id = attribute<int32_t>(leaf, "id");
    for (auto i = leaf.beginIndexOn(); i; ++i) {
      const openvdb::Vec3d at = grid.indexToWorld(openvdb::Vec3d(p.get(*i)) + i.getCoord().asVec3d());
      const auto three = [](const auto& x) { return Vec3f{float(x[0]), float(x[1]), float(x[2])}; };
      out.place.push_back(three(at));
      out.velocity.push_back(three(v.get(*i))), out.color.push_back(three(c.get(*i)));
      out.age.push_back(age.get(*i)), out.liquid.push_back(uint8_t(liquid.get(*i)));
      out.id.push_back(uint32_t(id.get(*i)));
    }
  });
  return out;
}

Particles read_particles(const StoredFrame& frame) {
  Particles out;
  each_leaf(frame, [&](const Leaf& leaf, const points::PointDataGrid&) {
    const auto p = attribute<openvdb::Vec3f>(leaf, "P"), v = attribute<openvdb::Vec3f>(leaf, "velocity");
    const auto age = attribute<float>(leaf, "age");
    const auto id = attribute<int32_t>(leaf, "id"), liquid = attribute<int32_t>(leaf, "liquid");
    std::optional<points::AttributeHandle<int32_t>> tint;
    if (leaf.hasAttribute("tint")) tint.emplace(leaf.constAttributeArray("tint"));
    for (auto i = leaf.beginIndexOn(); i; ++i) {
      const size_t n = out.size();
      out.resize(n + 1);
      // A voxel is around its lattice point, a cell after it.
      const openvdb::Vec3d at = openvdb::Vec3d(p.get(*i)) + i.getCoord().asVec3d();
      for (int a = 0; a < 3; ++a) {
        out.place[size_t(a)][n] = float(at[a] + 0.5);
        out.velocity[size_t(a)][n] = v.get(*i)[a];
      }
      out.age[n] = age.get(*i), out.id[n] = uint32_t(id.get(*i)), out.liquid[n] = uint8_t(liquid.get(*i));
      if (tint) out.tint[n] = uint32_t(tint->get(*i));
    }
  });
  return out;
}

void add_between(LiquidPoints& p, size_t one, size_t other, const Vec3f& place) {
  p.place.push_back(place);
  p.velocity.push_back((p.velocity[one] + p.velocity[other]) * 0.5f);
  p.color.push_back((p.color[one] + p.color[other]) * 0.5f);
  p.age.push_back((p.age[one] + p.age[other]) * 0.5f);
  p.liquid.push_back(p.liquid[one]), p.id.push_back(p.id[one]);
}

}  // namespace pour
