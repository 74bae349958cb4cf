#include "trace/given_back.h"

#include <algorithm>
#include <cmath>

#include "base/parallel.h"

namespace pour {
namespace {

constexpr int rows = 180;          // of the coarse picture in which light is spread
constexpr float far = 0.025f;      // standard deviation of where it goes, as a share of the picture's height
constexpr float nothing = 1e-12f;  // a weight that nothing was added to

/// Sums over the boxes of a coarser lattice.
template <class T>
std::vector<T> summed(const std::vector<T>& fine, int width, int height, int step) {
  const int w = (width + step - 1) / step, h = (height + step - 1) / step;
  std::vector<T> out(size_t(w) * size_t(h), T{});
  parallel_for(size_t(h), [&](size_t j) {
    for (int y = int(j) * step; y < std::min(height, int(j + 1) * step); ++y)
      for (int x = 0; x < width; ++x)
        out[j * size_t(w) + size_t(x / step)] += fine[size_t(y) * size_t(width) + size_t(x)];
  });
  return out;
}

/// Along rows or columns, with nothing beyond the border: as much goes from one place to another as back.
template <class T>
std::vector<T> spread(const std::vector<T>& from, int w, int h, float sigma, bool columns) {
  const int reach = int(std::ceil(3 * sigma));
  std::vector<float> share;
  for (int i = 0; i <= reach; ++i) share.push_back(std::exp(-0.5f * float(i * i) / (sigma * sigma)));
  std::vector<T> out(from.size(), T{});
  parallel_for(size_t(h), [&](size_t row) {
    const int y = int(row);
    for (int x = 0; x < w; ++x)
      for (int i = -reach; i <= reach; ++i) {
        const int xx = columns ? x : x + i, yy = columns ? y + i : y;
        if (xx < 0 || yy < 0 || xx >= w || yy >= h) continue;
        out[row * size_t(w) + size_t(x)] +=
            from[size_t(yy) * size_t(w) + size_t(xx)] * share[size_t(std::abs(i))];
      }
  });
  return out;
}

template <class T>
std::vector<T> spread(const std::vector<T>& from, int w, int h, float sigma) {
  return spread(spread(from, w, h, sigma, false), w, h, sigma, true);
}

}  // namespace

std::vector<Vec3f> given_back(const std::vector<Vec3f>& cut, const std::vector<float>& weight, int width,
                              int height) {
  std::vector<Vec3f> out(cut.size());
  if (std::all_of(cut.begin(), cut.end(), [](const Vec3f& v) { return v.x + v.y + v.z <= 0; })) return out;
  const int step = std::max(1, height / rows);
  const int w = (width + step - 1) / step, h = (height + step - 1) / step;
  const float sigma = std::max(0.5f, far * float(height) / float(step));
  const std::vector<float> around = spread(summed(weight, width, height, step), w, h, sigma);
  std::vector<Vec3f> coarse = summed(cut, width, height, step);
  for (size_t i = 0; i < coarse.size(); ++i)
    coarse[i] = around[i] > nothing ? coarse[i] / around[i] : Vec3f{};
  coarse = spread(coarse, w, h, sigma);
  parallel_for(size_t(height), [&](size_t y) {
    for (int x = 0; x < width; ++x) {
      const size_t i = y * size_t(width) + size_t(x);
      out[i] = coarse[y / size_t(step) * size_t(w) + size_t(x / step)] * weight[i];
    }
  });
  return out;
}

}  // namespace pour
