#include "view/stage_gl.h"

#include <cmath>
#include <QCoreApplication>
#include <QOpenGLContext>
#include <QVector3D>

using namespace pour;

namespace {

constexpr const char* mesh_vertex = R"(#version 330 core
layout(location = 0) in vec3 position;
uniform vec3 eye, right, up, forward;
uniform vec2 half_size;
uniform float flip;
out vec3 world;
void main() {
  world = vec3(position.x, position.y * flip, position.z);
  vec3 d = world - eye;
  float z = dot(d, forward);
  float near = 0.01, far = 1000.0;
  gl_Position = vec4(dot(d, right) / half_size.x, dot(d, up) / half_size.y, (z * (far + near) - 2.0 * far * near) / (far - near), z);
}
)";

// Solid pieces leave colour and distance in the first target, glass adds its light to the second.
constexpr const char* mesh_fragment = R"(#version 330 core
in vec3 world;
uniform vec3 eye, forward, key, rim, key_color, rim_color;
uniform float glass, flip;
uniform bool is_glass;
layout(location = 0) out vec4 solid;
layout(location = 1) out vec4 light;
void main() {
  vec3 n = normalize(cross(dFdx(world), dFdy(world)));
  vec3 to_eye = normalize(eye - world);
  bool front = gl_FrontFacing == (flip > 0.0);
  if (dot(n, to_eye) < 0.0) n = -n;
  float facing = dot(n, to_eye);
  vec3 k = vec3(key.x, key.y * flip, key.z), r = vec3(rim.x, rim.y * flip, rim.z);
  float hk = abs(dot(n, normalize(k + to_eye))), hr = abs(dot(n, normalize(r + to_eye)));
  solid = vec4(0.0), light = vec4(0.0);
  if (is_glass) {
    // The soft boxes and the room in glass of index 1.5; far faces are seen through the smoke and go apart.
    vec3 m = 2.0 * facing * n - to_eye;
    float fresnel = min(0.35, 0.04 + 0.96 * pow(1.0 - min(1.0, facing), 5.0));
    vec3 c = (key_color * (5.5 * smoothstep(0.55, 0.95, dot(m, k))) + rim_color * (4.0 * smoothstep(0.5, 0.95, dot(m, r))) +
              vec3(0.30, 0.34, 0.35) * (0.4 + 0.6 * max(0.0, m.y))) * (fresnel * glass);
    light = front ? vec4(c, 0.0) : vec4(vec3(0.0), (c.r + c.g + c.b) / 3.0);
  } else {
    vec3 base = vec3(0.055, 0.06, 0.062);
    vec3 c = base * (0.35 + 0.65 * max(0.0, n.y)) + base * key_color * (2.2 * max(0.0, dot(n, k))) +
             base * rim_color * (1.6 * max(0.0, dot(n, r))) + key_color * (0.15 * pow(hk, 30.0)) +
             rim_color * (0.2 * pow(hr, 20.0)) * max(0.0, 1.0 - facing);
    solid = vec4(c, dot(world - eye, forward));
  }
}
)";

constexpr const char* screen_vertex = R"(#version 330 core
out vec2 at;
void main() {
  at = vec2((gl_VertexID & 1) * 4 - 1, (gl_VertexID >> 1) * 4 - 1);
  gl_Position = vec4(at, 0.0, 1.0);
}
)";

constexpr const char* march_fragment = R"(#version 330 core
in vec2 at;
out vec4 color;
uniform sampler3D smoke, walls;
uniform sampler2D solid0, solid1, glass0, glass1;
uniform bool has_smoke, has_floor, has_walls;
uniform vec3 low, high, walls_low, walls_size, eye, right, up, forward, back, target;
uniform vec2 half_size;
uniform float cell, step_size, exposure, distance_, sharpness;

vec3 studio(vec3 dir) {
  float off = 1.0 - dot(dir, forward);
  return back * (0.45 + 1.1 * exp(-off * 26.0 / (half_size.x * half_size.x * 8.0 + 0.2)));
}

vec3 through(vec3 from, vec3 dir, float end, float jitter, out float seen) {
  seen = 1.0;
  vec3 light = vec3(0.0);
  if (!has_smoke) return light;
  vec3 inv = 1.0 / dir, a = (low - from) * inv, b = (high - from) * inv;
  vec3 near = min(a, b), far = max(a, b);
  float t0 = max(max(near.x, near.y), max(near.z, 0.0)), t1 = min(min(far.x, far.y), min(far.z, end));
  float ds = step_size * cell;
  for (float t = t0 + jitter * ds; t < t1; t += ds) {
    vec3 p = from + dir * t;
    float inside = 1.0;
    if (has_walls) {
      inside = clamp((texture(walls, (p - walls_low) / walls_size).r - 128.0 / 255.0) * sharpness + 0.5, 0.0, 1.0);
      if (inside <= 0.0) continue;
    }
    vec4 c = texture(smoke, (p - low) / (high - low));
    if (c.a <= 0.0) continue;
    float a = 1.0 - exp(-c.a * inside * ds);
    light += c.rgb / c.a * (seen * a);  // stored times extinction, so that it mixes as it should
    seen *= 1.0 - a;
    if (seen < 0.004) break;
  }
  return light;
}

void main() {
  vec3 dir = normalize(forward + right * (at.x * half_size.x) + up * (at.y * half_size.y));
  vec2 uv = at * 0.5 + 0.5;
  float along = dot(dir, forward);
  vec4 s0 = texture(solid0, uv);
  float solid_at = s0.a > 0.0 ? s0.a / along : 1e30;
  float jitter = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715))));
  vec3 behind = studio(dir);
  float end = 1e30;
  if (has_floor && dir.y < -1e-4 && eye.y > 0.0) {
    float t = -eye.y / dir.y;
    if (t < solid_at) {
      end = t;
      vec3 hit = eye + dir * t, mirrored = vec3(dir.x, -dir.y, dir.z);
      float seen;
      vec3 image = through(hit, mirrored, 1e30, jitter, seen);
      vec4 s1 = texture(solid1, uv);
      vec4 g1 = texture(glass1, uv);
      image += ((s1.a > 0.0 ? s1.rgb : studio(mirrored)) + g1.a) * seen + g1.rgb;
      float fresnel = 0.06 + 0.94 * pow(1.0 - min(1.0, -dir.y), 5.0);
      float away = length(hit - vec3(target.x, 0.0, target.z));
      float fade = exp(-away * away / (distance_ * distance_ * 1.2));
      vec3 ground = back * (0.28 + 0.5 * fade);
      behind = mix(behind, ground + image * (fresnel * 0.75), fade);
    }
  }
  if (solid_at < end) behind = s0.rgb, end = solid_at;
  float seen;
  vec3 light = through(eye, dir, end, jitter, seen);
  vec4 g0 = texture(glass0, uv);
  color = vec4((light + (behind + g0.a) * seen + g0.rgb) * exposure, 1.0);
}
)";

// Averages squares of pixels, for the halo.
constexpr const char* shrink_fragment = R"(#version 330 core
out vec4 color;
uniform sampler2D picture;
uniform int step_;
void main() {
  ivec2 size = textureSize(picture, 0), from = ivec2(gl_FragCoord.xy) * step_;
  vec3 sum = vec3(0.0);
  for (int j = 0; j < step_; ++j)
    for (int i = 0; i < step_; ++i) sum += texelFetch(picture, min(from + ivec2(i, j), size - 1), 0).rgb;
  color = vec4(sum / float(step_ * step_), 1.0);
}
)";

constexpr const char* blur_fragment = R"(#version 330 core
out vec4 color;
uniform sampler2D picture;
uniform ivec2 along;
uniform float sigma;
void main() {
  ivec2 last = textureSize(picture, 0) - 1, at = ivec2(gl_FragCoord.xy);
  int reach = int(ceil(2.5 * sigma));
  vec4 sum = vec4(0.0);
  for (int i = -reach; i <= reach; ++i)
    sum += vec4(texelFetch(picture, clamp(at + i * along, ivec2(0), last), 0).rgb, 1.0) * exp(-0.5 * float(i * i) / (sigma * sigma));
  color = vec4(sum.rgb / sum.a, 1.0);
}
)";

// Onto the screen: halo, highlights rolled off, sRGB, a dither against banding.
constexpr const char* show_fragment = R"(#version 330 core
in vec2 at;
out vec4 color;
uniform sampler2D picture, near, far;
uniform float halo, near_share, far_share;
uniform vec2 small_size;  // of the small picture, where the last square may stand over the edge
void main() {
  vec2 uv = at * 0.5 + 0.5;
  vec3 c = texture(picture, uv).rgb;
  if (halo > 0.0)
    c = mix(c, texture(near, uv * small_size).rgb * near_share + texture(far, uv * small_size).rgb * far_share, halo);
  c = mix(c, 0.8 + 0.2 * (1.0 - exp(-(c - 0.8) / 0.2)), step(0.8, c));
  c = mix(12.92 * c, 1.055 * pow(max(c, 0.0), vec3(1.0 / 2.4)) - 0.055, step(0.0031308, c));
  float jitter = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715))));
  color = vec4(c + (jitter - 0.5) / 255.0, 1.0);
}
)";

QVector3D q(const Vec3f& v) { return {v.x, v.y, v.z}; }
QVector3D q(const Color& c) { return {float(c.r), float(c.g), float(c.b)}; }

}  // namespace

QString StageGl::initialize() {
  if (!initializeOpenGLFunctions()) return QCoreApplication::translate("StageGl", "OpenGL 3.3 is missing");
  const auto build = [](const char* vertex, const char* fragment) {
    auto p = std::make_unique<QOpenGLShaderProgram>();
    p->addShaderFromSourceCode(QOpenGLShader::Vertex, vertex);
    p->addShaderFromSourceCode(QOpenGLShader::Fragment, fragment);
    p->link();
    return p;
  };
  mesh_program_ = build(mesh_vertex, mesh_fragment);
  march_program_ = build(screen_vertex, march_fragment);
  shrink_program_ = build(screen_vertex, shrink_fragment);
  blur_program_ = build(screen_vertex, blur_fragment);
  show_program_ = build(screen_vertex, show_fragment);
  for (const auto* p : {&mesh_program_, &march_program_, &shrink_program_, &blur_program_, &show_program_})
    if (!(*p)->isLinked())
      return QCoreApplication::translate("StageGl", "the graphics driver can't run the shaders: ") +
             (*p)->log();
  vertices_.create();
  mesh_array_.create();
  empty_array_.create();
  glGenTextures(1, &volume_);
  glGenTextures(1, &walls_);
  return {};
}

void StageGl::release() {
  for (auto& l : layers_) l.reset();
  picture_.reset();
  for (auto& h : halo_) h.reset();
  mesh_program_.reset(), march_program_.reset(), shrink_program_.reset(), blur_program_.reset(),
      show_program_.reset();
  vertices_.destroy(), mesh_array_.destroy(), empty_array_.destroy();
  if (volume_) glDeleteTextures(1, &volume_);
  if (walls_) glDeleteTextures(1, &walls_);
  volume_ = walls_ = 0;
}

void StageGl::set_smoke(const std::shared_ptr<const LitSmoke>& smoke) { smoke_ = smoke; }
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

void StageGl::upload() {
  if (smoke_ != uploaded_smoke_) {
    uploaded_smoke_ = smoke_;
    if (smoke_ && !smoke_->empty()) {
      const Vec3i n = smoke_->count;
      std::vector<uint16_t> texels(4 * size_t(n.x) * size_t(n.y) * size_t(n.z));
      for (size_t i = 0; i < texels.size(); i += 4) {
        const float* c = &smoke_->rgba[i];
        const qfloat16 half[4] = {
            qfloat16(std::min(c[0] * c[3], 60000.f)), qfloat16(std::min(c[1] * c[3], 60000.f)),
            qfloat16(std::min(c[2] * c[3], 60000.f)), qfloat16(std::min(c[3], 60000.f))};
        std::memcpy(&texels[i], half, sizeof half);
      }
      fill_volume(volume_, GL_RGBA16F, n, GL_RGBA, GL_HALF_FLOAT, texels.data());
      if (const auto& w = smoke_->walls; w && w != uploaded_walls_) {
        uploaded_walls_ = w;
        fill_volume(walls_, GL_R8, w->count, GL_RED, GL_UNSIGNED_BYTE, w->level.data());
      }
    }
  }
  if (pieces_ != uploaded_pieces_) {
    uploaded_pieces_ = pieces_;
    std::vector<Vec3f> corners;
    const auto add = [&](bool glass, int& first, int& count) {
      first = int(corners.size());
      if (pieces_)
        for (const PicturePiece& p : *pieces_)
          if (p.glass == glass)
            for (const auto& t : p.mesh.triangles)
              for (const int v : t) corners.push_back(p.mesh.points[size_t(v)]);
      count = int(corners.size()) - first;
    };
    add(false, solid_first_, solid_count_);
    add(true, glass_first_, glass_count_);
    mesh_array_.bind();
    vertices_.bind();
    vertices_.allocate(corners.data(), int(corners.size() * sizeof(Vec3f)));
    glEnableVertexAttribArray(0);
    glVertexAttribPointer(0, 3, GL_FLOAT, GL_FALSE, sizeof(Vec3f), nullptr);
    mesh_array_.release();
    vertices_.release();
  }
}

void StageGl::draw_layers(int width, int height, const Look& look, const View& view) {
  QOpenGLShaderProgram& p = *mesh_program_;
  mesh_array_.bind();
  for (int m = 0; m < (look.floor ? 2 : 1); ++m) {
    if (!layers_[m] || layers_[m]->width() != width || layers_[m]->height() != height) {
      layers_[m] = std::make_unique<QOpenGLFramebufferObject>(
          QSize(width, height), QOpenGLFramebufferObject::Depth, GL_TEXTURE_2D, GL_RGBA16F);
      layers_[m]->addColorAttachment(QSize(width, height), GL_RGBA16F);
    }
    layers_[m]->bind();
    const GLenum both[2] = {GL_COLOR_ATTACHMENT0, GL_COLOR_ATTACHMENT1};
    glDrawBuffers(2, both);
    glViewport(0, 0, width, height);
    glClearColor(0, 0, 0, 0);
    glDepthMask(GL_TRUE);
    glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
    p.bind();
    p.setUniformValue("eye", q(view.eye)), p.setUniformValue("right", q(view.right)),
        p.setUniformValue("up", q(view.up));
    p.setUniformValue("forward", q(view.forward)),
        p.setUniformValue("half_size", QVector2D(view.half_width, view.half_height));
    p.setUniformValue("flip", m ? -1.f : 1.f);
    p.setUniformValue("key", q(direction_to(look.key_yaw, look.key_pitch))),
        p.setUniformValue("rim", q(direction_to(look.rim_yaw, look.rim_pitch)));
    p.setUniformValue("key_color", q(look.key_color) * float(look.key_strength));
    p.setUniformValue("rim_color", q(look.rim_color) * float(look.rim_strength));
    p.setUniformValue("glass", float(look.glass));
    glDisable(GL_CULL_FACE);
    if (solid_count_) {
      glEnable(GL_DEPTH_TEST);
      glDisable(GL_BLEND);
      glColorMaski(1, GL_FALSE, GL_FALSE, GL_FALSE, GL_FALSE);
      p.setUniformValue("is_glass", false);
      glDrawArrays(GL_TRIANGLES, solid_first_, solid_count_);
      glColorMaski(1, GL_TRUE, GL_TRUE, GL_TRUE, GL_TRUE);
    }
    if (glass_count_) {
      glDisable(GL_DEPTH_TEST);
      glEnable(GL_BLEND);
      glBlendFunc(GL_ONE, GL_ONE);
      glColorMaski(0, GL_FALSE, GL_FALSE, GL_FALSE, GL_FALSE);
      p.setUniformValue("is_glass", true);
      glDrawArrays(GL_TRIANGLES, glass_first_, glass_count_);
      glColorMaski(0, GL_TRUE, GL_TRUE, GL_TRUE, GL_TRUE);
      glDisable(GL_BLEND);
    }
  }
  glDisable(GL_DEPTH_TEST);
  mesh_array_.release();
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

void StageGl::draw(unsigned target, int width, int height, double scale, const Look& look,
                   const Camera& camera) {
  upload();
  const int w = std::max(16, int(width * scale)), h = std::max(16, int(height * scale));
  const View view(camera, double(width) / height);
  draw_layers(w, h, look, view);
  picture_ = fitting(std::move(picture_), w, h);
  picture_->bind();
  glViewport(0, 0, w, h);
  QOpenGLShaderProgram& p = *march_program_;
  p.bind();
  const bool smoky = smoke_ && !smoke_->empty();
  p.setUniformValue("has_smoke", smoky);
  p.setUniformValue("has_floor", look.floor);
  if (smoky) {
    p.setUniformValue("low", q(smoke_->low)), p.setUniformValue("high", q(smoke_->high()));
    p.setUniformValue("cell", smoke_->cell_size);
    if (const auto& walls = smoke_->walls) {
      // Lattice points stand in the middle of texels.
      const Vec3f half = Vec3f{0.5f, 0.5f, 0.5f} * walls->spacing;
      p.setUniformValue("walls_low", q(walls->low - half));
      p.setUniformValue("walls_size", q(to<float>(walls->count) * walls->spacing));
    }
  }
  p.setUniformValue("has_walls", smoky && smoke_->walls);
  p.setUniformValue("sharpness", WallMask::sharpness);
  p.setUniformValue("step_size", scale < 0.9 ? 1.5f : 0.75f);
  p.setUniformValue("eye", q(view.eye)), p.setUniformValue("right", q(view.right)),
      p.setUniformValue("up", q(view.up));
  p.setUniformValue("forward", q(view.forward)),
      p.setUniformValue("half_size", QVector2D(view.half_width, view.half_height));
  p.setUniformValue("back", q(look.background)), p.setUniformValue("target", q(to<float>(camera.target)));
  p.setUniformValue("exposure", float(std::exp2(look.exposure))),
      p.setUniformValue("distance_", float(camera.distance));
  const int mirrored = look.floor ? 1 : 0;
  const unsigned textures[4] = {layers_[0]->textures().at(0), layers_[mirrored]->textures().at(0),
                                layers_[0]->textures().at(1), layers_[mirrored]->textures().at(1)};
  const char* names[4] = {"solid0", "solid1", "glass0", "glass1"};
  for (int i = 0; i < 4; ++i) {
    glActiveTexture(GLenum(GL_TEXTURE1 + i));
    glBindTexture(GL_TEXTURE_2D, textures[i]);
    p.setUniformValue(names[i], 1 + i);
  }
  glActiveTexture(GL_TEXTURE5);
  glBindTexture(GL_TEXTURE_3D, walls_);
  p.setUniformValue("walls", 5);
  glActiveTexture(GL_TEXTURE0);
  glBindTexture(GL_TEXTURE_3D, volume_);
  p.setUniformValue("smoke", 0);
  empty_array_.bind();
  glDrawArrays(GL_TRIANGLES, 0, 3);
  QVector2D small_size(1, 1);
  if (look.halo > 0) small_size = draw_halo();
  glBindFramebuffer(GL_FRAMEBUFFER, target);
  glViewport(0, 0, width, height);
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
  show.setUniformValue("halo", float(look.halo));
  show.setUniformValue("near_share", halo_share[0]), show.setUniformValue("far_share", halo_share[1]);
  show.setUniformValue("small_size", small_size);
  glDrawArrays(GL_TRIANGLES, 0, 3);
  empty_array_.release();
  show.release();
}
