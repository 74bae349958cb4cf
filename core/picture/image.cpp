#include "picture/image.h"

#include <cmath>

#include "base/parallel.h"
#include "base/srgb.h"

namespace pour {
namespace {

constexpr float grey = 0.18f;  // middle grey, which contrast leaves as it is

/// As displays are sent it: contrast, highlights rolled off, the curve of sRGB; 0 to 1.
float displayed(float v, float contrast) {
  v = std::max(v, 0.f);
  if (contrast != 1) v = grey * std::pow(v / grey, contrast);
  if (v > 0.8f) v = 0.8f + 0.2f * (1 - std::exp(-(v - 0.8f) / 0.2f));
  return std::clamp(to_srgb(v), 0.f, 1.f);
}

/// From -1/2 to 1/2, the same at a place in every picture.
float dither_at(int x, size_t y) {
  uint32_t h = uint32_t(x) * 0x9e3779b1u ^ (uint32_t(y) * 0x85ebca77u + 0x2545f491u);
  h ^= h >> 15, h *= 0x2c1b3c6du, h ^= h >> 12;
  return float(h & 0xffff) / 65536 - 0.5f;
}

uint8_t dithered(float v, float dither) {
  return uint8_t(std::clamp(int(std::floor(v * 255 + 0.5f + dither)), 0, 255));
}

}  // namespace

std::vector<uint8_t> bytes_of(const Words& words) {
  const size_t each = words.alpha ? 4 : 3;
  std::vector<uint8_t> out(words.values.size());
  parallel_for(size_t(words.height), [&](size_t y) {
    for (int x = 0; x < words.width; ++x)
      for (size_t c = 0; c < each; ++c) {
        const size_t i = each * (y * size_t(words.width) + size_t(x)) + c;
        const float v = float(words.values[i]) / 65535;
        out[i] = c == 3 ? uint8_t(std::lround(v * 255)) : dithered(v, dither_at(x, y));
      }
  });
  return out;
}

std::vector<uint8_t> display_bytes(const Image& image) {
  std::vector<uint8_t> out(image.rgb.size());
  parallel_for(size_t(image.height), [&](size_t y) {
    for (int x = 0; x < image.width; ++x) {
      const float dither = dither_at(x, y);
      for (int c = 0; c < 3; ++c) {
        const size_t i = 3 * (y * size_t(image.width) + size_t(x)) + size_t(c);
        out[i] = dithered(displayed(image.rgb[i], image.contrast), dither);
      }
    }
  });
  return out;
}

namespace {

/// Straight colours.
Image without_alpha(const Image& image) {
  Image out = image;
  for (size_t i = 0; i < image.alpha.size(); ++i)
    for (size_t c = 0; c < 3; ++c) out.rgb[3 * i + c] /= std::max(image.alpha[i], 1e-4f);
  out.alpha.clear();
  return out;
}

}  // namespace

std::vector<uint8_t> display_bytes_with_alpha(const Image& image) {
  const std::vector<uint8_t> colors = display_bytes(without_alpha(image));
  std::vector<uint8_t> out;
  for (size_t i = 0; i < image.rgb.size() / 3; ++i) {
    out.insert(out.end(), &colors[3 * i], &colors[3 * i] + 3);
    out.push_back(image.alpha.empty() ? 255
                                      : uint8_t(std::lround(std::clamp(image.alpha[i], 0.f, 1.f) * 255)));
  }
  return out;
}

std::vector<uint16_t> display_words(const Image& image) {
  const Image colors = without_alpha(image);
  std::vector<uint16_t> out;
  for (size_t i = 0; i < colors.rgb.size() / 3; ++i) {
    for (size_t c = 0; c < 3; ++c)
      out.push_back(uint16_t(std::lround(displayed(colors.rgb[3 * i + c], image.contrast) * 65535)));
    if (!image.alpha.empty())
      out.push_back(uint16_t(std::lround(std::clamp(image.alpha[i], 0.f, 1.f) * 65535)));
  }
  return out;
}

namespace {

/// Blurs along rows or, transposed, along columns. Repeats the border.
Image blurred(const Image& from, float sigma, bool columns) {
  const int reach = int(std::ceil(2.5f * sigma));
  std::vector<float> weight(size_t(reach) + 1);
  float sum = 0;
  for (int i = 0; i <= reach; ++i) {
    weight[size_t(i)] = std::exp(-0.5f * float(i * i) / (sigma * sigma));
    sum += (i ? 2 : 1) * weight[size_t(i)];
  }
  Image out = from;
  parallel_for(size_t(from.height), [&](size_t row) {
    const int y = int(row);
    for (int x = 0; x < from.width; ++x) {
      Vec3f v{};
      for (int i = -reach; i <= reach; ++i)
        v += (columns ? from.at(x, std::clamp(y + i, 0, from.height - 1))
                      : from.at(std::clamp(x + i, 0, from.width - 1), y)) *
             weight[size_t(std::abs(i))];
      for (int c = 0; c < 3; ++c)
        out.rgb[3 * (row * size_t(from.width) + size_t(x)) + size_t(c)] = v[c] / sum;
    }
  });
  return out;
}

}  // namespace

void add_halo(Image& image, float amount) {
  if (amount <= 0 || image.rgb.empty()) return;
  const int step = std::max(1, image.height / halo_rows);
  Image small{(image.width + step - 1) / step, (image.height + step - 1) / step, {}};
  small.rgb.resize(3 * size_t(small.width) * size_t(small.height));
  parallel_for(size_t(small.height), [&](size_t row) {
    for (int x = 0; x < small.width; ++x) {
      Vec3f sum{};
      for (int j = 0; j < step; ++j)
        for (int i = 0; i < step; ++i)
          sum += image.at(std::min(x * step + i, image.width - 1),
                          std::min(int(row) * step + j, image.height - 1));
      for (int c = 0; c < 3; ++c)
        small.rgb[3 * (row * size_t(small.width) + size_t(x)) + size_t(c)] = sum[c] / float(step * step);
    }
  });
  // A row of the small picture is this many of the nominal ones.
  const float rows = float(image.height) / float(step) / halo_rows;
  const float second = std::sqrt(halo_width[1] * halo_width[1] - halo_width[0] * halo_width[0]);
  const Image near = blurred(blurred(small, halo_width[0] * rows, false), halo_width[0] * rows, true);
  const Image far = blurred(blurred(near, second * rows, false), second * rows, true);
  parallel_for(size_t(image.height), [&](size_t row) {
    for (int x = 0; x < image.width; ++x) {
      const float u = (float(x) + 0.5f) / float(step) - 0.5f, v = (float(row) + 0.5f) / float(step) - 0.5f;
      const int x0 = int(std::floor(u)), y0 = int(std::floor(v));
      Vec3f spread{};
      for (int k = 0; k < 4; ++k) {
        const int xx = std::clamp(x0 + (k & 1), 0, small.width - 1),
                  yy = std::clamp(y0 + (k >> 1), 0, small.height - 1);
        const float w =
            ((k & 1) ? u - float(x0) : 1 - u + float(x0)) * ((k >> 1) ? v - float(y0) : 1 - v + float(y0));
        spread += (near.at(xx, yy) * halo_share[0] + far.at(xx, yy) * halo_share[1]) * w;
      }
      for (int c = 0; c < 3; ++c) {
        float& value = image.rgb[3 * (row * size_t(image.width) + size_t(x)) + size_t(c)];
        value += amount * (spread[c] - value);
      }
    }
  });
}

}  // namespace pour
