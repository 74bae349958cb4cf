// How far away is what is seen at a point of a picture.
#pragma once
#include <optional>

#include "picture/layers.h"

namespace pour {

/// Of the nearest surface there, of glass too, along the camera's axis, m; none where nothing solid or liquid
/// is seen. x and y from -1 (left, bottom) to 1. Method: Möller & Trumbore 1997.
std::optional<double> distance_seen(const std::vector<PicturePiece>&, const View&, float x, float y);

}  // namespace pour
