// What is seen at a point of a picture.
#pragma once
#include <optional>

#include "picture/layers.h"

namespace pour {

struct Seen {
  double distance = 0;  // along the camera's axis, m
  std::string id;       // of the piece; empty: of none
  Vec3d at, out;        // where, m; away from its surface, towards the camera
};

/// The nearest surface there, of glass too; none where nothing solid or liquid is seen. x and y from -1
/// (left, bottom) to 1. `left_out`: a piece that counts as not there. Method: Möller & Trumbore 1997.
std::optional<Seen> seen_at(const std::vector<PicturePiece>&, const View&, float x, float y,
                            const std::string& left_out = {});

}  // namespace pour
