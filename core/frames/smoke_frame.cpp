#include "frames/smoke_frame.h"

#include <openvdb/io/File.h>

#include <algorithm>
#include <cmath>

#include "base/air.h"
#include "base/error.h"
#include "base/file.h"
#include "base/parallel.h"
#include "base/text.h"
#include "frames/frame_grids.h"

namespace pour {
namespace {

constexpr float air_kelvin = float(air::temperature);
constexpr float half_step = 1.f / 2048;  // between 0.5 and 1, of a float with 16 bits

openvdb::math::Transform::Ptr cell_transform(double h, const RoomMotion* motion) {
  if (motion) {
    // OpenVDB's vectors are rows: v · M.
    openvdb::Mat4d m = openvdb::Mat4d::identity();
    const Vec3d origin = motion->pose * Vec3d{h / 2, h / 2, h / 2};
    for (int i = 0; i < 3; ++i) {
      for (int a = 0; a < 3; ++a) m[i][a] = motion->pose.turn.row[a][i] * h;
      m[3][i] = origin[i];
    }
    return openvdb::math::Transform::createLinearTransform(m);
  }
  auto t = openvdb::math::Transform::createLinearTransform(h);
  t->postTranslate(openvdb::Vec3d(h / 2));
  return t;
}

Pose pose_of(const openvdb::GridBase& grid) {
  const openvdb::Mat4d m = grid.transform().baseMap()->getAffineMap()->getMat4();
  Pose pose;
  Vec3d half{};
  for (int a = 0; a < 3; ++a)
    for (int i = 0; i < 3; ++i) {
      const double h = std::sqrt(m[i][0] * m[i][0] + m[i][1] * m[i][1] + m[i][2] * m[i][2]);
      pose.turn.row[a][i] = m[i][a] / h, half[i] = h / 2;
    }
  pose.position = Vec3d{m[3][0], m[3][1], m[3][2]} - pose.turn * half;
  return pose;
}

/// The four grids of a volume.
struct Grids {
  openvdb::FloatGrid::Ptr density, temperature;
  openvdb::Vec3SGrid::Ptr color, velocity;

  Grids(double h, const RoomMotion* motion)
      : density(openvdb::FloatGrid::create(0.f)),
        temperature(openvdb::FloatGrid::create(air_kelvin)),
        color(openvdb::Vec3SGrid::create(openvdb::Vec3s(0.f))),
        velocity(openvdb::Vec3SGrid::create(openvdb::Vec3s(0.f))) {
    const std::string suffix = motion ? "_room_" + std::to_string(motion->room) : "";
    const std::pair<openvdb::GridBase::Ptr, const char*> all[] = {
        {density, "density"}, {temperature, "temperature"}, {color, "color"}, {velocity, "velocity"}};
    for (const auto& [grid, name] : all) {
      grid->setName(name + suffix);
      grid->setTransform(cell_transform(h, motion));
      grid->setSaveFloatAsHalf(true);
    }
    density->setGridClass(openvdb::GRID_FOG_VOLUME);
    if (!motion) velocity->setGridClass(openvdb::GRID_STAGGERED);
    velocity->setVectorType(openvdb::VEC_CONTRAVARIANT_RELATIVE);
  }
};

/// At the middle of a cell of a room that moves.
openvdb::Vec3s world_velocity(const GasState& s, int b, int c, double h, const RoomMotion& motion) {
  const Floats* f[3] = {&s.u, &s.v, &s.w};
  static constexpr int stride[3] = {1, 8, 64}, plus[3] = {x_plus, y_plus, z_plus};
  const Vec3i at = s.grid.key(b).at * 8;
  Vec3d own, p{at.x + (c & 7) + 0.5, at.y + (c >> 3 & 7) + 0.5, at.z + (c >> 6) + 0.5};
  for (int a = 0; a < 3; ++a) {
    const bool inside = (c >> 3 * a & 7) < 7;
    const float next =
        inside ? f[a]->block(b)[c + stride[a]] : f[a]->block(s.grid.around(b)[plus[a]])[c - 7 * stride[a]];
    own[a] = 0.5 * double(f[a]->block(b)[c] + next);
  }
  const Vec3d place = motion.pose * (p * h);
  const Vec3d v = motion.pose.turn * own + motion.velocity + cross(motion.spin, place - motion.pose.position);
  return openvdb::Vec3s(float(v.x), float(v.y), float(v.z));
}

}  // namespace

void add_smoke(FrameGrids& out, const GasState& s, double h, const std::vector<RoomMotion>& moving) {
  float most = 0;
  for (int b = first_block; b < s.grid.size(); ++b)
    for (int c = 0; c < block_cells; ++c) most = std::max(most, s.density.block(b)[c]);
  const float least = std::max(most * 1e-5f, 1e-12f);
  const auto is_moving = [&](int room) {
    return std::any_of(moving.begin(), moving.end(), [&](const RoomMotion& m) { return m.room == room; });
  };
  const auto add_volume = [&](const RoomMotion* motion) {
    const Grids grids(h, motion);
    // A block is a leaf; two rooms that share a block share the leaf, and the denser cell wins.
    for (int b = first_block; b < s.grid.size(); ++b) {
      if (motion ? s.grid.key(b).room != motion->room : is_moving(s.grid.key(b).room)) continue;
      const float* d = s.density.block(b);
      if (*std::max_element(d, d + block_cells) <= least) continue;
      const Vec3i at = s.grid.key(b).at;
      const openvdb::Coord origin(at.x * 8, at.y * 8, at.z * 8);
      auto* leaf_d = grids.density->tree().touchLeaf(origin);
      auto* leaf_t = grids.temperature->tree().touchLeaf(origin);
      const auto color_at = [&](int c) {
        return openvdb::Vec3s(s.red.block(b)[c], s.green.block(b)[c], s.blue.block(b)[c]) / d[c];
      };
      // Mostly all of a block has one colour, as far as half a float can tell: that is one value, not a leaf.
      const openvdb::Vec3s one = color_at(int(std::max_element(d, d + block_cells) - d));
      bool mixed = grids.color->tree().isValueOn(origin) || grids.color->tree().probeLeaf(origin);
      for (int c = 0; c < block_cells && !mixed; ++c) mixed = d[c] > least && !color_at(c).eq(one, half_step);
      if (!mixed) grids.color->tree().addTile(1, origin, one, true);
      auto* leaf_c = mixed ? grids.color->tree().touchLeaf(origin) : nullptr;
      auto* leaf_v = grids.velocity->tree().touchLeaf(origin);
      for (int c = 0; c < block_cells; ++c) {
        const auto n =
            openvdb::Index(((c & 7) * 8 + (c >> 3 & 7)) * 8 + (c >> 6));  // a leaf runs along z first
        if (d[c] <= least || d[c] <= leaf_d->getValue(n)) continue;
        leaf_d->setValueOn(n, d[c]);
        leaf_t->setValueOn(n, air_kelvin + s.heat.block(b)[c]);
        if (leaf_c) leaf_c->setValueOn(n, color_at(c));
        leaf_v->setValueOn(n, motion ? world_velocity(s, b, c, h, *motion)
                                     : openvdb::Vec3s(s.u.block(b)[c], s.v.block(b)[c], s.w.block(b)[c]));
      }
    }

    for (const openvdb::GridBase::Ptr& g :
         {openvdb::GridBase::Ptr(grids.density), openvdb::GridBase::Ptr(grids.temperature),
          openvdb::GridBase::Ptr(grids.color), openvdb::GridBase::Ptr(grids.velocity)})
      out.all.push_back(g);
  };
  add_volume(nullptr);
  for (const RoomMotion& m : moving) add_volume(&m);
}

namespace {

SmokeVolume read_volume(openvdb::io::File& in, int room, const StoredFrame& frame, bool with_flow) {
  SmokeVolume v;
  v.room = room;
  const std::string suffix = room ? "_room_" + std::to_string(room) : "";
  const auto density = openvdb::gridPtrCast<openvdb::FloatGrid>(in.readGrid("density" + suffix));
  const auto color = openvdb::gridPtrCast<openvdb::Vec3SGrid>(in.readGrid("color" + suffix));
  if (!density || !color) throw torn_frame(frame.file, "it lacks density or color");
  openvdb::FloatGrid::Ptr temperature;
  openvdb::Vec3SGrid::Ptr velocity;
  if (with_flow) {
    temperature = openvdb::gridPtrCast<openvdb::FloatGrid>(in.readGrid("temperature" + suffix));
    velocity = openvdb::gridPtrCast<openvdb::Vec3SGrid>(in.readGrid("velocity" + suffix));
    if (!temperature || !velocity) throw torn_frame(frame.file, "it lacks temperature or velocity");
  }
  v.cell_size = density->voxelSize().x();
  if (frame.cell_size > 0 && std::abs(v.cell_size - frame.cell_size) > 1e-6 * frame.cell_size)
    throw torn_frame(frame.file, "its cells are not as large as the run's");
  if (v.room) v.pose = pose_of(*density);
  const openvdb::CoordBBox box = density->evalActiveVoxelBoundingBox();
  if (box.empty()) return v;
  v.low = {box.min().x(), box.min().y(), box.min().z()};
  v.count = {box.dim().x(), box.dim().y(), box.dim().z()};
  constexpr double most_cells = 4e9;
  if (double(v.count.x) * v.count.y * v.count.z > most_cells)
    throw torn_frame(frame.file, "it is far too large");
  const size_t n = size_t(v.count.x) * size_t(v.count.y) * size_t(v.count.z);
  v.density.resize(n), v.color.resize(3 * n);
  if (with_flow) v.speed.resize(n), v.warmth.resize(n), v.velocity.resize(n);
  parallel_for(size_t(v.count.z), [&](size_t z) {
    auto d = density->getConstAccessor();
    auto c = color->getConstAccessor();
    size_t i = z * size_t(v.count.x) * size_t(v.count.y);
    for (int y = 0; y < v.count.y; ++y)
      for (int x = 0; x < v.count.x; ++x, ++i) {
        const openvdb::Coord at(v.low.x + x, v.low.y + y, v.low.z + int(z));
        v.density[i] = d.getValue(at);
        const openvdb::Vec3s rgb = c.getValue(at);
        for (size_t k = 0; k < 3; ++k) v.color[3 * i + k] = rgb[int(k)];
      }
    if (!with_flow) return;
    auto t = temperature->getConstAccessor();
    auto u = velocity->getConstAccessor();
    i = z * size_t(v.count.x) * size_t(v.count.y);
    for (int y = 0; y < v.count.y; ++y)
      for (int x = 0; x < v.count.x; ++x, ++i) {
        const openvdb::Coord at(v.low.x + x, v.low.y + y, v.low.z + int(z));
        // Where the next face belongs to a cell without smoke, this one stands for both.
        openvdb::Vec3s mean = u.getValue(at);
        for (int a = 0; a < 3 && !v.room; ++a) {
          openvdb::Coord next = at;
          next[a] += 1;
          if (u.isValueOn(next)) mean[a] = 0.5f * (mean[a] + u.getValue(next)[a]);
        }
        v.velocity[i] = {mean.x(), mean.y(), mean.z()};
        v.speed[i] = mean.length(), v.warmth[i] = t.getValue(at) - air_kelvin;
      }
  });
  return v;
}

SmokeBlocks read_blocks(openvdb::io::File& in, int room, const StoredFrame& frame) {
  const std::string suffix = room ? "_room_" + std::to_string(room) : "";
  const auto density = openvdb::gridPtrCast<openvdb::FloatGrid>(in.readGrid("density" + suffix));
  const auto temperature = openvdb::gridPtrCast<openvdb::FloatGrid>(in.readGrid("temperature" + suffix));
  const auto color = openvdb::gridPtrCast<openvdb::Vec3SGrid>(in.readGrid("color" + suffix));
  const auto velocity = openvdb::gridPtrCast<openvdb::Vec3SGrid>(in.readGrid("velocity" + suffix));
  if (!density || !temperature || !color || !velocity)
    throw torn_frame(frame.file, "a grid of its smoke is missing");
  SmokeBlocks out;
  out.room = room;
  auto t = temperature->getConstAccessor();
  auto c = color->getConstAccessor();
  auto u = velocity->getConstAccessor();
  for (auto leaf = density->tree().cbeginLeaf(); leaf; ++leaf) {
    const openvdb::Coord o = leaf->origin();
    SmokeBlock block;
    block.at = {o.x() >> 3, o.y() >> 3, o.z() >> 3};
    for (auto v = leaf->cbeginValueOn(); v; ++v) {
      const openvdb::Coord at = v.getCoord(), in_block = at - o;
      const size_t n = size_t((in_block.z() * 8 + in_block.y()) * 8 + in_block.x());
      const openvdb::Vec3s rgb = c.getValue(at), speed = u.getValue(at);
      block.here[n] = true, block.density[n] = *v, block.heat[n] = t.getValue(at) - air_kelvin;
      block.color[n] = {rgb.x(), rgb.y(), rgb.z()}, block.velocity[n] = {speed.x(), speed.y(), speed.z()};
    }
    out.blocks.push_back(block);
  }
  return out;
}

/// Calls `read` for each volume of a frame's smoke, by room.
template <class Part, class F>
std::vector<Part> read_all(const StoredFrame& frame, const F& read) {
  openvdb::initialize();
  check_frame(frame);
  try {
    openvdb::io::File in(frame.file.string());
    in.setCopyMaxBytes(0);
    in.open(false);
    if (!in.hasGrid("density") && in.hasGrid("liquid")) return {};
    std::vector<Part> out{read(in, 0)};
    for (auto name = in.beginName(); name != in.endName(); ++name)
      if (const std::string start = "density_room_"; (*name).starts_with(start))
        if (const auto room = whole_number((*name).substr(start.size()), 1, 1000000))
          out.push_back(read(in, int(*room)));
    std::sort(out.begin(), out.end(), [](const Part& a, const Part& b) { return a.room < b.room; });
    return out;
  } catch (const Fault&) {
    throw;
  } catch (const std::bad_alloc&) {
    throw fault_in_flight(frame.file.string());
  } catch (const std::exception&) {
    throw torn_frame(frame.file, "OpenVDB finds no smoke in it");
  }
}

}  // namespace

std::vector<SmokeVolume> read_frame(const StoredFrame& frame, bool with_flow) {
  return read_all<SmokeVolume>(
      frame, [&](openvdb::io::File& in, int room) { return read_volume(in, room, frame, with_flow); });
}

std::vector<SmokeBlocks> read_smoke_blocks(const StoredFrame& frame) {
  return read_all<SmokeBlocks>(frame,
                               [&](openvdb::io::File& in, int room) { return read_blocks(in, room, frame); });
}

}  // namespace pour
