// A model as it came in: its parts as triangles, in the bytes that the shot keeps.
#pragma once
#include <string>
#include <vector>

#include "shape/mesh.h"

namespace pour {

struct ModelPart {
  std::string name;
  Mesh mesh;                  // in units of its file, y upwards
  std::vector<Vec3f> colors;  // of its points, linear; none: it has none
};

/// Begins with EPM1; numbers are little-endian.
std::string pack_model(const std::vector<ModelPart>&);
/// Throws Fault (Blame::shot) naming `where` for what pack_model() did not write: torn, or corners that are
/// none of its points, or places that are no numbers.
std::vector<ModelPart> unpack_model(const std::string& bytes, const std::string& where);

}  // namespace pour
