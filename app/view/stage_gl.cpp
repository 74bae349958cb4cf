#include "view/stage_gl.h"
#include "view/stage_shaders.h"

#include <cmath>
#include <QCoreApplication>
#include <QFloat16>
#include <QOpenGLContext>
#include <QVector3D>
#include <QVector4D>

using namespace pour;
using namespace stage_shaders;

namespace {

QVector3D q(const Vec3f& v) { return {v.x, v.y, v.z}; }

}  // namespace

QString StageGl::initialize() {
  if (!initializeOpenGLFunctions()) return QCoreApplication::translate("StageGl", "OpenGL 3.3 is missing");
  bool linked = true;
  QString log;
  const auto build = [&](const char* vertex, std::initializer_list<const char*> fragment) {
    auto p = std::make_unique<QOpenGLShaderProgram>();
    QByteArray text(version);
    for (const char* part : fragment) text += part;
    p->addShaderFromSourceCode(QOpenGLShader::Vertex, QByteArray(version) + vertex);
    p->addShaderFromSourceCode(QOpenGLShader::Fragment, text);
    if (!p->link()) linked = false, log += p->log();
    return p;
  };
  mesh_program_ = build(mesh_vertex, {constants, mesh_fragment});
  mirror_program_ = build(screen_vertex, {constants, march_common, mirror_fragment});
  spread_program_ = build(screen_vertex, {spread_fragment});
  march_program_ = build(screen_vertex, {constants, march_common, march_fragment});
  shrink_program_ = build(screen_vertex, {shrink_fragment});
  blur_program_ = build(screen_vertex, {blur_fragment});
  show_program_ = build(screen_vertex, {show_fragment});
  if (!linked)
    return QCoreApplication::translate("StageGl", "the graphics driver can't run the shaders: ") + log;
  vertices_.create();
  mesh_array_.create();
  empty_array_.create();
  glGenTextures(1, &volume_);
  glGenTextures(1, &walls_);
  return {};
}

void StageGl::release() {
  for (auto& l : layers_) l.reset();
  picture_.reset(), shown_.reset();
  for (auto& m : mirror_) m.reset();
  for (auto& h : halo_) h.reset();
  for (auto* p : {&mesh_program_, &mirror_program_, &spread_program_, &march_program_, &shrink_program_,
                  &blur_program_, &show_program_})
    p->reset();
  vertices_.destroy(), mesh_array_.destroy(), empty_array_.destroy();
  if (volume_) glDeleteTextures(1, &volume_);
  if (walls_) glDeleteTextures(1, &walls_);
  volume_ = walls_ = 0;
}

void StageGl::set_smoke(const std::shared_ptr<const LitFrame>& smoke) { smoke_ = smoke; }
void StageGl::set_pieces(const std::shared_ptr<const std::vector<PicturePiece>>& pieces) { pieces_ = pieces; }

void StageGl::fill_volume(unsigned texture, int inside, const Vec3i& n, unsigned format, unsigned type,
                          const void* texels) {
  glBindTexture(GL_TEXTURE_3D, texture);
  glPixelStorei(GL_UNPACK_ALIGNMENT, 1);
  glTexImage3D(GL_TEXTURE_3D, 0, inside, n.x, n.y, n.z, 0, format, type, texels);
  glPixelStorei(GL_UNPACK_ALIGNMENT, 4);  // as the painter that comes after expects it
  glTexParameteri(GL_TEXTURE_3D, GL_TEXTURE_MIN_FILTER, GL_LINEAR);
  glTexParameteri(GL_TEXTURE_3D, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
  const float none[4] = {0, 0, 0, 0};
  glTexParameterfv(GL_TEXTURE_3D, GL_TEXTURE_BORDER_COLOR, none);
  for (const GLenum wrap : {GL_TEXTURE_WRAP_S, GL_TEXTURE_WRAP_T, GL_TEXTURE_WRAP_R})
    glTexParameteri(GL_TEXTURE_3D, wrap, GL_CLAMP_TO_BORDER);
}

/// The volumes of a frame behind each other in one texture, with an empty layer around each.
StageGl::Layout StageGl::lay_out(const LitFrame& smoke) {
  Layout all;
  for (const LitSmoke& v : smoke) {
    if (v.empty()) continue;
    Vec3i &size = all.size, &walls = all.walls;
    all.volumes.push_back({&v, size.z + 1, walls.z});
    size = {std::max(size.x, v.count.x + 2), std::max(size.y, v.count.y + 2), size.z + v.count.z + 2};
    if (v.walls)
      walls = {std::max(walls.x, v.walls->count.x), std::max(walls.y, v.walls->count.y),
               walls.z + v.walls->count.z};
  }
  return all;
}

bool StageGl::can_hold(const LitFrame& smoke, int& limit) {
  glGetIntegerv(GL_MAX_3D_TEXTURE_SIZE, &limit);
  const Layout all = lay_out(smoke);
  const Vec3i most = max(all.size, all.walls);
  return all.volumes.size() <= most_volumes && std::max({most.x, most.y, most.z}) <= limit;
}

void StageGl::pack_smoke() {
  Layout layout = smoke_ ? lay_out(*smoke_) : Layout();
  packed_ = std::move(layout.volumes);
  const Vec3i size = layout.size;
  packed_size_ = size, packed_walls_size_ = max(layout.walls, Vec3i{1, 1, 1});
  if (packed_.empty()) return;
  std::vector<uint16_t> texels(4 * size_t(size.x) * size_t(size.y) * size_t(size.z), 0);
  for (const Packed& p : packed_) {
    const Vec3i n = p.volume->count;
    for (int z = 0; z < n.z; ++z)
      for (int y = 0; y < n.y; ++y) {
        const float* c = &p.volume->rgba[4 * ((size_t(z) * size_t(n.y) + size_t(y)) * size_t(n.x))];
        uint16_t* to =
            &texels[4 * ((size_t(p.layer + z) * size_t(size.y) + size_t(y + 1)) * size_t(size.x) + 1)];
        for (int x = 0; x < n.x; ++x, c += 4, to += 4) {
          const qfloat16 half[4] = {
              qfloat16(std::min(c[0] * c[3], 60000.f)), qfloat16(std::min(c[1] * c[3], 60000.f)),
              qfloat16(std::min(c[2] * c[3], 60000.f)), qfloat16(std::min(c[3], 60000.f))};
          std::memcpy(to, half, sizeof half);
        }
      }
  }
  fill_volume(volume_, GL_RGBA16F, size, GL_RGBA, GL_HALF_FLOAT, texels.data());
  // Walls stay the same for all frames of a run.
  std::vector<std::shared_ptr<const WallMask>> walls;
  for (const Packed& p : packed_) walls.push_back(p.volume->walls);
  if (walls == uploaded_walls_) return;
  uploaded_walls_ = walls;
  const Vec3i all = packed_walls_size_;
  std::vector<uint8_t> levels(size_t(all.x) * size_t(all.y) * size_t(all.z), 0);
  for (const Packed& p : packed_) {
    if (!p.volume->walls) continue;
    const WallMask& w = *p.volume->walls;
    for (int z = 0; z < w.count.z; ++z)
      for (int y = 0; y < w.count.y; ++y)
        std::copy_n(&w.level[(size_t(z) * size_t(w.count.y) + size_t(y)) * size_t(w.count.x)], w.count.x,
                    &levels[(size_t(p.walls_layer + z) * size_t(all.y) + size_t(y)) * size_t(all.x)]);
  }
  fill_volume(walls_, GL_R8, all, GL_RED, GL_UNSIGNED_BYTE, levels.data());
}

void StageGl::upload() {
  if (smoke_ != uploaded_smoke_) {
    uploaded_smoke_ = smoke_;
    pack_smoke();
  }
  if (pieces_ != uploaded_pieces_) {
    uploaded_pieces_ = pieces_;
    struct Corner {
      Vec3f position, normal, color;
      float wet;
    };
    std::vector<Corner> corners;
    const auto add = [&](bool glass, int& first, int& count) {
      first = int(corners.size());
      if (pieces_)
        for (const PicturePiece& p : *pieces_)
          if (p.glass() == glass)
            for (size_t i = 0; i < p.surface->mesh.triangles.size(); ++i)
              for (size_t k = 0; k < 3; ++k) {
                const size_t n = size_t(p.surface->mesh.triangles[i][k]);
                const Vec3f as_look{-1, -1, -1};
                corners.push_back(
                    {to<float>(p.pose * to<double>(p.surface->mesh.points[n])),
                     to<float>(p.pose.turn * to<double>(p.surface->normals[i][k])),
                     p.surface->colors.empty() ? p.color.value_or(as_look) : p.surface->colors[n],
                     p.finish == Finish::wet     ? 1.f
                     : p.finish == Finish::plain ? 2.f
                                                 : 0.f});
              }
      count = int(corners.size()) - first;
    };
    add(false, solid_first_, solid_count_);
    add(true, glass_first_, glass_count_);
    mesh_array_.bind();
    vertices_.bind();
    vertices_.allocate(corners.data(), int(corners.size() * sizeof(Corner)));
    for (unsigned i = 0; i < 3; ++i) {
      glEnableVertexAttribArray(i);
      glVertexAttribPointer(i, i < 2 ? 3 : 4, GL_FLOAT, GL_FALSE, sizeof(Corner),
                            reinterpret_cast<const void*>(i * sizeof(Vec3f)));
    }
    mesh_array_.release();
    vertices_.release();
  }
}

/// The surfaces as `view` sees them, twice as fine along each side as the picture that they are for.
void StageGl::draw_layers(std::unique_ptr<QOpenGLFramebufferObject>& layer, int width, int height,
                          const Studio& studio, const View& view, bool mirrored) {
  QOpenGLShaderProgram& p = *mesh_program_;
  mesh_array_.bind();
  const QSize size(2 * width, 2 * height);
  if (!layer || layer->size() != size) {
    layer = std::make_unique<QOpenGLFramebufferObject>(size, QOpenGLFramebufferObject::Depth, GL_TEXTURE_2D,
                                                       GL_RGBA16F);
    layer->addColorAttachment(size, GL_RGBA16F);
  }
  layer->bind();
  const GLenum both[2] = {GL_COLOR_ATTACHMENT0, GL_COLOR_ATTACHMENT1};
  glDrawBuffers(2, both);
  glViewport(0, 0, size.width(), size.height());
  glClearColor(0, 0, 0, 0);
  glDepthMask(GL_TRUE);
  glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
  p.bind();
  set_view(p, view);
  p.setUniformValue("lights", int(studio.lights.size()));
  for (size_t i = 0; i < studio.lights.size(); ++i) {
    const std::string at = "[" + std::to_string(i) + "]";
    p.setUniformValue(("toward" + at).c_str(), q(studio.lights[i].toward));
    p.setUniformValue(("light_color" + at).c_str(), q(studio.lights[i].color));
  }
  p.setUniformValue("back", q(studio.back)), p.setUniformValue("glass", studio.glass);
  p.setUniformValue("solid_color", q(studio.solid));
  p.setUniformValue("mirrored", mirrored);
  glDisable(GL_CULL_FACE);
  glEnable(GL_DEPTH_TEST);
  if (solid_count_) {
    glDisable(GL_BLEND);
    glColorMaski(1, GL_FALSE, GL_FALSE, GL_FALSE, GL_FALSE);
    p.setUniformValue("is_glass", false);
    glDrawArrays(GL_TRIANGLES, solid_first_, solid_count_);
    glColorMaski(1, GL_TRUE, GL_TRUE, GL_TRUE, GL_TRUE);
  }
  if (glass_count_) {
    glDepthMask(GL_FALSE);
    glEnable(GL_BLEND);
    glBlendFunc(GL_ONE, GL_ONE);
    glColorMaski(0, GL_FALSE, GL_FALSE, GL_FALSE, GL_FALSE);
    p.setUniformValue("is_glass", true);
    glDrawArrays(GL_TRIANGLES, glass_first_, glass_count_);
    glColorMaski(0, GL_TRUE, GL_TRUE, GL_TRUE, GL_TRUE);
    glDisable(GL_BLEND);
    glDepthMask(GL_TRUE);
  }
  glDisable(GL_DEPTH_TEST);
  mesh_array_.release();
}

void StageGl::set_view(QOpenGLShaderProgram& p, const View& view) {
  p.setUniformValue("eye", q(view.eye)), p.setUniformValue("right", q(view.right));
  p.setUniformValue("up", q(view.up)), p.setUniformValue("forward", q(view.forward));
  p.setUniformValue("half_size", QVector2D(view.half_width, view.half_height));
}

/// The box on the picture that holds all surfaces, from -1 (left, bottom) to 1.
QVector4D StageGl::surfaces_at(const View& view) const {
  QVector4D box(1, 1, -1, -1);
  if (uploaded_pieces_)
    for (const PicturePiece& piece : *uploaded_pieces_)
      for (const Vec3f& point : piece.surface->mesh.points) {
        const Vec3f q = view.project(to<float>(piece.pose * to<double>(point)));
        if (q.z < 0.01f) return {-1, -1, 1, 1};
        box = {std::min(box.x(), q.x), std::min(box.y(), q.y), std::max(box.z(), q.x),
               std::max(box.w(), q.y)};
      }
  const QVector4D pixel(0.02f, 0.02f, -0.02f, -0.02f);
  return box - pixel;
}

/// Where the volumes are, in the world and in their textures.
void StageGl::set_volumes(QOpenGLShaderProgram& p) {
  const int n = int(packed_.size());
  p.setUniformValue("volumes", n);
  if (!n) return;
  QVector<QVector3D> low, high, first, walls_low, walls_first, walls_count;
  QVector<float> spacing;
  QVector<QVector4D> turned;
  for (const Packed& k : packed_) {
    const LitSmoke& v = *k.volume;
    low << q(v.low), high << q(v.high()), first << QVector3D(1, 1, float(k.layer));
    const Vec3f half = v.walls ? Vec3f{0.5f, 0.5f, 0.5f} * v.walls->spacing : Vec3f{};
    // Lattice points stand in the middle of texels.
    walls_low << (v.walls ? q(v.walls->low - half) : QVector3D());
    walls_first << QVector3D(0, 0, float(k.walls_layer));
    walls_count << (v.walls ? q(to<float>(v.walls->count)) : QVector3D(1, 1, 1));
    spacing << (v.walls ? v.walls->spacing : 0);
    const Pose back = v.pose.inverse();
    for (int a = 0; a < 3; ++a) turned << QVector4D(q(to<float>(back.turn.row[a])), float(back.position[a]));
  }
  p.setUniformValueArray("low", low.data(), n), p.setUniformValueArray("high", high.data(), n);
  p.setUniformValueArray("first", first.data(), n);
  p.setUniformValueArray("walls_low", walls_low.data(), n);
  p.setUniformValueArray("walls_first", walls_first.data(), n);
  p.setUniformValueArray("walls_count", walls_count.data(), n);
  p.setUniformValueArray("walls_spacing", spacing.data(), n, 1);
  p.setUniformValueArray("turned", turned.data(), 3 * n);
  p.setUniformValue("texture_size", q(to<float>(packed_size_)));
  p.setUniformValue("walls_texture_size", q(to<float>(packed_walls_size_)));
  p.setUniformValue("cell", packed_[0].volume->cell_size),
      p.setUniformValue("tint", q(packed_[0].volume->tint));
}

/// Everything that march_common asks for. `layer_view` is what the layer was drawn from.
void StageGl::set_march(QOpenGLShaderProgram& p, QOpenGLFramebufferObject& layer, double scale,
                        const Studio& studio, const View& view, const View& layer_view) {
  p.bind();
  set_view(p, view);
  p.setUniformValue("has_floor", studio.floor);
  set_volumes(p);
  p.setUniformValue("seen_at", surfaces_at(layer_view));
  p.setUniformValue("sharpness", WallMask::sharpness);
  p.setUniformValue("step_size", scale < 0.9 ? 1.5f : 0.75f);
  p.setUniformValue("back", q(studio.back)), p.setUniformValue("target", q(studio.target));
  p.setUniformValue("pool", studio.pool), p.setUniformValue("distance_", studio.distance);
  const auto bind = [&](int unit, GLenum kind, unsigned texture, const char* name) {
    glActiveTexture(GLenum(GL_TEXTURE0 + unit));
    glBindTexture(kind, texture);
    p.setUniformValue(name, unit);
  };
  bind(4, GL_TEXTURE_2D, layer.textures().at(1), "glasses");
  bind(3, GL_TEXTURE_2D, layer.textures().at(0), "solids");
  bind(1, GL_TEXTURE_3D, walls_, "walls");
  bind(0, GL_TEXTURE_3D, volume_, "smoke");
}

/// Renders the mirror image in the floor into mirror_[0], at half the picture's size.
bool StageGl::draw_mirror(int width, int height, double scale, const Studio& studio, const View& view,
                          const std::function<bool()>& keep_going) {
  const int w = (width + 1) / 2, h = (height + 1) / 2;
  draw_layers(layers_[1], w, h, studio, view.mirrored(), true);
  for (auto& m : mirror_) m = fitting(std::move(m), w, h);
  empty_array_.bind();
  mirror_[0]->bind();
  glViewport(0, 0, w, h);
  set_march(*mirror_program_, *layers_[1], scale, studio, view, view.mirrored());
  mirror_program_->setUniformValue("width", float(w));
  if (!draw_strips(w, h, keep_going)) return false;
  QOpenGLShaderProgram& p = *spread_program_;
  p.bind();
  p.setUniformValue("picture", 0);
  for (const int columns : {0, 1}) {
    mirror_[1 - columns]->bind();
    glBindTexture(GL_TEXTURE_2D, mirror_[columns]->texture());
    glUniform2i(p.uniformLocation("along"), 1 - columns, columns);
    glDrawArrays(GL_TRIANGLES, 0, 3);
  }
  return true;
}

/// Fills the picture with the current program, some rows at a time, until `keep_going` says no.
bool StageGl::draw_strips(int width, int height, const std::function<bool()>& keep_going) {
  constexpr int strips = 12;
  bool whole = true;
  glEnable(GL_SCISSOR_TEST);
  for (int i = 0; i < strips && whole; ++i) {
    const int from = height * i / strips, to = height * (i + 1) / strips;
    glScissor(0, from, width, to - from);
    glDrawArrays(GL_TRIANGLES, 0, 3);
    glFinish();
    whole = !keep_going || keep_going();
  }
  glDisable(GL_SCISSOR_TEST);
  return whole;
}

std::unique_ptr<QOpenGLFramebufferObject> StageGl::fitting(std::unique_ptr<QOpenGLFramebufferObject> old,
                                                           int width, int height) {
  if (old && old->width() == width && old->height() == height) return old;
  auto fresh = std::make_unique<QOpenGLFramebufferObject>(
      QSize(width, height), QOpenGLFramebufferObject::NoAttachment, GL_TEXTURE_2D, GL_RGBA16F);
  glBindTexture(GL_TEXTURE_2D, fresh->texture());
  glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MIN_FILTER, GL_LINEAR);
  glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
  glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_WRAP_S, GL_CLAMP_TO_EDGE);
  glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_WRAP_T, GL_CLAMP_TO_EDGE);
  return fresh;
}

/// Leaves the two spots' pictures in halo_[0] and halo_[1], as add_halo() works them out.
QVector2D StageGl::draw_halo() {
  const int w = picture_->width(), h = picture_->height(), step = std::max(1, h / halo_rows);
  const int sw = (w + step - 1) / step, sh = (h + step - 1) / step;
  for (auto& f : halo_) f = fitting(std::move(f), sw, sh);
  glViewport(0, 0, sw, sh);
  glActiveTexture(GL_TEXTURE0);
  halo_[0]->bind();
  shrink_program_->bind();
  shrink_program_->setUniformValue("picture", 0);
  shrink_program_->setUniformValue("step_", step);
  glBindTexture(GL_TEXTURE_2D, picture_->texture());
  glDrawArrays(GL_TRIANGLES, 0, 3);
  const float rows = float(h) / float(step) / halo_rows;
  const float second = std::sqrt(halo_width[1] * halo_width[1] - halo_width[0] * halo_width[0]);
  QOpenGLShaderProgram& p = *blur_program_;
  p.bind();
  p.setUniformValue("picture", 0);
  const int along = p.uniformLocation("along");
  const auto blur = [&](int from, int to, bool columns, float sigma) {
    halo_[to]->bind();
    glBindTexture(GL_TEXTURE_2D, halo_[from]->texture());
    glUniform2i(along, columns ? 0 : 1, columns ? 1 : 0);
    p.setUniformValue("sigma", sigma * rows);
    glDrawArrays(GL_TRIANGLES, 0, 3);
  };
  blur(0, 2, false, halo_width[0]), blur(2, 0, true, halo_width[0]);
  blur(0, 2, false, second), blur(2, 1, true, second);
  return {float(w) / float(sw * step), float(h) / float(sh * step)};
}

QImage StageGl::draw(int width, int height, double scale, const Look& look, const Camera& camera,
                     const std::function<bool()>& keep_going) {
  upload();
  const int w = std::max(16, int(width * scale)), h = std::max(16, int(height * scale));
  const View view(camera, double(width) / height);
  const Studio studio(look, camera, view);
  if (studio.floor && !draw_mirror(w, h, scale, studio, view, keep_going)) return {};
  draw_layers(layers_[0], w, h, studio, view, false);
  picture_ = fitting(std::move(picture_), w, h);
  picture_->bind();
  glViewport(0, 0, w, h);
  QOpenGLShaderProgram& p = *march_program_;
  set_march(p, *layers_[0], scale, studio, view, view);
  p.setUniformValue("exposure", float(std::exp2(look.exposure)));
  // Also where there is no floor: no two kinds of texture may share a unit.
  glActiveTexture(GL_TEXTURE5);
  glBindTexture(GL_TEXTURE_2D, studio.floor ? mirror_[0]->texture() : 0);
  p.setUniformValue("mirror", 5);
  glActiveTexture(GL_TEXTURE0);
  empty_array_.bind();
  if (!draw_strips(w, h, keep_going)) return {};
  QVector2D small_size(1, 1);
  if (look.halo > 0) small_size = draw_halo();
  if (!shown_ || shown_->size() != QSize(w, h)) shown_ = std::make_unique<QOpenGLFramebufferObject>(w, h);
  shown_->bind();
  glViewport(0, 0, w, h);
  QOpenGLShaderProgram& show = *show_program_;
  show.bind();
  const unsigned shown[3] = {picture_->texture(), look.halo > 0 ? halo_[0]->texture() : picture_->texture(),
                             look.halo > 0 ? halo_[1]->texture() : picture_->texture()};
  const char* shown_names[3] = {"picture", "near", "far"};
  for (int i = 2; i >= 0; --i) {
    glActiveTexture(GLenum(GL_TEXTURE0 + i));
    glBindTexture(GL_TEXTURE_2D, shown[i]);
    show.setUniformValue(shown_names[i], i);
  }
  show.setUniformValue("halo", float(look.halo)), show.setUniformValue("contrast", float(look.contrast));
  show.setUniformValue("near_share", halo_share[0]), show.setUniformValue("far_share", halo_share[1]);
  show.setUniformValue("small_size", small_size);
  glDrawArrays(GL_TRIANGLES, 0, 3);
  empty_array_.release();
  show.release();
  QImage image = shown_->toImage().convertToFormat(QImage::Format_RGB32);
  shown_->release();
  return image;
}
