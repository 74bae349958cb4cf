#include "trace/denoise.h"

#include <cmath>

#include "base/parallel.h"

namespace pour {
namespace {

constexpr int reach = 8, patch = 3;    // pixels to either side
constexpr float sharp_color = 1.0f;    // how far colours may differ, of what grain explains
constexpr float sharp_feature = 1.0f;  // the same of features
constexpr int band = 16;               // rows at a time
constexpr float least_color = 0.02f;
constexpr float lonely = 6;  // neighbours, by weight, of a pixel that is like few others

float square_of(float x) { return x * x; }

/// Light divided by the surface colour.
struct Layer {
  std::vector<Vec3f> half[2];
  std::vector<Vec3f> variance;  // of half a picture
};

Vec3f bounded(const Vec3f& c) { return max(c, Vec3f{least_color, least_color, least_color}); }

/// Light divided by the surface colour.
Vec3f divided(const Vec3f& v, const Vec3f& color) {
  const Vec3f c = bounded(color);
  return {v.x / c.x, v.y / c.y, v.z / c.z};
}

/// Of a band of pixels: weighted sums of their neighbours for each picture, and total weights.
struct Sums {
  Sums(size_t pixels, size_t pictures) : value(pixels * pictures), weight(pixels, 0.f), pictures(pictures) {}
  Vec3f* of(size_t pixel) { return value.data() + pixel * pictures; }
  std::vector<Vec3f> value;
  std::vector<float> weight;
  size_t pictures;
};

class Filter {
 public:
  explicit Filter(const Grainy& g) : g_(g), features_(g.features), w_(g.width), h_(g.height) {
    clear_features();
    const size_t n = g.features.size();
    for (int k = 0; k < 2; ++k) {
      light_.half[k].resize(n);
      for (size_t i = 0; i < n; ++i) light_.half[k][i] = divided(g.half[k][i], features_[i].color);
    }
    set_variance();
  }

  /// Of the picture itself, the mean of both halves.
  Image run() {
    std::vector<Vec3f> mean(g_.features.size());
    for (size_t i = 0; i < mean.size(); ++i) mean[i] = (g_.half[0][i] + g_.half[1][i]) * 0.5f;
    return std::move(run({mean}).front());
  }
  /// Of several, all by the weights of the picture.
  std::vector<Image> run(std::vector<std::vector<Vec3f>> pictures) {
    pictures_ = std::move(pictures);
    for (std::vector<Vec3f>& picture : pictures_)
      for (size_t i = 0; i < picture.size(); ++i) picture[i] = divided(picture[i], features_[i].color);
    std::vector<Image> out(pictures_.size(), Image{w_, h_, std::vector<float>(3 * g_.features.size())});
    parallel_for(
        size_t((h_ + band - 1) / band),
        [&](size_t b) { filter_band(int(b) * band, std::min(h_, int(b) * band + band), out); }, 1);
    return out;
  }

 private:
  size_t at(int x, int y) const {
    return size_t(std::clamp(y, 0, h_ - 1)) * size_t(w_) + size_t(std::clamp(x, 0, w_ - 1));
  }

  /// What is met by chance, as smoke is, is grainy itself: it becomes the mean over neighbours, as far as
  /// that is all that they differ by.
  void clear_features() {
    const std::vector<Grainy::Feature> from = features_;
    constexpr int r = 4, side = 2 * r + 1;
    parallel_for(size_t(h_), [&](size_t row) {
      for (int x = 0, y = int(row); x < w_; ++x) {
        Grainy::Feature sum{};
        float weights = 0, squares = 0;
        const Grainy::Feature& own = from[at(x, y)];
        if (own.color_variance + own.normal_variance + own.depth_variance < 1e-7f) continue;
        for (int k = 0; k < side * side; ++k) {
          const Grainy::Feature& f = from[at(x + k % side - r, y + k / side - r)];
          const Vec3f c = own.color - f.color, n = own.normal - f.normal;
          const auto one = [](float d, float va, float vb) {
            return std::max(0.f, d - 2 * (va + vb)) / (va + vb + 1e-6f);
          };
          const float apart = one(dot(c, c), own.color_variance, f.color_variance) +
                              one(dot(n, n), own.normal_variance, f.normal_variance) +
                              one(square_of(own.depth - f.depth), own.depth_variance, f.depth_variance);
          const float w = std::exp(-apart);
          sum.color += f.color * w, sum.normal += f.normal * w, sum.depth += f.depth * w;
          sum.color_variance += f.color_variance * w, sum.normal_variance += f.normal_variance * w;
          sum.depth_variance += f.depth_variance * w;
          weights += w, squares += w * w;
        }
        // The variance of a mean of so many.
        const float few = squares / (weights * weights) / weights;
        features_[at(x, y)] = {sum.color / weights,      sum.normal / weights,      sum.depth / weights,
                               sum.color_variance * few, sum.normal_variance * few, sum.depth_variance * few};
      }
    });
  }

  /// Of a pixel and of neighbours that are alike, for that of one alone is grainy itself.
  void set_variance() {
    light_.variance.resize(g_.features.size());
    parallel_for(size_t(h_), [&](size_t row) {
      for (int x = 0, y = int(row); x < w_; ++x) {
        Vec3f sum{};
        float count = 0;
        constexpr int r = 3, side = 2 * r + 1;
        for (int k = 0; k < side * side; ++k) {
          const size_t q = at(x + k % side - r, y + k / side - r);
          if (unlike(at(x, y), q) > 1) continue;
          const Vec3f c = bounded(features_[q].color);
          for (int a = 0; a < 3; ++a) sum[a] += 2 * g_.variance[q][a] / (c[a] * c[a]);
          ++count;
        }
        light_.variance[at(x, y)] = sum / std::max(1.f, count);
      }
    });
  }

  /// How much the colour of a neighbour differs from that of a pixel beyond its grain, in the half in which
  /// it does so more: what a single path brought to the neighbour alone is not spread.
  float apart(size_t p, size_t q) const {
    float sum[2] = {};
    for (int c = 0; c < 3; ++c) {
      const float v = light_.variance[p][c], grain = v + std::min(v, light_.variance[q][c]);
      for (int k = 0; k < 2; ++k)
        sum[k] += (square_of(light_.half[k][p][c] - light_.half[k][q][c]) - grain) /
                  (1e-5f + 2 * square_of(sharp_color) * v);
    }
    return std::max(sum[0], sum[1]) / 3;
  }

  /// The feature distance.
  float unlike(size_t p, size_t q) const {
    const Grainy::Feature &a = features_[p], &b = features_[q];
    const auto one = [](float squared_apart, float va, float vb, float least) {
      return (squared_apart - (va + std::min(va, vb))) / (square_of(sharp_feature) * std::max(least, va + vb));
    };
    const Vec3f n = a.normal - b.normal, c = a.color - b.color;
    const float far = std::max(a.depth, b.depth);
    return std::max(
        {one(square_of(a.depth - b.depth), a.depth_variance, b.depth_variance, square_of(0.015f * far) + 1e-9f),
         one(dot(n, n), a.normal_variance, b.normal_variance, 0.05f),
         one(dot(c, c), a.color_variance, b.color_variance, 0.005f)});
  }

  void filter_band(int first, int last, std::vector<Image>& out) const {
    const int rows = last - first, wide = w_ + 2 * patch, high = rows + 2 * patch;
    std::vector<float> apart_here(size_t(wide) * size_t(high)), column(static_cast<size_t>(wide));
    Sums sums(size_t(w_) * size_t(rows), pictures_.size());
    for (int dy = -reach; dy <= reach; ++dy)
      for (int dx = -reach; dx <= reach; ++dx) {
        for (int y = 0; y < high; ++y)
          for (int x = 0; x < wide; ++x) {
            const int px = x - patch, py = first + y - patch;
            apart_here[size_t(y) * size_t(wide) + size_t(x)] = apart(at(px, py), at(px + dx, py + dy));
          }
        weigh(apart_here, column, first, rows, dx, dy, sums);
      }
    std::vector<Vec3f> close(pictures_.size());
    for (int y = 0; y < rows; ++y)
      for (int x = 0; x < w_; ++x) {
        const size_t n = size_t(y) * size_t(w_) + size_t(x), i = at(x, first + y);
        const float weight = sums.weight[n];
        if (weight < lonely) close_by(x, first + y, close);
        for (size_t k = 0; k < pictures_.size(); ++k) {
          Vec3f light = sums.of(n)[k] / std::max(1e-6f, weight);
          if (weight < lonely) light = light + (close[k] - light) * (1 - (weight - 1) / (lonely - 1));
          const Vec3f v = light * bounded(features_[i].color);
          for (int c = 0; c < 3; ++c) out[k].rgb[3 * i + size_t(c)] = v[c];
        }
      }
  }

  /// For pixels that are like no other, as along edges of a pixel's width, where patches never match: of the
  /// nearest neighbours alone, by features and by what both pixels' grain explains.
  void close_by(int x, int y, std::vector<Vec3f>& out) const {
    constexpr int r = 3, side = 2 * r + 1;
    const size_t p = at(x, y);
    std::fill(out.begin(), out.end(), Vec3f{});
    float weights = 0;
    for (int k = 0; k < side * side; ++k) {
      const int qx = x + k % side - r, qy = y + k / side - r;
      if (qx < 0 || qy < 0 || qx >= w_ || qy >= h_) continue;
      const size_t q = at(qx, qy);
      float apart = 0;
      for (int c = 0; c < 3; ++c) {
        const float both = light_.variance[p][c] + light_.variance[q][c];
        const float d =
            light_.half[0][p][c] + light_.half[1][p][c] - light_.half[0][q][c] - light_.half[1][q][c];
        apart += std::max(0.f, d * d / 4 - both) / (1e-5f + 4 * both) / 3;
      }
      const float w = std::exp(-std::max(apart, unlike(p, q)));
      for (size_t n = 0; n < out.size(); ++n) out[n] += pictures_[n][q] * w;
      weights += w;
    }
    for (Vec3f& v : out) v = v / std::max(1e-6f, weights);
  }

  /// Adds one neighbour of each pixel, weighed by how alike the patches around both are.
  void weigh(const std::vector<float>& apart, std::vector<float>& column, int first, int rows, int dx, int dy,
             Sums& sums) const {
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
        const size_t n = size_t(y) * size_t(w_) + size_t(x);
        sums.weight[n] += w;
        for (size_t k = 0; k < pictures_.size(); ++k) sums.of(n)[k] += pictures_[k][q] * w;
      }
    }
  }

  std::vector<std::vector<Vec3f>> pictures_;  // that are filtered, without the colour of what is lit
  const Grainy& g_;
  std::vector<Grainy::Feature> features_;
  int w_, h_;
  Layer light_;
};

}  // namespace

Image denoised(const Grainy& g) { return Filter(g).run(); }

std::vector<Image> denoised_alike(const Grainy& g, std::vector<std::vector<Vec3f>> pictures) {
  return Filter(g).run(std::move(pictures));
}

}  // namespace pour
