#include "surface/skin.h"

#include <openvdb/tools/SignedFloodFill.h>

#include <cmath>
#include <unordered_map>

#include "base/parallel.h"
#include "shape/decimate.h"
#include "shape/grid_mesh.h"
#include "shape/level_set.h"
#include "surface/kernels.h"
#include "surface/smooth_mesh.h"

namespace pour {
namespace {

using openvdb::Coord;
using Leaf = openvdb::FloatTree::LeafNodeType;

constexpr float threshold = 0.5f;  // density at the skin
const float edge = std::cbrt(threshold);
constexpr double smoothing = 2;  // where the shot says nothing, cells
constexpr double finer = 1.6;    // for what is only a few voxels wide
constexpr double widest = 4;     // smoothing, cells
constexpr float sampled = 1.4f;  // what colours and speeds are the mean of, cells

/// The lattice points that a kernel covers.
openvdb::CoordBBox covered(const Kernel& k, float voxel) {
  openvdb::CoordBBox box;
  for (int i = 0; i < 3; ++i) {
    box.min()[i] = int(std::ceil((k.at[i] - k.reach[i]) / voxel));
    box.max()[i] = int(std::floor((k.at[i] + k.reach[i]) / voxel));
  }
  return box;
}

/// The leaves of a grid that the surface may run through, each with the kernels that it is made of.
class Leaves {
 public:
  Leaves(const Kernels& kernels, float voxel, Place makes) : kernels_(kernels.of), voxel_(voxel) {
    const auto add_all = [&](Place place, bool make) {
      for (size_t i = 0; i < kernels.of.size(); ++i)
        if (kernels.place[i] == place) add(uint32_t(i), make);
    };
    add_all(makes, true);
    if (makes == Place::shallow) add_all(Place::deep, false);
  }

  size_t size() const { return lists_.size(); }

  /// Threshold minus the cube root of density, which falls off more evenly; negative inside.
  std::unique_ptr<Leaf> leaf(size_t n) const {
    auto out = std::make_unique<Leaf>(origins_[n], 0.f, true);
    float* const values = out->buffer().data();
    const openvdb::CoordBBox all = out->getNodeBoundingBox();
    for (const uint32_t i : lists_[n]) {
      const Kernel& k = kernels_[i];
      openvdb::CoordBBox box = covered(k, voxel_);
      box.intersect(all);
      for (int x = box.min().x(); x <= box.max().x(); ++x)
        for (int y = box.min().y(); y <= box.max().y(); ++y) {
          float* const row = values + Leaf::coordToOffset(Coord(x, y, 0));
          const Vec3f first{float(x) * voxel_, float(y) * voxel_, float(all.min().z()) * voxel_};
          store(row, load(row) + k.density(first, voxel_));
        }
    }
    for (openvdb::Index i = 0; i < Leaf::SIZE; ++i) values[i] = edge - std::cbrt(values[i]);
    return out;
  }

 private:
  void add(uint32_t i, bool makes) {
    const openvdb::CoordBBox box = covered(kernels_[i], voxel_);
    for (int x = box.min().x() >> 3; x <= box.max().x() >> 3; ++x)
      for (int y = box.min().y() >> 3; y <= box.max().y() >> 3; ++y)
        for (int z = box.min().z() >> 3; z <= box.max().z() >> 3; ++z) {
          const Coord origin(x * 8, y * 8, z * 8);
          auto found = index_.find(origin);
          if (found == index_.end()) {
            if (!makes) continue;
            found = index_.emplace(origin, lists_.size()).first;
            lists_.emplace_back(), origins_.push_back(origin);
          }
          lists_[found->second].push_back(i);
        }
  }

  const std::vector<Kernel>& kernels_;
  const float voxel_;
  std::unordered_map<Coord, size_t> index_;
  std::vector<Coord> origins_;
  std::vector<std::vector<uint32_t>> lists_;
};

openvdb::FloatGrid::Ptr field_of(const Kernels& kernels, double voxel, Place makes) {
  auto grid = openvdb::FloatGrid::create(edge);
  grid->setTransform(openvdb::math::Transform::createLinearTransform(voxel));
  grid->setGridClass(openvdb::GRID_LEVEL_SET);
  const Leaves leaves(kernels, float(voxel), makes);
  std::vector<std::unique_ptr<Leaf>> made(leaves.size());
  parallel_for(made.size(), [&](size_t n) { made[n] = leaves.leaf(n); });
  for (auto& leaf : made) grid->tree().addLeaf(leaf.release());
  openvdb::tools::signedFloodFillWithValues(grid->tree(), edge, -edge);
  return grid;
}

/// Moves the points of a mesh to where its field is at the threshold: the mesher cuts corners off whatever is
/// no wider than a few voxels.
void fit(const Bins& bins, const Kernels& kernels, float voxel, Mesh& mesh) {
  constexpr float near = 0.03f;  // voxels
  const float reach = 1.75f * bins.cell();
  const std::vector<char> bent = bends(mesh);
  const size_t n = mesh.points.size();
  const auto step = [&](const Vec3f& at) -> Vec3f {
    float density = 0;
    Vec3f slope;
    bins.near(at, reach, [&](size_t i) { kernels.of[i].add(at, density, slope); });
    const float root = std::cbrt(density);
    slope = slope / (3 * root * root);
    const float square = dot(slope, slope);
    if (!(square > 0)) return {};
    const Vec3f to = slope * ((edge - root) / square);
    return to * std::min(1.f, 0.4f * voxel / length(to));
  };
  parallel_for(n / 256 + 1, [&](size_t chunk) {
    for (size_t i = chunk * 256; i < std::min(n, (chunk + 1) * 256); ++i)
      for (int tries = 0; bent[i] && tries < 4; ++tries) {
        const Vec3f by = step(mesh.points[i]);
        mesh.points[i] += by;
        if (length(by) < near * voxel) break;
      }
  });
}

/// Of each point of a mesh the mean of the particles around it.
void sample(const Bins& bins, const std::vector<Vec3f>& colors, const std::vector<Vec3f>& velocity,
            double beyond, Skin& skin) {
  const size_t n = skin.mesh.points.size();
  const float r = sampled * bins.cell() + float(beyond);
  skin.colors.resize(n), skin.velocity.resize(n);
  parallel_for(n / 256 + 1, [&](size_t chunk) {
    for (size_t i = chunk * 256; i < std::min(n, (chunk + 1) * 256); ++i) {
      const Vec3f at = skin.mesh.points[i];
      Vec3f color, speed;
      float sum = 0;
      bins.near(at, r, [&](size_t k) {
        const Vec3f d = bins.places()[k] - at;
        const float q = dot(d, d) / (r * r);
        if (q >= 1) return;
        const float w = (1 - q) * (1 - q) * (1 - q) * (1 - q) * (1 - q) * (1 - q);  // mostly the nearest
        color += colors[bins.order()[k]] * w, speed += velocity[bins.order()[k]] * w, sum += w;
      });
      if (sum > 0) skin.colors[i] = color / sum, skin.velocity[i] = speed / sum;
    }
  });
}

/// Known within three cells.
std::vector<float> depths(const std::vector<Vec3f>& places, const Mesh& mesh, double cell) {
  const LevelSet set(mesh, cell);
  std::vector<float> out(places.size());
  parallel_for(places.size() / 1024 + 1, [&](size_t chunk) {
    for (size_t i = chunk * 1024; i < std::min(places.size(), (chunk + 1) * 1024); ++i)
      out[i] = -float(set.distance(to<double>(places[i])));
  });
  return out;
}

/// Merges triangles in flat areas and removes unused points.
void coarsen(Skin& skin, double off) {
  const std::vector<std::array<int, 3>> triangles = larger_triangles(skin.mesh, off);
  std::vector<int> number(skin.mesh.points.size(), -1);
  Skin out;
  for (std::array<int, 3> t : triangles) {
    for (int& p : t) {
      int& to = number[size_t(p)];
      if (to < 0) {
        to = int(out.mesh.points.size());
        out.mesh.points.push_back(skin.mesh.points[size_t(p)]);
        out.colors.push_back(skin.colors[size_t(p)]), out.velocity.push_back(skin.velocity[size_t(p)]);
      }
      p = to;
    }
    out.mesh.triangles.push_back(t);
  }
  skin = std::move(out);
}

}  // namespace

Skin skin_of(const LiquidPoints& p, const std::vector<Vec3f>& colors, const SkinSettings& settings,
             bool with_depth) {
  Skin skin;
  if (p.place.empty()) return skin;
  openvdb::initialize();
  const double h = p.cell_size, voxel = settings.cell > 0 ? std::max(settings.cell, finest_skin(h)) : h / 2;
  const Bins bins(p.place, float(h));
  const Kernels kernels(bins);
  skin.mesh = mesh_of(*field_of(kernels, voxel, Place::shallow));
  skin.mesh.append(mesh_of(*field_of(kernels, voxel / finer, Place::drop)));
  if (skin.mesh.triangles.empty()) return skin;
  fit(bins, kernels, float(voxel), skin.mesh);
  sample(bins, colors, p.velocity, 0, skin);
  smooth(skin.mesh, settings.smoothing > 0 ? std::min(settings.smoothing, widest * h) : smoothing * h);
  if (settings.grow != 0) {
    const double far = std::abs(settings.grow), coarse = std::max(voxel, far / 8);  // a long way in few steps
    skin.mesh = mesh_of(*grid_of(skin.mesh, coarse, float(far / coarse + 2), true), settings.grow);
    sample(bins, colors, p.velocity, std::max(0.0, settings.grow), skin);
  }
  drop_small(skin.mesh, settings.smallest, 1.5 * h);
  if (settings.flat > 0) coarsen(skin, settings.flat);
  if (with_depth && !skin.mesh.triangles.empty()) skin.depth = depths(p.place, skin.mesh, h);
  return skin;
}

}  // namespace pour
