// A model as packed into a shot: its parts as triangles.
#pragma once
#include <array>
#include <memory>
#include <string>
#include <vector>

#include "shape/mesh.h"

namespace pour {

/// The texture of a part.
struct ModelTexture {
  std::string name;   // file name
  std::string bytes;  // of the file; empty: it was missing
};

struct ModelPart {
  std::string name;
  Mesh mesh;                                    // in units of the file, y upwards
  std::vector<Vec3f> colors;                    // of its points, linear; may be empty
  std::vector<std::array<float, 2>> uv;         // of its points, from the texture's lower left; may be empty
  std::shared_ptr<const ModelTexture> texture;  // null: none
};

/// Starts with EPM2; little-endian. The earlier EPM1 had no textures.
std::string pack_model(const std::vector<ModelPart>&);
/// Throws Fault (Blame::shot) naming `where` for bytes not from pack_model(): truncated, indices out of
/// range, or coordinates that are not finite.
std::vector<ModelPart> unpack_model(const std::string& bytes, const std::string& where);

}  // namespace pour
