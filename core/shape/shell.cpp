#include "shape/shell.h"

#include <cmath>

#include "base/parallel.h"
#include "shape/grid_mesh.h"
#include "shape/near_surface.h"
#include "shape/winding.h"

namespace pour {
namespace {

/// The parts that hang together, each as a mesh.
std::vector<Mesh> pieces_of(const Mesh& mesh) {
  std::vector<Mesh> out;
  std::vector<int> place(mesh.points.size(), -1);
  for (const std::vector<int>& surface : surfaces_of(mesh)) {
    Mesh& one = out.emplace_back();
    for (const int t : surface) {
      auto corners = mesh.triangles[size_t(t)];
      for (int& c : corners) {
        int& to = place[size_t(c)];
        if (to < 0) to = int(one.points.size()), one.points.push_back(mesh.points[size_t(c)]);
        c = to;
      }
      one.triangles.push_back(corners);
    }
  }
  return out;
}

/// On which side of a surface the points of a lattice are, by its winding number: where that is clear all
/// around, by the corners of blocks alone.
class Sides {
 public:
  static constexpr int block = 4;

  Sides(const Mesh& mesh, double voxel, const StopAsked& stop)
      : winding_(mesh), surface_(mesh), voxel_(voxel) {
    const Box box = mesh.bounds();
    low_ = box.low - Vec3d{1, 1, 1} * (2 * voxel);
    for (int a = 0; a < 3; ++a) blocks_[a] = int(std::ceil((box.size()[a] / voxel + 4) / block));
    find_touched(mesh);
    find_corners(stop);
    inside_.assign(size_t(blocks_.x) * size_t(blocks_.y) * size_t(blocks_.z) * block * block * block, 0);
    parallel_for(touched_.size(), [&](size_t b) {
      if (!(stop && stop())) fill_block(b);
    });
    give_up_if(stop);
  }

  Vec3i count() const { return blocks_ * block; }
  Vec3d place(const Vec3i& p) const { return low_ + to<double>(p) * voxel_; }
  bool inside(const Vec3i& p) const { return inside_[index(p)]; }
  /// Where between two neighbours of which one is inside the surface is, as a share of the way from `in`.
  double crossing(const Vec3i& in, const Vec3i& out) const {
    if (const auto t = surface_.met(to<float>(place(in)), to<float>(place(out)))) return double(*t);
    double low = 0, high = 1;  // across a hole
    for (int k = 0; k < 6; ++k) {
      const double t = (low + high) / 2;
      (is_inside(place(in) + (place(out) - place(in)) * t) ? low : high) = t;
    }
    return (low + high) / 2;
  }

 private:
  size_t index(const Vec3i& p) const {
    const Vec3i n = count();
    return (size_t(p.z) * size_t(n.y) + size_t(p.y)) * size_t(n.x) + size_t(p.x);
  }
  /// On a sheet it is ½ but for rounding.
  static bool is_in(double winding) { return winding > 0.5001; }
  bool is_inside(const Vec3d& p) const { return is_in(winding_.at(p)); }
  Vec3i block_at(size_t b) const {
    return {int(b % size_t(blocks_.x)), int(b / size_t(blocks_.x) % size_t(blocks_.y)),
            int(b / (size_t(blocks_.x) * size_t(blocks_.y)))};
  }

  void find_touched(const Mesh& mesh) {
    touched_.assign(size_t(blocks_.x) * size_t(blocks_.y) * size_t(blocks_.z), 0);
    for (const auto& t : mesh.triangles) {
      const auto at = [&](size_t k) { return to<double>(mesh.points[size_t(t[k])]) - low_; };
      touch(at(0), at(1), at(2));
    }
  }

  void touch(const Vec3d& a, const Vec3d& b, const Vec3d& c) {
    // In halves until it is hardly larger than a block: the box around a large one holds too many.
    const double ab = length(b - a), bc = length(c - b), ca = length(a - c);
    if (std::max({ab, bc, ca}) > 2 * block * voxel_) {
      if (ab >= bc && ab >= ca) return touch(a, (a + b) * 0.5, c), touch((a + b) * 0.5, b, c);
      if (bc >= ca) return touch(b, (b + c) * 0.5, a), touch((b + c) * 0.5, c, a);
      return touch(c, (c + a) * 0.5, b), touch((c + a) * 0.5, a, b);
    }
    Box box;
    for (const Vec3d& p : {a, b, c}) box.add(p);
    Vec3i from, to;
    for (int a = 0; a < 3; ++a) {
      from[a] = std::clamp(int((box.low[a] / voxel_ - 1) / block), 0, blocks_[a] - 1);
      to[a] = std::clamp(int((box.high[a] / voxel_ + 1) / block), 0, blocks_[a] - 1);
    }
    for (int z = from.z; z <= to.z; ++z)
      for (int y = from.y; y <= to.y; ++y)
        for (int x = from.x; x <= to.x; ++x)
          touched_[(size_t(z) * size_t(blocks_.y) + size_t(y)) * size_t(blocks_.x) + size_t(x)] = 1;
  }

  void find_corners(const StopAsked& stop) {
    const Vec3i n = blocks_ + Vec3i{1, 1, 1};
    corners_.resize(size_t(n.x) * size_t(n.y) * size_t(n.z));
    parallel_for(size_t(n.y) * size_t(n.z), [&](size_t row) {
      if (stop && stop()) return;
      for (int x = 0; x < n.x; ++x)
        corners_[row * size_t(n.x) + size_t(x)] =
            float(winding_.at(place(Vec3i{x, int(row % size_t(n.y)), int(row / size_t(n.y))} * block)));
    });
    give_up_if(stop);
  }

  void fill_block(size_t b) {
    constexpr float clear = 0.2f;  // from ½
    const Vec3i at = block_at(b), n = blocks_ + Vec3i{1, 1, 1};
    float least = 1e9f, most = -1e9f;
    for (int k = 0; k < 8; ++k) {
      const Vec3i p = at + Vec3i{k & 1, k >> 1 & 1, k >> 2};
      const float w = corners_[(size_t(p.z) * size_t(n.y) + size_t(p.y)) * size_t(n.x) + size_t(p.x)];
      least = std::min(least, w), most = std::max(most, w);
    }
    const bool all_in = least > 0.5f + clear, all_out = most < 0.5f - clear;
    const bool mixed = touched_[b] || (!all_in && !all_out);
    // Where the surface does not come between them, neighbours are much alike.
    const auto next_to = [&](double w, const Vec3i& p, int axis) {
      Vec3d step;
      step[axis] = voxel_;
      const Vec3d here = place(p);
      const bool known = std::abs(w - 0.5) > double(clear) &&
                         !surface_.met(to<float>(here - step * 1.01), to<float>(here + step * 0.01));
      return known ? w : winding_.at(here);
    };
    double slice = 0.5, row = 0.5, w = 0.5;
    for (int z = 0; z < block; ++z)
      for (int y = 0; y < block; ++y)
        for (int x = 0; x < block; ++x) {
          const Vec3i p = at * block + Vec3i{x, y, z};
          if (mixed) {
            w = x ? next_to(w, p, 0) : y ? next_to(row, p, 1) : next_to(slice, p, 2);
            if (!x) row = w;
            if (!x && !y) slice = w;
          }
          inside_[index(p)] = mixed ? is_in(w) : all_in;
        }
  }

  WindingNumber winding_;
  NearSurface surface_;
  double voxel_;
  Vec3d low_;
  Vec3i blocks_;
  std::vector<uint8_t> touched_, inside_;
  std::vector<float> corners_;
};

}  // namespace

Mesh filled(const Mesh& mesh, const StopAsked& stop) {
  openvdb::initialize();
  const Vec3d size = mesh.bounds().size();
  const double voxel = std::max({size.x, size.y, size.z}) / 128;
  const Sides sides(mesh, voxel, stop);
  const Vec3i n = sides.count();
  constexpr float deep = 1;  // voxels
  struct Near {
    Vec3i at;
    float distance;
  };
  std::vector<std::vector<Near>> slices(static_cast<size_t>(n.z));
  parallel_for(slices.size(), [&](size_t z) {
    for (int y = 0; y < n.y; ++y)
      for (int x = 0; x < n.x; ++x) {
        const Vec3i p{x, y, int(z)};
        const bool in = sides.inside(p);
        float nearest = 2;
        for (int a = 0; a < 3; ++a)
          for (const int by : {-1, 1}) {
            Vec3i q = p;
            q[a] += by;
            if (q[a] < 0 || q[a] >= n[a] || sides.inside(q) == in) continue;
            const double t = in ? sides.crossing(p, q) : 1 - sides.crossing(q, p);
            nearest = std::min(nearest, float(t));
          }
        if (nearest < 2)
          slices[z].push_back({p, in ? -nearest : nearest});
        else if (in)
          slices[z].push_back({p, -deep});
      }
  });
  const auto field = openvdb::FloatGrid::create(deep);
  field->setGridClass(openvdb::GRID_LEVEL_SET);
  auto transform = openvdb::math::Transform::createLinearTransform(voxel);
  const Vec3d low = sides.place({0, 0, 0});
  transform->postTranslate({low.x, low.y, low.z});
  field->setTransform(transform);
  auto to = field->getAccessor();
  for (const auto& slice : slices)
    for (const Near& p : slice) to.setValueOn({p.at.x, p.at.y, p.at.z}, p.distance);
  return mesh_of(*field);
}

Mesh wall_along(const Mesh& mesh, double thickness) {
  openvdb::initialize();
  const Vec3d size = mesh.bounds().size();
  const double voxel = std::max(thickness / 3, std::max({size.x, size.y, size.z}) / 400);
  const auto field = grid_of(mesh, voxel, float(thickness / 2 / voxel + 2), false);
  field->setGridClass(openvdb::GRID_LEVEL_SET);  // so that the mesher knows where inside is
  return mesh_of(*field, std::max(thickness / 2, voxel));
}

Mesh hull_around(const Mesh& mesh, double distance) {
  Mesh out;
  // Seen from outside a hollow is inside out.
  for (const Mesh& piece : pieces_of(wall_along(mesh, 2 * distance)))
    if (piece.volume() > 0) out.append(piece);
  return out;
}

}  // namespace pour
