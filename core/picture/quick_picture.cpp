#include "picture/quick_picture.h"

#include <atomic>
#include <cmath>

#include "base/parallel.h"
#include "picture/camera.h"
#include "shape/piece_shape.h"

namespace pour {
namespace {

Vec3f rgb(const Color& c) { return {float(c.r), float(c.g), float(c.b)}; }

struct March {
  const LitSmoke& smoke;

  /// Light and transmittance along a ray up to `end`.
  Vec3f through(const Vec3f& eye, const Vec3f& dir, float end, float jitter, float& transmitted) const {
    transmitted = 1;
    Vec3f light{};
    if (smoke.empty()) return light;
    const Vec3f low = smoke.low, high = smoke.high();
    float t0 = 0, t1 = end;
    for (int a = 0; a < 3; ++a) {
      const float inv = 1 / dir[a];
      float near = (low[a] - eye[a]) * inv, far = (high[a] - eye[a]) * inv;
      if (near > far) std::swap(near, far);
      t0 = std::max(t0, near), t1 = std::min(t1, far);
    }
    if (!(t0 < t1)) return light;
    const float ds = 0.75f * smoke.cell_size;
    for (float t = t0 + jitter * ds; t < t1; t += ds) {
      const Vec3f p = eye + dir * t;
      const float inside = smoke.walls ? smoke.walls->inside(p) : 1;
      float c[4];
      if (inside <= 0 || !sample((p - low) * (1 / smoke.cell_size), c)) continue;
      const float a = 1 - std::exp(-c[3] * inside * ds);
      light += Vec3f{c[0], c[1], c[2]} * (transmitted * a);
      transmitted *= 1 - a;
      if (transmitted < 0.004f) break;
    }
    return light;
  }

  bool sample(const Vec3f& p, float* out) const {
    const Vec3i n = smoke.count;
    const float x = p.x - 0.5f, y = p.y - 0.5f, z = p.z - 0.5f;
    const int ix = int(std::floor(x)), iy = int(std::floor(y)), iz = int(std::floor(z));
    const float fx = x - float(ix), fy = y - float(iy), fz = z - float(iz);
    out[0] = out[1] = out[2] = out[3] = 0;
    float weighted = 0;
    for (int k = 0; k < 8; ++k) {
      const int cx = ix + (k & 1), cy = iy + (k >> 1 & 1), cz = iz + (k >> 2);
      if (cx < 0 || cy < 0 || cz < 0 || cx >= n.x || cy >= n.y || cz >= n.z) continue;
      const float* c = &smoke.rgba[4 * ((size_t(cz) * size_t(n.y) + size_t(cy)) * size_t(n.x) + size_t(cx))];
      const float w =
          ((k & 1) ? fx : 1 - fx) * ((k >> 1 & 1) ? fy : 1 - fy) * ((k >> 2) ? fz : 1 - fz) * c[3];
      for (int i = 0; i < 3; ++i) out[i] += w * c[i];
      weighted += w;
    }
    if (weighted <= 0) return false;
    for (int i = 0; i < 3; ++i) out[i] /= weighted;
    out[3] = weighted;
    return true;
  }
};

/// What the rasterizer leaves for each pixel.
struct Layer {
  std::vector<float> depth;  // along the ray direction's forward part; 1e30 where nothing solid is
  std::vector<Vec3f> solid;  // colour of the nearest solid
  std::vector<Vec3f> glass;  // light on the near faces of glass, added
  std::vector<float> inner;  // light on its far faces, seen through the smoke
};

/// What a smooth face of glass (index 1.5, Schlick 1994) shows of the studio: two soft boxes and the room.
Vec3f glass_light(const Vec3f& normal, const Vec3f& to_eye, const Vec3f& key, const Vec3f& rim,
                  const Vec3f& key_color, const Vec3f& rim_color) {
  const float cosine = std::min(1.f, std::abs(dot(normal, to_eye)));
  const Vec3f n = dot(normal, to_eye) < 0 ? -normal : normal;
  const Vec3f r = n * (2 * cosine) - to_eye;
  const auto box = [&](const Vec3f& light, float from, float full) {
    const float t = std::clamp((dot(r, light) - from) / (full - from), 0.f, 1.f);
    return t * t * (3 - 2 * t);
  };
  // Sides that are all but parallel to the view would be white.
  const float fresnel = std::min(0.35f, 0.04f + 0.96f * std::pow(1 - cosine, 5.f));
  return (key_color * (5.5f * box(key, 0.55f, 0.95f)) + rim_color * (4 * box(rim, 0.5f, 0.95f)) +
          Vec3f{0.30f, 0.34f, 0.35f} * (0.4f + 0.6f * std::max(0.f, r.y))) *
         fresnel;
}

struct Shading {
  Vec3f key, rim, key_color, rim_color;
  float glass;
};

void draw(const Mesh& mesh, bool glass, bool mirrored, const View& view, const Shading& shade, int width,
          int height, Layer& layer) {
  // In bands of rows, each with all triangles in order, so that the result does not depend on threads.
  const size_t bands = size_t((height + 31) / 32);
  const float flip = mirrored ? -1.f : 1.f;
  struct Ready {
    Vec3f a, b, c, normal, color;
    float low_y, high_y;
    bool near = true;
  };
  std::vector<Ready> ready(mesh.triangles.size());
  parallel_for(ready.size(), [&](size_t i) {
    const auto& t = mesh.triangles[i];
    Vec3f p[3];
    for (int k = 0; k < 3; ++k) {
      p[k] = mesh.points[size_t(t[size_t(k)])];
      p[k].y *= flip;
    }
    Ready& r = ready[i];
    r.low_y = 1, r.high_y = 0;
    Vec3f n = cross(p[1] - p[0], p[2] - p[0]);
    if (mirrored) n = -n;
    const float l = length(n);
    if (l <= 0) return;
    n = n * (1 / l);
    const Vec3f mid = (p[0] + p[1] + p[2]) * (1.f / 3);
    const Vec3f to_eye = normalized(view.eye - mid);
    const float facing = dot(n, to_eye);
    Vec3f q[3];
    for (int k = 0; k < 3; ++k) {
      q[k] = view.project(p[k]);
      if (q[k].z < 0.01f) return;
      q[k].x = (q[k].x * 0.5f + 0.5f) * float(width), q[k].y = (0.5f - q[k].y * 0.5f) * float(height);
    }
    const Vec3f key = mirrored ? Vec3f{shade.key.x, -shade.key.y, shade.key.z} : shade.key;
    const Vec3f rim = mirrored ? Vec3f{shade.rim.x, -shade.rim.y, shade.rim.z} : shade.rim;
    const auto highlight = [&](const Vec3f& light, float power) {
      return std::pow(std::max(0.f, std::abs(dot(n, normalized(light + to_eye)))), power);
    };
    if (glass) {
      r.near = facing > 0;
      r.color = glass_light(n, to_eye, key, rim, shade.key_color, shade.rim_color) * shade.glass;
    } else {
      if (facing <= 0) return;
      const Vec3f base{0.055f, 0.06f, 0.062f};
      r.color = base * (0.35f + 0.65f * std::max(0.f, n.y)) +
                base * shade.key_color * (2.2f * std::max(0.f, dot(n, key))) +
                base * shade.rim_color * (1.6f * std::max(0.f, dot(n, rim))) +
                shade.key_color * (0.15f * highlight(key, 30)) +
                shade.rim_color * (0.2f * highlight(rim, 20)) * std::max(0.f, 1 - facing);
    }
    r.a = q[0], r.b = q[1], r.c = q[2], r.normal = n;
    r.low_y = std::min({q[0].y, q[1].y, q[2].y}), r.high_y = std::max({q[0].y, q[1].y, q[2].y});
  });
  parallel_for(bands, [&](size_t band) {
    const int y0 = int(band) * 32, y1 = std::min(height, y0 + 32);
    for (const Ready& r : ready) {
      if (r.low_y > r.high_y || r.high_y < float(y0) || r.low_y > float(y1)) continue;
      const float area = (r.b.x - r.a.x) * (r.c.y - r.a.y) - (r.b.y - r.a.y) * (r.c.x - r.a.x);
      if (std::abs(area) < 1e-9f) continue;
      const int x_low = std::max(0, int(std::floor(std::min({r.a.x, r.b.x, r.c.x})))),
                x_high = std::min(width - 1, int(std::ceil(std::max({r.a.x, r.b.x, r.c.x}))));
      const int y_low = std::max(y0, int(std::floor(r.low_y))),
                y_high = std::min(y1 - 1, int(std::ceil(r.high_y)));
      for (int y = y_low; y <= y_high; ++y)
        for (int x = x_low; x <= x_high; ++x) {
          // Four samples a pixel; the weights are those of the sub-sample grid.
          float cover = 0, z = 0;
          for (int s = 0; s < 4; ++s) {
            static constexpr float ox[4] = {0.375f, 0.875f, 0.125f, 0.625f},
                                   oy[4] = {0.125f, 0.375f, 0.625f, 0.875f};
            const float px = float(x) + ox[s], py = float(y) + oy[s];
            const float u = ((r.b.x - px) * (r.c.y - py) - (r.b.y - py) * (r.c.x - px)) / area;
            const float v = ((r.c.x - px) * (r.a.y - py) - (r.c.y - py) * (r.a.x - px)) / area;
            const float w = 1 - u - v;
            if (u < 0 || v < 0 || w < 0) continue;
            cover += 0.25f;
            z = 1 / (u / r.a.z + v / r.b.z + w / r.c.z);
          }
          if (cover == 0) continue;
          const size_t i = size_t(y) * size_t(width) + size_t(x);
          if (glass && r.near)
            layer.glass[i] += r.color * cover;
          else if (glass)
            layer.inner[i] += (r.color.x + r.color.y + r.color.z) * (cover / 3);
          else if (z < layer.depth[i])
            layer.depth[i] = z, layer.solid[i] = r.color;
        }
    }
  });
}

}  // namespace

std::vector<PicturePiece> picture_pieces(const Shot& shot) {
  std::vector<PicturePiece> out;
  for (const Piece& p : shot.pieces)
    if (p.part != Part::guides) out.push_back({piece_mesh(p), p.part == Part::holds});
  return out;
}

Image quick_picture(const LitSmoke& smoke, const std::vector<PicturePiece>& pieces, const Look& look,
                    const Camera& camera, int width, int height, const std::function<bool()>& keep_going) {
  const View view(camera, double(width) / height);
  const March march{smoke};
  const Shading shade{direction_to(look.key_yaw, look.key_pitch), direction_to(look.rim_yaw, look.rim_pitch),
                      rgb(look.key_color) * float(look.key_strength),
                      rgb(look.rim_color) * float(look.rim_strength), float(look.glass)};
  const size_t pixels = size_t(width) * size_t(height);
  Layer layers[2];  // the set, and its mirror image in the floor
  for (int m = 0; m < (look.floor ? 2 : 1); ++m) {
    layers[m].depth.assign(pixels, 1e30f), layers[m].solid.assign(pixels, {}),
        layers[m].glass.assign(pixels, {}), layers[m].inner.assign(pixels, 0);
    for (const PicturePiece& p : pieces) draw(p.mesh, p.glass, m == 1, view, shade, width, height, layers[m]);
  }
  const Vec3f back = rgb(look.background);
  const float exposure = float(std::exp2(look.exposure));
  const Vec3f target = to<float>(camera.target);
  // The studio: a wide soft pool of light behind the set that the floor picks up.
  const auto studio = [&](const Vec3f& dir) {
    const float off = 1 - dot(dir, view.forward);
    return back * (0.45f + 1.1f * std::exp(-off * 26 / (view.half_width * view.half_width * 8 + 0.2f)));
  };
  Image image{width, height, std::vector<float>(3 * pixels)};
  std::atomic<bool> cancelled{false};
  parallel_for(
      size_t(height),
      [&](size_t y) {
        if (cancelled) return;
        if (keep_going && !keep_going()) {
          cancelled = true;
          return;
        }
        for (int x = 0; x < width; ++x) {
          const size_t i = y * size_t(width) + size_t(x);
          const Vec3f dir =
              view.ray((float(x) + 0.5f) / float(width) * 2 - 1, 1 - (float(y) + 0.5f) / float(height) * 2);
          uint32_t h = uint32_t(x) * 0x8da6b343u ^ uint32_t(y) * 0xd8163841u;
          h ^= h >> 13, h *= 0x5bd1e995u, h ^= h >> 15;
          const float jitter = float(h & 0xffff) / 65536;
          const float along = dot(dir, view.forward);
          const float solid_at = layers[0].depth[i] / along;
          Vec3f behind = studio(dir);
          float end = 1e30f;
          if (look.floor && dir.y < -1e-4f && view.eye.y > 0) {
            const float t = -view.eye.y / dir.y;
            if (t < solid_at) {
              end = t;
              const Vec3f hit = view.eye + dir * t, mirrored{dir.x, -dir.y, dir.z};
              float seen = 1;
              Vec3f image_light = march.through(hit, mirrored, 1e30f, jitter, seen);
              const bool solid = layers[1].depth[i] < 1e29f;
              const Vec3f beyond = solid ? layers[1].solid[i] : studio(mirrored);
              const float inner = layers[1].inner[i];
              image_light += (beyond + Vec3f{inner, inner, inner}) * seen + layers[1].glass[i];
              // Schlick 1994 with the reflectance of a dark lacquer, duller further off.
              const float cosine = std::min(1.f, -dir.y);
              const float fresnel = 0.06f + 0.94f * std::pow(1 - cosine, 5.f);
              const float away = length(hit - Vec3f{target.x, 0, target.z});
              const float fade = std::exp(-away * away / (float(camera.distance * camera.distance) * 1.2f));
              const Vec3f ground = back * (0.28f + 0.5f * fade);
              const Vec3f floor = ground + image_light * (fresnel * 0.75f);
              behind = floor * fade + behind * (1 - fade);
            }
          }
          if (solid_at < end) behind = layers[0].solid[i], end = solid_at;
          float seen = 1;
          const Vec3f light = march.through(view.eye, dir, end, jitter, seen);
          const float inner = layers[0].inner[i];
          const Vec3f color =
              (light + (behind + Vec3f{inner, inner, inner}) * seen + layers[0].glass[i]) * exposure;
          for (int c = 0; c < 3; ++c) image.rgb[3 * i + size_t(c)] = color[c];
        }
      },
      1);
  if (cancelled) return {};
  add_halo(image, float(look.halo));
  return image;
}

}  // namespace pour
