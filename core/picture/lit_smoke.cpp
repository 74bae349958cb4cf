#include "picture/lit_smoke.h"

#include <cmath>

#include "base/parallel.h"
#include "picture/smoke_look.h"
#include "picture/studio.h"
#include "shot/compare.h"

namespace pour {

std::vector<float> transmittance(const std::vector<float>& extinction, const Vec3i& n, float h,
                                 const Vec3f& toward) {
  std::vector<float> out(extinction.size(), 1.f);
  int axis = 0;
  for (int a = 1; a < 3; ++a)
    if (std::abs(toward[a]) > std::abs(toward[axis])) axis = a;
  const int u = (axis + 1) % 3, v = (axis + 2) % 3;
  const size_t stride[3] = {1, size_t(n.x), size_t(n.x) * size_t(n.y)};
  const int step = toward[axis] > 0 ? 1 : -1;  // towards the light
  // One slice nearer to the light the ray is off by this much, in cells, after this length.
  const float du = toward[u] / std::abs(toward[axis]), dv = toward[v] / std::abs(toward[axis]);
  const float ds = h / std::abs(toward[axis]);
  const int count = n[axis];
  for (int i = 1; i < count; ++i) {
    const int slice = step > 0 ? count - 1 - i : i, lit = slice + step;
    parallel_for(size_t(n[v]), [&](size_t k) {
      for (int j = 0; j < n[u]; ++j) {
        const float x = float(j) + du, y = float(k) + dv;
        const int x0 = int(std::floor(x)), y0 = int(std::floor(y));
        const float fx = x - float(x0), fy = y - float(y0);
        float t = 0, e = 0;
        for (int c = 0; c < 4; ++c) {
          const int xx = x0 + (c & 1), yy = y0 + (c >> 1);
          const float w = ((c & 1) ? fx : 1 - fx) * ((c >> 1) ? fy : 1 - fy);
          if (xx < 0 || yy < 0 || xx >= n[u] || yy >= n[v]) {
            t += w;  // the ray comes in through the side of the box
            continue;
          }
          const size_t from = stride[axis] * size_t(lit) + stride[u] * size_t(xx) + stride[v] * size_t(yy);
          t += w * out[from], e += w * extinction[from];
        }
        const size_t here = stride[axis] * size_t(slice) + stride[u] * size_t(j) + stride[v] * k;
        out[here] = t * std::exp(-0.5f * (e + extinction[here]) * ds);
      }
    });
  }
  return out;
}

namespace {

const Vec3f ambient{0.10f, 0.11f, 0.12f};  // light of the room

}  // namespace

Vec3f tint_of(const Color& shade) {
  const double most = std::max({shade.r, shade.g, shade.b, 1e-3});
  const auto one = [&](double v) { return float(1 - std::log(std::max(v / most, 0.02))); };
  return {one(shade.r), one(shade.g), one(shade.b)};
}

Look lighting_of(const Look& l) {
  Look out = only({Touches::light}, l);
  out.lights.clear();
  for (const Light& light : l.lights) {
    if (light.kind == LightKind::room) continue;
    out.lights.push_back(only({Touches::light}, light));
    out.lights.back().color = color_of(light), out.lights.back().temperature = 0;
  }
  return out;
}

namespace {

/// Smoke with its place, but without light and extinction yet.
LitSmoke placed(const SmokeWalls::Sealed& sealed) {
  LitSmoke lit;
  lit.pose = sealed.smoke.pose;
  lit.walls = sealed.mask;
  lit.cell_size = float(sealed.smoke.cell_size);
  lit.low = to<float>(sealed.smoke.low) * lit.cell_size;
  lit.count = sealed.smoke.count;
  return lit;
}

}  // namespace

LitSmoke glowing_smoke(SmokeVolume volume, const Look& look, const SmokeWalls& walls, double time) {
  const SmokeWalls::Sealed sealed = walls.seal(std::move(volume), time);
  LitSmoke lit = placed(sealed);
  lit.rgba.resize(4 * sealed.smoke.density.size());
  for (size_t i = 0; i < sealed.smoke.density.size(); ++i) {
    for (size_t c = 0; c < 3; ++c) lit.rgba[4 * i + c] = sealed.smoke.color[3 * i + c];
    lit.rgba[4 * i + 3] = float(look.thickness) * sealed.smoke.density[i];
  }
  return lit;
}

LitFrame light_frame(std::vector<SmokeVolume> frame, const Look& look, const SmokeWalls& walls, double time) {
  LitFrame out;
  for (SmokeVolume& v : frame) out.push_back(light_smoke(std::move(v), look, walls, time));
  return out;
}

LitSmoke light_smoke(SmokeVolume volume, const Look& given, const SmokeWalls& walls, double time) {
  const Look look = lighting_of(given);
  color_smoke(volume, look);
  const SmokeWalls::Sealed sealed = walls.seal(std::move(volume), time);
  const SmokeVolume& smoke = sealed.smoke;
  LitSmoke lit = placed(sealed);
  const size_t n = smoke.density.size();
  if (!n) return lit;
  std::vector<float> extinction(n);
  for (size_t i = 0; i < n; ++i)
    extinction[i] =
        float(look.thickness) * smoke.density[i] * (sealed.coverage.empty() ? 1 : sealed.coverage[i]);
  const auto own = [&](const Vec3f& v) { return to<float>(lit.pose.turn.inverse(to<double>(v))); };
  struct Reach {
    std::vector<float> part;
    Vec3f color;
  };
  std::vector<Reach> lights;
  for (const StudioLight& l : studio_lights(look))
    lights.push_back({transmittance(extinction, smoke.count, lit.cell_size, own(l.toward)), l.color});
  const std::vector<float> sky = transmittance(extinction, smoke.count, lit.cell_size, own({0, 1, 0}));
  lit.tint = tint_of(look.shade);
  const bool grey = lit.tint == Vec3f{1, 1, 1};
  const auto tinted = [&](float t) {
    return grey ? Vec3f{t, t, t}
                : Vec3f{std::pow(t, lit.tint.x), std::pow(t, lit.tint.y), std::pow(t, lit.tint.z)};
  };
  lit.rgba.resize(4 * n);
  parallel_for(n / 256 + 1, [&](size_t chunk) {
    for (size_t i = chunk * 256; i < std::min(n, (chunk + 1) * 256); ++i) {
      if (smoke.density[i] <= 0) continue;
      const Vec3f albedo{smoke.color[3 * i], smoke.color[3 * i + 1], smoke.color[3 * i + 2]};
      const Vec3f twice = albedo * albedo;
      Vec3f sum = albedo * ambient * (0.35f + 0.65f * sky[i]);
      for (const Reach& l : lights) {
        const Vec3f t = tinted(l.part[i]);
        // Each octave reaches deeper and is weaker: light that went astray on its way.
        const auto root = [](const Vec3f& v) {
          return Vec3f{std::sqrt(std::sqrt(v.x)), std::sqrt(std::sqrt(v.y)), std::sqrt(std::sqrt(v.z))};
        };
        const Vec3f deep = root(t), deeper = root(deep);
        sum += l.color *
               (albedo * t + (twice * deep * 0.6f + twice * albedo * deeper * 0.45f) * float(look.glow));
      }
      // The light removed by the shadow tint is absorbed, not scattered.
      for (int c = 0; c < 3; ++c) lit.rgba[4 * i + size_t(c)] = sum[c] / lit.tint[c];
      lit.rgba[4 * i + 3] = float(look.thickness) * smoke.density[i];
    }
  });
  return lit;
}

}  // namespace pour
