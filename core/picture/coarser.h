// Fewer triangles for what is seen on a stage.
#pragma once
#include <memory>

#include "picture/layers.h"

namespace pour {

/// How a surface becomes coarser: as it looks best, by fewer_triangles(), or at once, by roughly().
enum class Coarser { well, quickly };

/// A surface of about so many triangles whose points are among its own, with their colours; itself where it
/// has no more. Kept, so that it costs nothing the next time.
std::shared_ptr<const Surface> coarser(const std::shared_ptr<const Surface>&, size_t triangles,
                                       Coarser = Coarser::well);
/// The same of all surfaces of a set; null where none has more.
std::shared_ptr<const std::vector<PicturePiece>> coarser(const std::vector<PicturePiece>&, size_t triangles,
                                                         Coarser = Coarser::well);

/// Of a piece, for a stage that stands still, and for one that moves.
constexpr size_t still_triangles = 120000, moving_triangles = 40000;

}  // namespace pour
