// Renders the stage on the graphics card, with the studio, glass and smoke of the quick picture.
#pragma once
#include <functional>
#include <memory>
#include <QImage>
#include <QOpenGLBuffer>
#include <QOpenGLFramebufferObject>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLShaderProgram>
#include <QOpenGLVertexArrayObject>
#include <QVector2D>

#include "picture/quick_picture.h"

class StageGl : protected QOpenGLFunctions_3_3_Core {
 public:
  /// Needs a current OpenGL 3.3 context. Returns an error, or an empty string.
  QString initialize();
  void set_smoke(const std::shared_ptr<const pour::LitFrame>&);
  void set_pieces(const std::shared_ptr<const std::vector<pour::PicturePiece>>&);
  /// Renders a view of `width` by `height` pixels at `scale` of that size; returns nothing if `keep_going`,
  /// which is polled, says no.
  QImage draw(int width, int height, double scale, const pour::Look&, const pour::Camera&,
              const std::function<bool()>& keep_going = {});
  void release();
  /// Whether smoke fits into the driver's largest texture of `limit` cells a side. Only then may it be drawn.
  bool can_hold(const pour::LitFrame&, int& limit);

 private:
  void upload();
  void pack_smoke();
  void set_volumes(QOpenGLShaderProgram&);
  void fill_volume(unsigned texture, int inside, const pour::Vec3i& count, unsigned format, unsigned type,
                   const void* texels);
  std::unique_ptr<QOpenGLFramebufferObject> fitting(std::unique_ptr<QOpenGLFramebufferObject> old, int width,
                                                    int height);
  QVector2D draw_halo();
  void draw_layers(std::unique_ptr<QOpenGLFramebufferObject>& layer, int width, int height,
                   const pour::Studio&, const pour::View&, bool mirrored);
  bool draw_mirror(int width, int height, double scale, const pour::Studio&, const pour::View&,
                   const std::function<bool()>& keep_going);
  bool draw_strips(int width, int height, const std::function<bool()>& keep_going);
  void set_view(QOpenGLShaderProgram&, const pour::View&);
  void set_march(QOpenGLShaderProgram&, QOpenGLFramebufferObject& layer, double scale, const pour::Studio&,
                 const pour::View& view, const pour::View& layer_view);
  QVector4D surfaces_at(const pour::View&) const;

  std::shared_ptr<const pour::LitFrame> smoke_, uploaded_smoke_;
  static constexpr size_t most_volumes = 48;  // as in the shader
  struct Packed {
    const pour::LitSmoke* volume;
    int layer, walls_layer;  // first layers in the textures
  };
  struct Layout {
    std::vector<Packed> volumes;
    pour::Vec3i size{1, 1, 0}, walls{1, 1, 0};  // of the textures
  };
  static Layout lay_out(const pour::LitFrame&);
  std::vector<Packed> packed_;
  pour::Vec3i packed_size_, packed_walls_size_;
  std::vector<std::shared_ptr<const pour::WallMask>> uploaded_walls_;
  std::shared_ptr<const std::vector<pour::PicturePiece>> pieces_, uploaded_pieces_;
  std::unique_ptr<QOpenGLShaderProgram> mesh_program_, mirror_program_, spread_program_, march_program_,
      shrink_program_, blur_program_, show_program_;
  std::unique_ptr<QOpenGLFramebufferObject> layers_[2], mirror_[2], picture_, shown_, halo_[3];
  QOpenGLBuffer vertices_;
  QOpenGLVertexArrayObject mesh_array_, empty_array_;
  unsigned volume_ = 0, walls_ = 0;
  int solid_first_ = 0, solid_count_ = 0, glass_first_ = 0, glass_count_ = 0;
};
