#include "trace/denoise.h"

#include <cmath>

#include "base/parallel.h"

namespace pour {
namespace {

constexpr int reach = 8, patch = 3;      // pixels to either side
constexpr float sharp_color = 0.55f;     // how far colours may differ, of what grain explains
constexpr float sharp_feature = 0.6f;    // the same of features
constexpr int band = 16;                 // rows at a time
constexpr float least_color = 0.02f;

float squared(float x) { return x * x; }

/// A picture with its mean, and the variance of that mean, smoothed over a few pixels.
struct Layer {
  std::vector<Vec3f> half[2];
  std::vector<Vec3f> variance;
};

Vec3f bounded(const Vec3f& c) { return max(c, Vec3f{least_color, least_color, least_color}); }

class Filter {
 public:
  explicit Filter(const Grainy& g) : g_(g), w_(g.width), h_(g.height) {
    const size_t n = g.color.size();
    for (int k = 0; k < 2; ++k) {
      light_.half[k].resize(n);
      for (size_t i = 0; i < n; ++i)
        for (int c = 0; c < 3; ++c) light_.half[k][i][c] = g.half[k][i][c] / bounded(g.color[i])[c];
    }
    light_.variance = variance();
  }

  Image run() const {
    Image out{w_, h_, std::vector<float>(3 * g_.color.size())};
    parallel_for(
        size_t((h_ + band - 1) / band), [&](size_t b) { filter_band(int(b) * band, std::min(h_, int(b) * band + band), out); },
        1);
    return out;
  }

 private:
  size_t at(int x, int y) const {
    return size_t(std::clamp(y, 0, h_ - 1)) * size_t(w_) + size_t(std::clamp(x, 0, w_ - 1));
  }

  std::vector<Vec3f> variance() const {
    std::vector<Vec3f> out(g_.color.size());
    parallel_for(size_t(h_), [&](size_t row) {
      const int y = int(row);
      for (int x = 0; x < w_; ++x) {
        Vec3f sum{};
        constexpr int r = 3;
        for (int j = -r; j <= r; ++j)
          for (int i = -r; i <= r; ++i) {
            const Vec3f d = (light_.half[0][at(x + i, y + j)] - light_.half[1][at(x + i, y + j)]) * 0.5f;
            // A pixel that one path lit up says little of its neighbours.
            for (int c = 0; c < 3; ++c) sum[c] += std::min(d[c] * d[c], 4.f);
          }
        out[at(x, y)] = sum / float((2 * r + 1) * (2 * r + 1));
      }
    });
    return out;
  }

  /// How much the colours of two pixels differ beyond their grain, in one half.
  float apart(int k, size_t p, size_t q) const {
    float sum = 0;
    for (int c = 0; c < 3; ++c) {
      const float vp = 2 * light_.variance[p][c], vq = 2 * light_.variance[q][c];
      const float d = squared(light_.half[k][p][c] - light_.half[k][q][c]) - (vp + std::min(vp, vq));
      sum += d / (1e-5f + squared(sharp_color) * (vp + vq));
    }
    return sum / 3;
  }

  /// The same of what is met there.
  float unlike(size_t p, size_t q) const {
    const float depth = squared(g_.depth[p] - g_.depth[q]) /
                        squared(0.012f * std::max(1e-6f, std::max(g_.depth[p], g_.depth[q])));
    const Vec3f n = g_.normal[p] - g_.normal[q], c = g_.color[p] - g_.color[q];
    return std::max({depth, dot(n, n) / 0.03f, dot(c, c) / 0.004f}) / (4 * squared(sharp_feature));
  }

  void filter_band(int first, int last, Image& out) const {
    const int rows = last - first, wide = w_ + 2 * patch, high = rows + 2 * patch;
    std::vector<float> apart_[2], column(static_cast<size_t>(wide));
    for (auto& a : apart_) a.resize(size_t(wide) * size_t(high));
    struct Sum {
      Vec3f value[2]{};
      float weight[2]{};
    };
    std::vector<Sum> sums(size_t(w_) * size_t(rows));
    for (int dy = -reach; dy <= reach; ++dy)
      for (int dx = -reach; dx <= reach; ++dx) {
        for (int y = 0; y < high; ++y)
          for (int x = 0; x < wide; ++x) {
            const int px = x - patch, py = first + y - patch;
            const size_t p = at(px, py), q = at(px + dx, py + dy);
            for (int k = 0; k < 2; ++k) apart_[k][size_t(y) * size_t(wide) + size_t(x)] = apart(k, p, q);
          }
        for (int k = 0; k < 2; ++k) weigh(apart_[k], column, k, first, rows, dx, dy, sums);
      }
    for (int y = 0; y < rows; ++y)
      for (int x = 0; x < w_; ++x) {
        const Sum& s = sums[size_t(y) * size_t(w_) + size_t(x)];
        const size_t i = at(x, first + y);
        const Vec3f v = (s.value[0] / std::max(1e-6f, s.weight[0]) + s.value[1] / std::max(1e-6f, s.weight[1])) *
                        0.5f * bounded(g_.color[i]);
        for (int c = 0; c < 3; ++c) out.rgb[3 * i + size_t(c)] = v[c];
      }
  }

  /// Adds one neighbour of each pixel, as alike as the patches around both are in half `k`, from the other half.
  template <class Sums>
  void weigh(const std::vector<float>& apart, std::vector<float>& column, int k, int first, int rows, int dx,
             int dy, Sums& sums) const {
    const size_t wide = size_t(w_) + 2 * patch;
    std::fill(column.begin(), column.end(), 0.f);
    for (int y = 0; y < rows; ++y) {
      for (size_t x = 0; x < wide; ++x) {
        column[x] = 0;
        for (int j = 0; j <= 2 * patch; ++j) column[x] += apart[size_t(y + j) * wide + x];
      }
      for (int x = 0; x < w_; ++x) {
        const int qx = x + dx, qy = first + y + dy;
        if (qx < 0 || qy < 0 || qx >= w_ || qy >= h_) continue;
        float d = 0;
        for (int i = 0; i <= 2 * patch; ++i) d += column[size_t(x + i)];
        d = std::max(0.f, d / float((2 * patch + 1) * (2 * patch + 1)));
        const size_t p = at(x, first + y), q = at(qx, qy);
        const float w = std::exp(-std::max(d, unlike(p, q)));
        if (w < 1e-4f) continue;
        auto& s = sums[size_t(y) * size_t(w_) + size_t(x)];
        s.value[1 - k] += light_.half[1 - k][q] * w, s.weight[1 - k] += w;
      }
    }
  }

  const Grainy& g_;
  int w_, h_;
  Layer light_;
};

}  // namespace

Image denoised(const Grainy& g) { return Filter(g).run(); }

}  // namespace pour
