#include "picture/quick_picture.h"

#include <array>
#include <atomic>
#include <cmath>

#include "base/parallel.h"
#include "base/pixels.h"
#include "base/shelf.h"
#include "base/text.h"
#include "picture/camera.h"
#include "picture/joined_walls.h"
#include "shape/placed.h"
#include "shape/svg.h"

namespace pour {
namespace {

/// The volumes of a frame on a ray, all at once: where one lies before or in another is no matter.
struct March {
  const LitFrame& frame;

  struct Part {
    const LitSmoke* smoke;
    Vec3f eye, dir;  // in its own space
    float t0, t1;
  };

  /// Light on a ray up to `end`, and the transmittance to the background.
  Vec3f through(const Vec3f& eye, const Vec3f& dir, float end, float jitter, Vec3f& seen) const {
    seen = {1, 1, 1};
    Vec3f light{};
    constexpr size_t most = 64;  // that a ray meets
    std::array<Part, most> parts;
    size_t count = 0;
    float first = end, last = 0, ds = 1e30f;
    for (const LitSmoke& smoke : frame) {
      if (smoke.empty() || count == most) continue;
      Part p{&smoke, eye, dir, 0, end};
      if (!(smoke.pose == Pose()))
        p.eye = to<float>(smoke.pose.inverse(to<double>(eye))),
        p.dir = to<float>(smoke.pose.turn.inverse(to<double>(dir)));
      const Vec3f high = smoke.high();
      for (int a = 0; a < 3; ++a) {
        const float inv = 1 / p.dir[a];
        float near = (smoke.low[a] - p.eye[a]) * inv, far = (high[a] - p.eye[a]) * inv;
        if (near > far) std::swap(near, far);
        p.t0 = std::max(p.t0, near), p.t1 = std::min(p.t1, far);
      }
      if (!(p.t0 < p.t1)) continue;
      first = std::min(first, p.t0), last = std::max(last, p.t1), ds = std::min(ds, 0.75f * smoke.cell_size);
      parts[count++] = p;
    }
    for (float t = first + jitter * ds; t < last; t += ds) {
      for (size_t k = 0; k < count; ++k) {
        const Part& part = parts[k];
        if (t < part.t0 || t >= part.t1) continue;
        const LitSmoke& smoke = *part.smoke;
        const Vec3f p = part.eye + part.dir * t;
        const float inside = smoke.walls ? smoke.walls->inside(p) : 1;
        float c[4];
        if (inside <= 0 || !sample(smoke, (p - smoke.low) * (1 / smoke.cell_size), c)) continue;
        const Vec3f& tint = smoke.tint;
        const float depth = -c[3] * inside * ds, red = std::exp(depth * tint.x);
        const Vec3f kept = tint == Vec3f{1, 1, 1}
                               ? Vec3f{red, red, red}
                               : Vec3f{red, std::exp(depth * tint.y), std::exp(depth * tint.z)};
        light += Vec3f{c[0], c[1], c[2]} * (seen * (Vec3f{1, 1, 1} - kept));
        seen = seen * kept;
      }
      if (std::max({seen.x, seen.y, seen.z}) < 0.004f) break;
    }
    return light;
  }

  static bool sample(const LitSmoke& smoke, const Vec3f& p, float* out) {
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

/// Where along a step a pixel's rays begin, so that steps don't show as rings.
float jitter_of(int x, size_t y) {
  uint32_t h = uint32_t(x) * 0x8da6b343u ^ uint32_t(y) * 0xd8163841u;
  h ^= h >> 13, h *= 0x5bd1e995u, h ^= h >> 15;
  return float(h & 0xffff) / 65536;
}

Vec3f ray_of(const View& view, int x, int y, int width, int height) {
  return view.ray((float(x) + 0.5f) / float(width) * 2 - 1, 1 - (float(y) + 0.5f) / float(height) * 2);
}

/// Calls f(rows) for bands of a picture on all cores, until `keep_going` says no.
template <class F>
bool each_band(const LayerPainter& painter, int height, const std::function<bool()>& keep_going, const F& f) {
  constexpr int rows = 16;
  std::atomic<bool> cancelled{false};
  parallel_for(
      size_t((height + rows - 1) / rows),
      [&](size_t band) {
        if (cancelled) return;
        if (keep_going && !keep_going()) {
          cancelled = true;
          return;
        }
        const int first = int(band) * rows;
        f(painter.paint(first, std::min(rows, height - first)));
      },
      1);
  return !cancelled;
}

/// The mirror image in the floor, at half the picture's size.
struct Reflection {
  Image image;
  std::vector<float> spread;  // of each pixel, in pixels

  Vec3f at(float x, float y) const {  // 0..1 over the picture
    const float u = x * float(image.width) - 0.5f, v = y * float(image.height) - 0.5f;
    const int x0 = int(std::floor(u)), y0 = int(std::floor(v));
    const float fx = u - float(x0), fy = v - float(y0);
    Vec3f sum{};
    for (int k = 0; k < 4; ++k)
      sum += image.at(std::clamp(x0 + (k & 1), 0, image.width - 1),
                      std::clamp(y0 + (k >> 1), 0, image.height - 1)) *
             (((k & 1) ? fx : 1 - fx) * ((k >> 1) ? fy : 1 - fy));
    return sum;
  }

  /// Each pixel along rows or columns with a Gaussian of its own.
  void blur(bool columns) {
    const Image from = image;
    parallel_for(size_t(image.height), [&](size_t row) {
      const int y = int(row);
      for (int x = 0; x < image.width; ++x) {
        const size_t i = row * size_t(image.width) + size_t(x);
        const float sigma = spread[i];
        if (sigma < 0.2f) continue;
        const int reach = int(std::ceil(2.5f * sigma));
        Vec3f sum{};
        float weights = 0;
        for (int n = -reach; n <= reach; ++n) {
          const float w = std::exp(-0.5f * float(n * n) / (sigma * sigma));
          sum += (columns ? from.at(x, std::clamp(y + n, 0, from.height - 1))
                          : from.at(std::clamp(x + n, 0, from.width - 1), y)) *
                 w;
          weights += w;
        }
        for (int c = 0; c < 3; ++c) image.rgb[3 * i + size_t(c)] = sum[c] / weights;
      }
    });
  }
};

/// Whether the floor lies on a ray, and how far.
bool meets_floor(const Studio& studio, const View& view, const Vec3f& dir, float& t) {
  if (!studio.floor || dir.y > -1e-4f || view.eye.y <= 0) return false;
  t = -view.eye.y / dir.y;
  return true;
}

}  // namespace

std::optional<Vec3f> color_of(const Shot& shot, const Piece& p) {
  const Material* m = shot.material(p.material.id);
  if (p.holds || !m) return std::nullopt;
  return Vec3f{float(m->color.r), float(m->color.g), float(m->color.b)};
}

namespace {

/// Splits triangles until no edge is longer; an edge is cut in the same places on both of its sides.
void add_split(Mesh& mesh, std::array<int, 3> t, float longest) {
  int k = 0;
  float most = 0;
  for (int i = 0; i < 3; ++i) {
    const float l = length(mesh.points[size_t(t[size_t(i)])] - mesh.points[size_t(t[size_t((i + 1) % 3)])]);
    if (l > most) most = l, k = i;
  }
  if (most <= longest) {
    mesh.triangles.push_back(t);
    return;
  }
  const int a = t[size_t(k)], b = t[size_t((k + 1) % 3)], c = t[size_t((k + 2) % 3)];
  const int m = int(mesh.points.size());
  mesh.points.push_back((mesh.points[size_t(a)] + mesh.points[size_t(b)]) * 0.5f);
  add_split(mesh, {a, m, c}, longest);
  add_split(mesh, {m, b, c}, longest);
}

/// Point colours from textures.
void color_points(Body::Seen& seen, const std::string& name) {
  if (seen.textures.empty() || seen.uv.empty()) return;
  seen.colors.resize(seen.mesh.points.size(), {0.5f, 0.5f, 0.5f});
  std::vector<std::shared_ptr<const Pixels>> textures;
  for (const auto& bytes : seen.textures) textures.push_back(unpack_picture(bytes, name));
  for (size_t i = 0; i < seen.mesh.triangles.size(); ++i)
    if (const uint8_t number = seen.texture_of[i])
      for (const int p : seen.mesh.triangles[i]) {
        const auto& at = seen.uv[size_t(p)];
        seen.colors[size_t(p)] = textures[number - 1u]->texture(at[0], at[1]).over(seen.colors[size_t(p)]);
      }
}

/// The visible surface of a shape; finer if its points carry colours.
Surface surface_of(const Piece& piece) {
  constexpr float cells = 160;  // of colour, across
  Body::Seen all;
  for (const Body::Seen& s : seen_of(piece)) all.append(s);
  const auto bodies = all.mesh.triangles.empty() ? bodies_of(piece) : nullptr;
  for (size_t i = 0; bodies && i < bodies->size(); ++i) {
    const Body& b = (*bodies)[i];
    if (!b.colors) {
      Body::Seen plain;
      plain.mesh = b.shown();
      all.append(plain);
      continue;
    }
    const float longest = float(std::max(b.colors->size.x, b.colors->size.y)) / cells;
    Body::Seen fine;
    fine.mesh.points = b.mesh.points;
    for (const auto& t : b.mesh.triangles) add_split(fine.mesh, t, longest);
    for (const Vec3f& p : fine.mesh.points) fine.colors.push_back(b.colors->at(double(p.x), double(p.y)));
    all.append(fine);
  }
  color_points(all, filled("Piece “{name}”: texture", {{"name", piece.name}}));
  return Surface(std::move(all));
}

}  // namespace

std::vector<PicturePiece> picture_pieces(const Shot& shot) {
  static Shelf<Shape, Surface> shelf(64);
  static Shelf<JoinedWalls, Surface> joined_shelf(32);
  const std::map<size_t, JoinedWalls> joined = joined_walls(shot);
  std::vector<PicturePiece> out;
  for (size_t i = 0; i < shot.pieces.size(); ++i) {
    const Piece& p = shot.pieces[i];
    if (!p.shows) continue;
    const auto walls = joined.find(i);
    const auto surface = walls == joined.end()
                             ? shelf.get(p.shape, [&] { return surface_of(p); })
                             : joined_shelf.get(walls->second, [&] { return surface_of(walls->second, p); });
    out.emplace_back(surface, pose_of(shot, p), p.holds ? Finish::glass : Finish::solid, p.id);
    out.back().color = color_of(shot, p);
  }
  return out;
}

Image quick_picture(const LitFrame& frame, const std::vector<PicturePiece>& pieces, const Look& look,
                    const Camera& camera, int width, int height, const std::function<bool()>& keep_going) {
  const View view(camera, double(width) / height);
  const Studio studio(look, camera, view);
  const March march{frame};

  Reflection reflection;
  if (studio.floor) {
    Image& image = reflection.image;
    image.width = (width + 1) / 2, image.height = (height + 1) / 2;
    const size_t pixels = size_t(image.width) * size_t(image.height);
    image.rgb.assign(3 * pixels, 0), reflection.spread.assign(pixels, 0);
    const LayerPainter painter(pieces, view.mirrored(), studio, image.width, image.height);
    const bool whole = each_band(painter, image.height, keep_going, [&](const Layers& layers) {
      for (int y = layers.first; y < layers.first + layers.rows; ++y)
        for (int x = 0; x < image.width; ++x) {
          const Vec3f dir = ray_of(view, x, y, image.width, image.height);
          float t = 0;
          if (!meets_floor(studio, view, dir, t)) continue;
          const Vec3f hit = view.eye + dir * t, mirrored{dir.x, -dir.y, dir.z};
          const Layers::Pixel& p = layers.at(x, y);
          const float end = p.cover > 0.5f ? p.depth / dot(dir, view.forward) - t : 1e30f;
          Vec3f seen, behind = studio.backdrop(mirrored);
          const Vec3f light = march.through(hit, mirrored, end, jitter_of(x, size_t(y)), seen);
          behind = behind * (1 - p.cover) + p.solid * p.cover;
          const Studio::Mirror m = studio.mirror(view.eye, hit, mirrored);
          const Vec3f all = (light + (behind + Vec3f{p.inner, p.inner, p.inner}) * seen + p.glass) * m.part;
          const size_t i = size_t(y) * size_t(image.width) + size_t(x);
          for (int c = 0; c < 3; ++c) image.rgb[3 * i + size_t(c)] = all[c];
          reflection.spread[i] = m.spread / (m.away * 2 * view.half_width) * float(image.width);
        }
    });
    if (!whole) return {};
    reflection.blur(false), reflection.blur(true);
  }

  const float exposure = float(std::exp2(look.exposure));
  Image image{width, height, std::vector<float>(3 * size_t(width) * size_t(height))};
  const LayerPainter painter(pieces, view, studio, width, height);
  const bool whole = each_band(painter, height, keep_going, [&](const Layers& layers) {
    for (int y = layers.first; y < layers.first + layers.rows; ++y)
      for (int x = 0; x < width; ++x) {
        const Vec3f dir = ray_of(view, x, y, width, height);
        const Layers::Pixel& p = layers.at(x, y);
        Vec3f seen, behind = studio.backdrop(dir);
        float end = 1e30f;
        if (meets_floor(studio, view, dir, end))
          behind = studio.floor_light(
              view.eye + dir * end, dir,
              reflection.at((float(x) + 0.5f) / float(width), (float(y) + 0.5f) / float(height)), behind);
        if (p.cover > 0.5f) end = std::min(end, p.depth / dot(dir, view.forward));
        const Vec3f light = march.through(view.eye, dir, end, jitter_of(x, size_t(y)), seen);
        behind = behind * (1 - p.cover) + p.solid * p.cover;
        const Vec3f color = (light + (behind + Vec3f{p.inner, p.inner, p.inner}) * seen + p.glass) * exposure;
        const size_t i = 3 * (size_t(y) * size_t(width) + size_t(x));
        for (int c = 0; c < 3; ++c) image.rgb[i + size_t(c)] = color[c];
      }
  });
  if (!whole) return {};
  add_halo(image, float(look.halo));
  image.contrast = float(look.contrast);
  return image;
}

}  // namespace pour
