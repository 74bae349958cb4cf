#include "run/frame_file.h"

#include <openvdb/io/File.h>
#include <openvdb/openvdb.h>

#include <sys/mman.h>
#include <unistd.h>

#include <cmath>

#include "base/error.h"
#include "base/file.h"
#include "base/parallel.h"

namespace pour {
namespace {

constexpr float air_kelvin = float(air::temperature);
constexpr float half_step = 1.f / 2048;  // between 0.5 and 1, of a float with 16 bits

openvdb::math::Transform::Ptr cell_transform(double h) {
  auto t = openvdb::math::Transform::createLinearTransform(h);
  t->postTranslate(openvdb::Vec3d(h / 2));
  return t;
}

template <class Grid>
typename Grid::Ptr make_grid(const char* name, double h, const typename Grid::ValueType& background) {
  auto g = Grid::create(background);
  g->setName(name);
  g->setTransform(cell_transform(h));
  g->setSaveFloatAsHalf(true);
  return g;
}

// OpenVDB marks each file with a random id. Ours is made from the contents: equal frames are equal to the
// byte, and a torn file is known before it is parsed.
constexpr size_t id_at = 8 + 3 * 4 + 1, id_length = 36;
constexpr const char* id_mark = "-4ea5-8001-";

std::string id_for(std::string_view bytes) {
  const uint64_t parts[2] = {checksum(bytes.substr(0, id_at)), checksum(bytes.substr(id_at + id_length))};
  const uint64_t sum = checksum({reinterpret_cast<const char*>(parts), sizeof parts});
  char id[64];
  std::snprintf(id, sizeof id, "%08x-%04x%s%012x", unsigned(sum >> 32), unsigned(sum >> 16 & 0xffff), id_mark,
                unsigned(sum & 0xffff));
  return id;
}

/// The bytes of an OpenVDB file. It is written to memory first: OpenVDB does not notice a full disk.
class FileInMemory {
 public:
  explicit FileInMemory(const openvdb::GridCPtrVec& grids) : file_(memfd_create("frame", 0)) {
    if (file_ < 0) throw short_of_memory();
    try {
      openvdb::io::File out("/proc/self/fd/" + std::to_string(file_));
      out.setCompression(openvdb::io::COMPRESS_ACTIVE_MASK | openvdb::io::COMPRESS_BLOSC);
      out.write(grids);
      size_ = size_t(::lseek(file_, 0, SEEK_END));
      void* all = ::mmap(nullptr, size_, PROT_READ | PROT_WRITE, MAP_SHARED, file_, 0);
      if (all == MAP_FAILED) throw short_of_memory();
      bytes_ = static_cast<char*>(all);
    } catch (...) {
      ::close(file_);
      throw;
    }
    const std::string id = id_for(bytes());
    std::copy(id.begin(), id.end(), bytes_ + id_at);
  }
  ~FileInMemory() { ::munmap(bytes_, size_), ::close(file_); }
  FileInMemory(const FileInMemory&) = delete;
  FileInMemory& operator=(const FileInMemory&) = delete;
  std::string_view bytes() const { return {bytes_, size_}; }

 private:
  static Fault short_of_memory() {
    return machine_fault("Memory", "is short: a frame can't be prepared.",
                         "Close other programs or use larger cells.");
  }
  int file_;
  char* bytes_ = nullptr;
  size_t size_ = 0;
};

}  // namespace

std::string write_frame(const std::filesystem::path& file, const GasState& s, double h) {
  openvdb::initialize();
  auto density = make_grid<openvdb::FloatGrid>("density", h, 0.f);
  auto temperature = make_grid<openvdb::FloatGrid>("temperature", h, air_kelvin);
  auto color = make_grid<openvdb::Vec3SGrid>("color", h, openvdb::Vec3s(0.f));
  auto velocity = make_grid<openvdb::Vec3SGrid>("velocity", h, openvdb::Vec3s(0.f));
  density->setGridClass(openvdb::GRID_FOG_VOLUME);
  velocity->setGridClass(openvdb::GRID_STAGGERED);
  velocity->setVectorType(openvdb::VEC_CONTRAVARIANT_RELATIVE);
  float most = 0;
  for (int b = first_block; b < s.grid.size(); ++b)
    for (int c = 0; c < block_cells; ++c) most = std::max(most, s.density.block(b)[c]);
  const float least = std::max(most * 1e-5f, 1e-12f);
  // A block is a leaf; two rooms that share a block share the leaf, and the denser cell wins.
  for (int b = first_block; b < s.grid.size(); ++b) {
    const float* d = s.density.block(b);
    if (*std::max_element(d, d + block_cells) <= least) continue;
    const Vec3i at = s.grid.key(b).at;
    const openvdb::Coord origin(at.x * 8, at.y * 8, at.z * 8);
    auto* leaf_d = density->tree().touchLeaf(origin);
    auto* leaf_t = temperature->tree().touchLeaf(origin);
    const auto color_at = [&](int c) {
      return openvdb::Vec3s(s.red.block(b)[c], s.green.block(b)[c], s.blue.block(b)[c]) / d[c];
    };
    // Mostly all of a block has one colour, as far as half a float can tell: that is one value, not a leaf.
    const openvdb::Vec3s one = color_at(int(std::max_element(d, d + block_cells) - d));
    bool mixed = color->tree().isValueOn(origin) || color->tree().probeLeaf(origin);
    for (int c = 0; c < block_cells && !mixed; ++c) mixed = d[c] > least && !color_at(c).eq(one, half_step);
    if (!mixed) color->tree().addTile(1, origin, one, true);
    auto* leaf_c = mixed ? color->tree().touchLeaf(origin) : nullptr;
    auto* leaf_v = velocity->tree().touchLeaf(origin);
    for (int c = 0; c < block_cells; ++c) {
      const auto n =
          openvdb::Index(((c & 7) * 8 + (c >> 3 & 7)) * 8 + (c >> 6));  // a leaf runs along z first
      if (d[c] <= least || d[c] <= leaf_d->getValue(n)) continue;
      leaf_d->setValueOn(n, d[c]);
      leaf_t->setValueOn(n, air_kelvin + s.heat.block(b)[c]);
      if (leaf_c) leaf_c->setValueOn(n, color_at(c));
      leaf_v->setValueOn(n, openvdb::Vec3s(s.u.block(b)[c], s.v.block(b)[c], s.w.block(b)[c]));
    }
  }
  openvdb::GridCPtrVec grids{density, temperature, color, velocity};
  density.reset(), temperature.reset(), color.reset(), velocity.reset();
  const FileInMemory out(grids);
  grids.clear();
  write_whole(file, out.bytes());
  return std::string(out.bytes().substr(id_at, id_length));
}

namespace {

/// What is wrong with the bytes of a frame, or nothing. Ids that are not of ours (another program's file) say
/// nothing.
const char* fault_of(std::string_view bytes, const StoredFrame& frame) {
  if (bytes.size() < id_at + id_length) return "it breaks off";
  const std::string_view id = bytes.substr(id_at, id_length);
  if (!frame.id.empty() && id != frame.id) return "it is not the one that the run recorded";
  if (id.find(id_mark) != std::string_view::npos && id != id_for(bytes))
    return "it breaks off or was changed";
  return nullptr;
}

constexpr size_t most_bytes = size_t(64) << 30;  // of a frame

}  // namespace

bool is_whole_frame(const StoredFrame& frame) {
  try {
    return !fault_of(read_whole(frame.file, most_bytes), frame);
  } catch (...) {
    return false;
  }
}

SmokeVolume read_frame(const StoredFrame& frame, bool with_flow) {
  openvdb::initialize();
  const fs::path& file = frame.file;
  SmokeVolume v;
  const char* mend = "Compute it again with “resume”, or run the shot anew.";
  const auto torn = [&](const std::string& why) {
    return shot_fault(file.string(), "can't be read as a frame of smoke: " + why + ".", mend);
  };
  if (!is_there(file)) throw shot_fault(file.string(), "is missing.", mend);
  if (const char* why = fault_of(read_whole(file, most_bytes), frame)) throw torn(why);
  try {
    openvdb::io::File in(file.string());
    in.setCopyMaxBytes(0);
    in.open(false);
    const auto density = openvdb::gridPtrCast<openvdb::FloatGrid>(in.readGrid("density"));
    const auto color = openvdb::gridPtrCast<openvdb::Vec3SGrid>(in.readGrid("color"));
    if (!density || !color) throw torn("it lacks density or color");
    openvdb::FloatGrid::Ptr temperature;
    openvdb::Vec3SGrid::Ptr velocity;
    if (with_flow) {
      temperature = openvdb::gridPtrCast<openvdb::FloatGrid>(in.readGrid("temperature"));
      velocity = openvdb::gridPtrCast<openvdb::Vec3SGrid>(in.readGrid("velocity"));
      if (!temperature || !velocity) throw torn("it lacks temperature or velocity");
    }
    v.cell_size = density->voxelSize().x();
    if (frame.cell_size > 0 && std::abs(v.cell_size - frame.cell_size) > 1e-6 * frame.cell_size)
      throw torn("its cells are not as large as the run's");
    const openvdb::CoordBBox box = density->evalActiveVoxelBoundingBox();
    if (box.empty()) return v;
    v.low = {box.min().x(), box.min().y(), box.min().z()};
    v.count = {box.dim().x(), box.dim().y(), box.dim().z()};
    constexpr double most_cells = 4e9;
    if (double(v.count.x) * v.count.y * v.count.z > most_cells) throw torn("it is far too large");
    const size_t n = size_t(v.count.x) * size_t(v.count.y) * size_t(v.count.z);
    v.density.resize(n), v.color.resize(3 * n);
    if (with_flow) v.speed.resize(n), v.warmth.resize(n);
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
          for (int a = 0; a < 3; ++a) {
            openvdb::Coord next = at;
            next[a] += 1;
            if (u.isValueOn(next)) mean[a] = 0.5f * (mean[a] + u.getValue(next)[a]);
          }
          v.speed[i] = mean.length(), v.warmth[i] = t.getValue(at) - air_kelvin;
        }
    });
  } catch (const Fault&) {
    throw;
  } catch (const std::bad_alloc&) {
    throw fault_in_flight(file.string());
  } catch (const std::exception&) {
    throw torn("OpenVDB finds no smoke in it");
  }
  return v;
}

}  // namespace pour
