#include "frames/level_set_file.h"

#include <openvdb/tools/Composite.h>
#include <openvdb/tools/Interpolation.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/text.h"
#include "base/units.h"
#include "frames/stored.h"
#include "shape/grid_mesh.h"

namespace pour {
LevelSetSaid write_level_set(const std::vector<Body>& placed, double cell,
                             const std::filesystem::path& file) {
  constexpr double most = 1000;  // cells along
  Box box;
  for (const Body& b : placed) box.add(b.mesh.bounds());
  const double longest = std::max({box.size().x, box.size().y, box.size().z});
  if (!(cell > 0) || longest / cell > most)
    throw shot_fault(
        "Cell",
        filled("{cell} is too small for what is {longest} long.",
               {{"cell", format_quantity(cell, Unit::length)},
                {"longest", format_quantity(longest, Unit::length)}}),
        filled("Choose {most} or more.", {{"most", format_quantity(longest / most, Unit::length)}}));
  openvdb::initialize();
  openvdb::FloatGrid::Ptr all;
  for (const Body& b : placed) {
    const auto one = grid_of(b.mesh, cell, 3, true);
    if (all)
      openvdb::tools::csgUnion(*all, *one);
    else
      all = one;
  }
  LevelSetSaid said;
  said.voxels = size_t(all->activeVoxelCount());
  const openvdb::tools::GridSampler<openvdb::FloatGrid, openvdb::tools::BoxSampler> distance(*all);
  for (const Body& b : placed)
    for (const Vec3f& p : b.mesh.points) {
      const double d = double(distance.wsSample({p.x, p.y, p.z}));
      if (d > -cell) said.furthest = std::max(said.furthest, std::abs(d));  // not what lies in another body
    }
  all->setName("surface");
  store_frame(file, [&](const std::string& name) {
    openvdb::io::File out(name);
    out.write({all});
    out.close();
  });
  return said;
}

}  // namespace pour
