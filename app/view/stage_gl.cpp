#include "view/stage_gl.h"

#include <cmath>
#include <QCoreApplication>
#include <QFloat16>
#include <QOpenGLContext>
#include <QVector3D>
#include <QVector4D>

using namespace pour;

namespace {

constexpr const char* version = "#version 330 core\n";

// The studio's numbers, as picture/studio.h has them.
#define POUR_CONSTANT(name, value) "const float " #name " = " #value ";\n"
constexpr const char* constants = POUR_STUDIO(POUR_CONSTANT);
#undef POUR_CONSTANT

constexpr const char* mesh_vertex = R"(
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
uniform vec3 eye, right, up, forward;
uniform vec2 half_size;
out vec3 world, bend;
void main() {
  world = position, bend = normal;
  vec3 d = world - eye;
  float z = dot(d, forward);
  float near = 0.01, far = 1000.0;
  gl_Position = vec4(dot(d, right) / half_size.x, dot(d, up) / half_size.y, (z * (far + near) - 2.0 * far * near) / (far - near), z);
}
)";

// Solid pieces leave colour and distance in the first target, glass adds its light to the second.
constexpr const char* mesh_fragment = R"(
in vec3 world, bend;
uniform vec3 eye, forward, key, rim, key_color, rim_color, back, solid_color;
uniform float glass;
uniform bool is_glass, mirrored;
layout(location = 0) out vec4 solid;
layout(location = 1) out vec4 light;
void main() {
  vec3 to_eye = normalize(eye - world), n = normalize(bend);
  bool near_side = gl_FrontFacing != mirrored;
  if (!near_side) n = -n;
  solid = vec4(0.0), light = vec4(0.0);
  if (is_glass) {
    float cosine = clamp(dot(n, to_eye), 0.0, 1.0);
    vec3 r = 2.0 * cosine * n - to_eye;
    vec3 seen = key_color * (key_box * smoothstep(box_from, box_full, dot(r, key))) +
                rim_color * (rim_box * smoothstep(box_from, box_full, dot(r, rim))) +
                back * (room_low + room_high * max(0.0, r.y));
    vec3 c = seen * (glass * min(glass_most, glass_base + (1.0 - glass_base) * pow(1.0 - cosine, 5.0)));
    light = near_side ? vec4(c, 0.0) : vec4(vec3(0.0), (c.r + c.g + c.b) * (far_side / 3.0));
  } else {
    if (!near_side) discard;
    float hk = abs(dot(n, normalize(key + to_eye))), hr = abs(dot(n, normalize(rim + to_eye)));
    vec3 c = solid_color * (0.35 + 0.65 * max(0.0, n.y)) + solid_color * key_color * (2.2 * max(0.0, dot(n, key))) +
             solid_color * rim_color * (1.6 * max(0.0, dot(n, rim))) + key_color * (0.15 * pow(hk, 30.0)) +
             rim_color * (0.2 * pow(hr, 20.0) * max(0.0, 1.0 - dot(n, to_eye)));
    solid = vec4(c, dot(world - eye, forward));
  }
}
)";

constexpr const char* screen_vertex = R"(
out vec2 at;
void main() {
  at = vec2((gl_VertexID & 1) * 4 - 1, (gl_VertexID >> 1) * 4 - 1);
  gl_Position = vec4(at, 0.0, 1.0);
}
)";

// What the picture and the mirror image in the floor have in common.
constexpr const char* march_common = R"(
in vec2 at;
out vec4 color;
uniform sampler3D smoke, walls;
uniform sampler2D solids, glasses;
uniform bool has_floor;
// The volumes of the frame, each in a space of its own, packed behind each other in one texture.
const int most_volumes = 48;
uniform int volumes;
uniform vec3 low[most_volumes], high[most_volumes], first[most_volumes];  // m; first texel
uniform vec3 walls_low[most_volumes], walls_first[most_volumes], walls_count[most_volumes];  // m; texels
uniform float walls_spacing[most_volumes];  // m; 0: nothing holds it
uniform vec4 turned[3 * most_volumes];      // rows from the world to its space, with what is added
uniform vec3 texture_size, walls_texture_size;
uniform vec3 eye, right, up, forward, back, target, tint;
uniform vec2 half_size;
uniform vec4 seen_at;  // where on the picture there are surfaces
uniform float cell, step_size, pool, distance_, sharpness;

struct Pixel { vec3 solid, glass; float inner, cover, depth; };

// Four samples a pixel.
Pixel surfaces() {
  Pixel p = Pixel(vec3(0.0), vec3(0.0), 0.0, 0.0, 1e30);
  if (any(lessThan(at, seen_at.xy)) || any(greaterThan(at, seen_at.zw))) return p;
  ivec2 first = ivec2(gl_FragCoord.xy) * 2;
  for (int k = 0; k < 4; ++k) {
    ivec2 i = first + ivec2(k & 1, k >> 1);
    vec4 s = texelFetch(solids, i, 0), g = texelFetch(glasses, i, 0);
    p.glass += 0.25 * g.rgb, p.inner += 0.25 * g.a;
    if (s.a > 0.0) p.solid += s.rgb, p.cover += 0.25, p.depth = min(p.depth, s.a);
  }
  if (p.cover > 0.0) p.solid /= 4.0 * p.cover;
  return p;
}

vec3 backdrop(vec3 dir) { return back * (pool_low + pool_high * exp(-(1.0 - dot(dir, forward)) * pool)); }

float jitter() { return fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715)))); }

// In the space of a volume: a place (w = 1) or a direction (w = 0) of the world.
vec3 own(int k, vec4 p) { return vec3(dot(turned[3 * k], p), dot(turned[3 * k + 1], p), dot(turned[3 * k + 2], p)); }

vec3 through(vec3 from, vec3 dir, float end, out vec3 seen) {
  seen = vec3(1.0);
  vec3 light = vec3(0.0);
  float first_t = end, last_t = 0.0, ds = step_size * cell;
  float t0[most_volumes], t1[most_volumes];
  for (int k = 0; k < volumes; ++k) {
    vec3 e = own(k, vec4(from, 1.0)), inv = 1.0 / own(k, vec4(dir, 0.0)), a = (low[k] - e) * inv, b = (high[k] - e) * inv;
    vec3 near = min(a, b), far = max(a, b);
    t0[k] = max(max(near.x, near.y), max(near.z, 0.0)), t1[k] = min(min(far.x, far.y), min(far.z, end));
    if (t0[k] < t1[k]) first_t = min(first_t, t0[k]), last_t = max(last_t, t1[k]);
  }
  for (float t = first_t + jitter() * ds; t < last_t; t += ds) {
    for (int k = 0; k < volumes; ++k) {
      if (t < t0[k] || t >= t1[k]) continue;
      vec3 p = own(k, vec4(from + dir * t, 1.0));
      float inside = 1.0;
      if (walls_spacing[k] > 0.0) {
        vec3 q = (p - walls_low[k]) / walls_spacing[k];
        q = clamp(q, vec3(0.5), walls_count[k] - 0.5);
        inside = clamp((texture(walls, (walls_first[k] + q) / walls_texture_size).r - 128.0 / 255.0) * sharpness + 0.5, 0.0, 1.0);
        if (inside <= 0.0) continue;
      }
      vec4 c = texture(smoke, (first[k] + (p - low[k]) / cell) / texture_size);
      if (c.a <= 0.0) continue;
      vec3 kept = exp(-c.a * inside * ds * tint);
      light += c.rgb / c.a * (seen * (1.0 - kept));  // stored times extinction, so that it mixes as it should
      seen *= kept;
    }
    if (max(seen.r, max(seen.g, seen.b)) < 0.004) break;
  }
  return light;
}

bool meets_floor(vec3 dir, out float t) {
  t = 1e30;
  if (!has_floor || dir.y > -1e-4 || eye.y <= 0.0) return false;
  t = -eye.y / dir.y;
  return true;
}

vec3 ray() { return normalize(forward + right * (at.x * half_size.x) + up * (at.y * half_size.y)); }
)";

// What the floor mirrors, and how far it is to be blurred, in pixels.
constexpr const char* mirror_fragment = R"(
uniform float width;
void main() {
  vec3 dir = ray();
  float t;
  color = vec4(0.0);
  if (!meets_floor(dir, t)) return;
  vec3 hit = eye + dir * t, d = vec3(dir.x, -dir.y, dir.z), seen;
  Pixel p = surfaces();
  vec3 light = through(hit, d, p.cover > 0.5 ? p.depth / dot(dir, forward) - t : 1e30, seen);
  vec3 behind = mix(backdrop(d), p.solid, p.cover);
  vec3 level = normalize(vec3(forward.x, 0.0, forward.z));
  float along = max(0.0, dot(target - hit, level) / max(1e-3, dot(d, level))), height = along * d.y;
  color = vec4((light + (behind + p.inner) * seen + p.glass) * exp(-height / (floor_fade * distance_)),
               floor_spread * height / ((t + along) * 2.0 * half_size.x) * width);
}
)";

// Along rows or columns, each pixel with a Gaussian of its own.
constexpr const char* spread_fragment = R"(
out vec4 color;
uniform sampler2D picture;
uniform ivec2 along;
void main() {
  ivec2 last = textureSize(picture, 0) - 1, at = ivec2(gl_FragCoord.xy);
  color = texelFetch(picture, at, 0);
  float sigma = color.a;
  if (sigma < 0.2) return;
  int reach = int(ceil(2.5 * sigma));
  vec4 sum = vec4(0.0);
  for (int i = -reach; i <= reach; ++i)
    sum += vec4(texelFetch(picture, clamp(at + i * along, ivec2(0), last), 0).rgb, 1.0) * exp(-0.5 * float(i * i) / (sigma * sigma));
  color.rgb = sum.rgb / sum.a;
}
)";

constexpr const char* march_fragment = R"(
uniform sampler2D mirror;
uniform float exposure;
void main() {
  vec3 dir = ray(), behind = backdrop(dir), seen;
  Pixel p = surfaces();
  float end;
  if (meets_floor(dir, end)) {
    vec3 off = eye + dir * end - vec3(target.x, 0.0, target.z);
    float fade = exp(-dot(off, off) / (distance_ * distance_ * 1.2));
    float fresnel = min(floor_most, floor_base + (1.0 - floor_base) * pow(1.0 + max(dir.y, -1.0), 5.0));
    vec3 floor_light = back * (ground_low + ground_high * fade) + texture(mirror, at * 0.5 + 0.5).rgb * fresnel;
    behind = mix(behind, floor_light, fade);
  }
  if (p.cover > 0.5) end = min(end, p.depth / dot(dir, forward));
  vec3 light = through(eye, dir, end, seen);
  behind = mix(behind, p.solid, p.cover);
  color = vec4((light + (behind + p.inner) * seen + p.glass) * exposure, 1.0);
}
)";

// Averages squares of pixels, for the halo.
constexpr const char* shrink_fragment = R"(
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

constexpr const char* blur_fragment = R"(
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
constexpr const char* show_fragment = R"(
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

/// Puts the volumes of the frame behind each other into one texture, with an empty layer around each.
void StageGl::pack_smoke() {
  packed_.clear();
  Vec3i size{1, 1, 0}, walls_size{1, 1, 0};
  if (smoke_)
    for (const LitSmoke& v : *smoke_) {
      if (v.empty() || packed_.size() == most_volumes) continue;
      Packed p{&v, size.z + 1, walls_size.z};
      size = {std::max(size.x, v.count.x + 2), std::max(size.y, v.count.y + 2), size.z + v.count.z + 2};
      if (v.walls)
        walls_size = {std::max(walls_size.x, v.walls->count.x), std::max(walls_size.y, v.walls->count.y),
                      walls_size.z + v.walls->count.z};
      packed_.push_back(p);
    }
  packed_size_ = size, packed_walls_size_ = max(walls_size, Vec3i{1, 1, 1});
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
    std::vector<Vec3f> corners;  // position and normal of each
    const auto add = [&](bool glass, int& first, int& count) {
      first = int(corners.size() / 2);
      if (pieces_)
        for (const PicturePiece& p : *pieces_)
          if (p.glass == glass)
            for (size_t i = 0; i < p.surface->mesh.triangles.size(); ++i)
              for (size_t k = 0; k < 3; ++k) {
                const Vec3f& at = p.surface->mesh.points[size_t(p.surface->mesh.triangles[i][k])];
                corners.push_back(to<float>(p.pose * to<double>(at)));
                corners.push_back(to<float>(p.pose.turn * to<double>(p.surface->normals[i][k])));
              }
      count = int(corners.size() / 2) - first;
    };
    add(false, solid_first_, solid_count_);
    add(true, glass_first_, glass_count_);
    mesh_array_.bind();
    vertices_.bind();
    vertices_.allocate(corners.data(), int(corners.size() * sizeof(Vec3f)));
    for (unsigned i = 0; i < 2; ++i) {
      glEnableVertexAttribArray(i);
      glVertexAttribPointer(i, 3, GL_FLOAT, GL_FALSE, 2 * sizeof(Vec3f),
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
  p.setUniformValue("key", q(studio.key)), p.setUniformValue("rim", q(studio.rim));
  p.setUniformValue("key_color", q(studio.key_color)), p.setUniformValue("rim_color", q(studio.rim_color));
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

/// Leaves in mirror_[0] what the floor mirrors, at half the size of the picture.
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
  show.setUniformValue("halo", float(look.halo));
  show.setUniformValue("near_share", halo_share[0]), show.setUniformValue("far_share", halo_share[1]);
  show.setUniformValue("small_size", small_size);
  glDrawArrays(GL_TRIANGLES, 0, 3);
  empty_array_.release();
  show.release();
  QImage image = shown_->toImage().convertToFormat(QImage::Format_RGB32);
  shown_->release();
  return image;
}
