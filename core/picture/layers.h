// Rasterised surfaces of a set for quick pictures.
#pragma once
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "picture/studio.h"
#include "shape/body.h"

namespace pour {

/// The surface of a shape, in its own frame of reference.
struct Surface {
  /// Edges that turn by more than `crease` radians are sharp.
  explicit Surface(Mesh, std::vector<Vec3f> colors = {}, float crease = 0.65f);
  explicit Surface(Body::Seen);
  Mesh mesh;
  std::vector<Vec3f> colors;                  // of its points, linear; empty: by the look
  std::vector<std::array<Vec3f, 3>> normals;  // of the triangles' corners
  std::vector<std::array<float, 2>> uv;       // of its points; may be empty
  std::vector<std::shared_ptr<const std::string>> textures;
  std::vector<uint8_t> texture_of;  // of its triangles, counted from 1; 0: none
};

/// How a surface is drawn: glass for vessels, wet for liquid, plain for false colours, otherwise solid.
enum class Finish { solid, wet, plain, glass };

/// A visible piece, or the liquid of a frame.
struct PicturePiece {
  PicturePiece(Mesh, Finish);
  PicturePiece(std::shared_ptr<const Surface>, const Pose&, Finish, std::string id);
  std::shared_ptr<const Surface> surface;
  Pose pose;
  Finish finish;
  std::string id;              // id of the piece; empty for liquid
  std::optional<Vec3f> color;  // uniform colour, linear; empty: by the look
  bool glass() const { return finish == Finish::glass; }
  bool operator==(const PicturePiece&) const = default;
};

/// Layers of some rows of a picture, row-major.
struct Layers {
  struct Pixel {
    Vec3f solid;          // light of the nearest solid
    Vec3f glass;          // light of near faces of glass, added
    float inner = 0;      // light of far faces of glass, seen through the smoke
    float cover = 0;      // share of the pixel covered by solids
    float depth = 1e30f;  // of the nearest solid, m along `forward` of the camera
  };
  int first = 0, rows = 0, width = 0;
  std::vector<Pixel> pixels;
  const Pixel& at(int x, int y) const { return pixels[size_t(y - first) * size_t(width) + size_t(x)]; }
};

/// Rasterises triangles with interpolated normals, four samples a pixel.
class LayerPainter {
 public:
  /// Copies what it needs of the pieces.
  LayerPainter(const std::vector<PicturePiece>&, const View&, const Studio&, int width, int height);
  /// Draws rows first to first + rows - 1, counted from the top. Thread-safe.
  Layers paint(int first, int rows) const;

 private:
  struct Corner {
    float x, y, z;  // in samples from the top left; z along `forward`
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
