// The pieces of a set as seen by a camera: what their surfaces add to a picture, pixel by pixel.
#pragma once
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "picture/studio.h"
#include "shape/body.h"

namespace pour {

/// What is seen of a shape, in its own space.
struct Surface {
  /// Edges that turn by more than `crease` radians are sharp.
  explicit Surface(Mesh, std::vector<Vec3f> colors = {}, float crease = 0.65f);
  explicit Surface(Body::Seen);
  Mesh mesh;
  std::vector<Vec3f> colors;                  // of its points, linear; none: as the look says
  std::vector<std::array<Vec3f, 3>> normals;  // of the triangles' corners
  std::vector<std::array<float, 2>> uv;       // of its points; none: it has none
  std::vector<std::shared_ptr<const std::string>> textures;
  std::vector<uint8_t> texture_of;  // of its triangles, from 1 on; 0, or none: they have none
};

/// How a piece is seen: glass where it holds, wet where it is liquid, plain where its colours stand for
/// something, otherwise solid.
enum class Finish { solid, wet, plain, glass };

/// A piece that is seen, or the liquid of a frame.
struct PicturePiece {
  PicturePiece(Mesh, Finish);
  PicturePiece(std::shared_ptr<const Surface>, const Pose&, Finish, std::string id);
  std::shared_ptr<const Surface> surface;
  Pose pose;
  Finish finish;
  std::string id;              // of the piece; empty for liquid
  std::optional<Vec3f> color;  // of all of it, linear; otherwise as the look says
  bool glass() const { return finish == Finish::glass; }
  bool operator==(const PicturePiece&) const = default;
};

/// Some rows of a picture, row-major.
struct Layers {
  struct Pixel {
    Vec3f solid;          // light of the nearest solid
    Vec3f glass;          // light of near faces of glass, to be added
    float inner = 0;      // light of its far faces, seen through the smoke
    float cover = 0;      // part of the pixel that solids cover
    float depth = 1e30f;  // of the nearest solid, m along `forward` of the camera
  };
  int first = 0, rows = 0, width = 0;
  std::vector<Pixel> pixels;
  const Pixel& at(int x, int y) const { return pixels[size_t(y - first) * size_t(width) + size_t(x)]; }
};

/// Draws triangles with interpolated normals, four samples a pixel.
class LayerPainter {
 public:
  /// The pieces need not outlive the painter.
  LayerPainter(const std::vector<PicturePiece>&, const View&, const Studio&, int width, int height);
  /// Rows first to first + rows - 1 of the picture, counted from the top. Safe to call from many threads.
  Layers paint(int first, int rows) const;

 private:
  struct Corner {
    float x, y, z;  // in samples, from the top left; distance along `forward`
    Vec3f at, normal, color;
  };
  struct Triangle {
    Corner corner[3];
    float low_y, high_y;
    Finish finish;
    bool near;
  };
  const View view_;
  const Studio studio_;
  int width_;
  std::vector<Triangle> triangles_;  // solids first
};

}  // namespace pour
