// The surface seen at a point of a picture.
#pragma once
#include <optional>

#include "picture/layers.h"

namespace pour {

struct Seen {
  double distance = 0;  // along the camera's axis, m
  std::string id;       // id of the piece; empty: none
  Vec3d at, out;        // point, m; normal towards the camera
};

/// The nearest surface, glass included; nothing if no solid or liquid is seen. x and y from -1 (left, bottom)
/// to 1. `left_out` is a piece to ignore. Method: Möller & Trumbore 1997.
std::optional<Seen> seen_at(const std::vector<PicturePiece>&, const View&, float x, float y,
                            const std::string& left_out = {});

}  // namespace pour
