#include "frames/frame.h"

#include <openvdb/io/File.h>

#include "frames/frame_grids.h"
#include "frames/stored.h"

namespace pour {

std::string write_frame(const std::filesystem::path& file, const std::vector<FramePart>& parts) {
  openvdb::initialize();
  FrameGrids grids;
  for (const FramePart& part : parts) part(grids);
  return store_frame(file, [&](const std::string& name) {
    openvdb::io::File out(name);
    out.setCompression(openvdb::io::COMPRESS_ACTIVE_MASK | openvdb::io::COMPRESS_BLOSC);
    out.write(grids.all);
  });
}

}  // namespace pour
