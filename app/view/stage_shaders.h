// What the stage draws with on the graphics card.
#pragma once
#include "picture/studio.h"

namespace stage_shaders {

inline constexpr const char* version = "#version 330 core\n";

// The studio's numbers, as picture/studio.h has them.
#define POUR_CONSTANT(name, value) "const float " #name " = " #value ";\n"
inline constexpr const char* constants = POUR_STUDIO(POUR_CONSTANT) "const int most_studio_lights = 4;\n";
static_assert(pour::most_studio_lights == 4);
#undef POUR_CONSTANT

inline constexpr const char* mesh_vertex = R"(
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
layout(location = 2) in vec4 tone;  // colour; 1 for liquid
uniform vec3 eye, right, up, forward;
uniform vec2 half_size;
out vec3 world, bend;
out vec4 own;
void main() {
  world = position, bend = normal, own = tone;
  vec3 d = world - eye;
  float z = dot(d, forward);
  float near = 0.01, far = 1000.0;
  gl_Position = vec4(dot(d, right) / half_size.x, dot(d, up) / half_size.y, (z * (far + near) - 2.0 * far * near) / (far - near), z);
}
)";

// Solid pieces leave colour and distance in the first target, glass adds its light to the second.
inline constexpr const char* mesh_fragment = R"(
in vec3 world, bend;
in vec4 own;
uniform vec3 eye, forward, back, solid_color;
uniform int lights;
uniform vec3 toward[most_studio_lights], light_color[most_studio_lights];
uniform float glass;
uniform bool is_glass, mirrored;
layout(location = 0) out vec4 solid;
layout(location = 1) out vec4 light;
void main() {
  vec3 to_eye = normalize(eye - world), n = normalize(bend);
  bool near_side = gl_FrontFacing != mirrored;
  if (!near_side) n = -n;
  solid = vec4(0.0), light = vec4(0.0);
  vec3 mirrored_light = vec3(0.0);
  bool wet = own.a > 0.5 && own.a < 1.5;
  if (is_glass || wet) {
    float cosine = clamp(dot(n, to_eye), 0.0, 1.0);
    vec3 r = 2.0 * cosine * n - to_eye;
    vec3 seen = back * (room_low + room_high * max(0.0, r.y));
    for (int i = 0; i < lights; ++i)
      seen += light_color[i] * (box_light * smoothstep(box_from, box_full, dot(r, toward[i])));
    mirrored_light = seen * min(glass_most, glass_base + (1.0 - glass_base) * pow(1.0 - cosine, 5.0));
  }
  if (is_glass) {
    vec3 c = mirrored_light * glass;
    light = near_side ? vec4(c, 0.0) : vec4(vec3(0.0), (c.r + c.g + c.b) * (far_side / 3.0));
  } else {
    if (wet && !near_side) discard;  // skins of liquids are closed
    vec3 base = own.r < 0.0 ? solid_color : own.rgb;
    vec3 c = base * (0.35 + 0.65 * max(0.0, n.y)) + mirrored_light;
    for (int i = 0; i < lights; ++i)
      c += base * light_color[i] * (lit * max(0.0, dot(n, toward[i]))) +
           light_color[i] * (sheen * pow(abs(dot(n, normalize(toward[i] + to_eye))), sheen_power));
    if (own.a > 1.5) c = base * (plain_least + (1.0 - plain_least) * max(0.0, dot(n, to_eye)));
    solid = vec4(c, dot(world - eye, forward));
  }
}
)";

inline constexpr const char* screen_vertex = R"(
out vec2 at;
void main() {
  at = vec2((gl_VertexID & 1) * 4 - 1, (gl_VertexID >> 1) * 4 - 1);
  gl_Position = vec4(at, 0.0, 1.0);
}
)";

// What the picture and the mirror image in the floor have in common.
inline constexpr const char* march_common = R"(
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
inline constexpr const char* mirror_fragment = R"(
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
inline constexpr const char* spread_fragment = R"(
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

inline constexpr const char* march_fragment = R"(
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
inline constexpr const char* shrink_fragment = R"(
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

inline constexpr const char* blur_fragment = R"(
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
inline constexpr const char* show_fragment = R"(
in vec2 at;
out vec4 color;
uniform sampler2D picture, near, far;
uniform float halo, near_share, far_share, contrast;
uniform vec2 small_size;  // of the small picture, where the last square may stand over the edge
void main() {
  vec2 uv = at * 0.5 + 0.5;
  vec3 c = texture(picture, uv).rgb;
  if (halo > 0.0)
    c = mix(c, texture(near, uv * small_size).rgb * near_share + texture(far, uv * small_size).rgb * far_share, halo);
  if (contrast != 1.0) c = 0.18 * pow(max(c, 0.0) / 0.18, vec3(contrast));
  c = mix(c, 0.8 + 0.2 * (1.0 - exp(-(c - 0.8) / 0.2)), step(0.8, c));
  c = mix(12.92 * c, 1.055 * pow(max(c, 0.0), vec3(1.0 / 2.4)) - 0.055, step(0.0031308, c));
  float jitter = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715))));
  color = vec4(c + (jitter - 0.5) / 255.0, 1.0);
}
)";

}  // namespace stage_shaders
