// A model as it came in: its parts as triangles, in the bytes that the shot keeps.
#pragma once
#include <array>
#include <memory>
#include <string>
#include <vector>

#include "shape/mesh.h"

namespace pour {

/// What is on the surface of parts.
struct ModelTexture {
  std::string name;   // of its file
  std::string bytes;  // of that file; empty: it was not there
};

struct ModelPart {
  std::string name;
  Mesh mesh;                             // in units of its file, y upwards
  std::vector<Vec3f> colors;             // of its points, linear; none: it has none
  std::vector<std::array<float, 2>> uv;  // of its points, from the texture's lower left; none: the same
  std::shared_ptr<const ModelTexture> texture;  // null: it has none
};

/// Begins with EPM2; numbers are little-endian. Those of before, EPM1, had no textures.
std::string pack_model(const std::vector<ModelPart>&);
/// Throws Fault (Blame::shot) naming `where` for what pack_model() did not write: torn, or corners that are
/// none of its points, or places that are no numbers.
std::vector<ModelPart> unpack_model(const std::string& bytes, const std::string& where);

}  // namespace pour
