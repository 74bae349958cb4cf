// Simplified surfaces for the stage.
#pragma once
#include <memory>

#include "picture/layers.h"

namespace pour {

/// Simplification for looks, by fewer_triangles(), or for speed, by roughly().
enum class Coarser { well, quickly };

/// A surface with about `count` triangles on its own points, with their colours; the surface itself if it has
/// fewer. Cached.
std::shared_ptr<const Surface> coarser(const std::shared_ptr<const Surface>&, size_t triangles,
                                       Coarser = Coarser::well);
/// Simplifies all surfaces of a set; null if none needs it.
std::shared_ptr<const std::vector<PicturePiece>> coarser(const std::vector<PicturePiece>&, size_t triangles,
                                                         Coarser = Coarser::well);

/// Triangles of a piece on a still and on a moving stage.
constexpr size_t still_triangles = 120000, moving_triangles = 40000;

}  // namespace pour
